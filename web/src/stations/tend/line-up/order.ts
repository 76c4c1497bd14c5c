/** Codes from the best place to the worst; those in one place are tied. */
export type Order = string[][];

/** Where a code goes: before the place with this number, after all, or into a place. */
export type Goal = { before: number } | { into: number };

const without = (order: Order, code: string): Order =>
  order.map((tied) => tied.filter((c) => c !== code));

const tidy = (order: Order): Order => order.filter((tied) => tied.length > 0);

/** Takes a code out of the order. */
export const takenOut = (order: Order, code: string): Order =>
  tidy(without(order, code));

/** Puts a code behind all others, or into the last place where it is tied with it. */
export function placedLast(order: Order, code: string, tied: boolean): Order {
  const rest = takenOut(order, code);
  const last = rest.at(-1);
  return tied && last
    ? [...rest.slice(0, -1), [...last, code]]
    : [...rest, [code]];
}

/** Puts a code where it was dropped; places are counted as they stand before it is moved. */
export function moved(order: Order, code: string, goal: Goal): Order {
  const rest = without(order, code);
  if ("into" in goal) {
    return tidy(
      rest.map((tied, i) => (i === goal.into ? [...tied, code] : tied)),
    );
  }
  return tidy([
    ...rest.slice(0, goal.before),
    [code],
    ...rest.slice(goal.before),
  ]);
}

/** Half a step up or down: alone it joins its neighbours, among others it leaves them. */
export function stepped(order: Order, code: string, up: boolean): Order {
  const at = order.findIndex((tied) => tied.includes(code));
  const tied = order[at];
  if (!tied) {
    return order;
  }
  if (tied.length > 1) {
    return moved(order, code, { before: up ? at : at + 1 });
  }
  const next = up ? at - 1 : at + 1;
  return next < 0 || next >= order.length
    ? order
    : moved(order, code, { into: next });
}

/** First and last number of each place: 1, 2 to 3, 4. */
export function numbers(order: Order): [number, number][] {
  let before = 0;
  return order.map((tied) => {
    const first = before + 1;
    before += tied.length;
    return [first, before];
  });
}
