/** Words of line-ups, a part of the catalogue in `en.ts`. */
export const lineUp = {
  title: "Line-up",
  why: "Put them in order from the best to the worst, by code and by eye. Several judges each make their own; what the others said is shown when you have said yours.",
  judge: "Who judges",
  me: "you",
  pool: "Tap them from the best to the worst",
  poolEmpty: "All stand in the order.",
  tied: "as good as the last one",
  rest: (n: number) =>
    n === 2
      ? "both others are alike"
      : n === 1
        ? "this one is the worst"
        : `the other ${n} are alike`,
  order: "The order",
  orderNone: "Nothing stands in it yet.",
  best: "best",
  worst: "worst",
  hint: "Drag a code, or choose it and use the arrow keys: half a step joins its neighbours, the next one passes them.",
  up: (code: string) => `${code} half a step up`,
  down: (code: string) => `${code} half a step down`,
  out: (code: string) => `take ${code} out`,
  place: (code: string, first: number, last: number, of: number) =>
    first === last
      ? `${code}, place ${first} of ${of}`
      : `${code}, places ${first} to ${last} of ${of}, tied`,
  pictures: "by their last pictures",
  save: "That is my order",
  again: "line them up again",
  kept: "Your order is kept.",
  unsent:
    "Your order is kept on this device; it is sent when the server answers.",
  judges: (names: string[]) =>
    names.length === 0
      ? "Nobody has lined them up yet."
      : `Lined up by ${names.join(", ")}.`,
  notJudged:
    "The place in the line-up is not among what this trial is judged by; add it under Ask, and it is analysed as a score.",
  said: "What the judges said",
  agreement: (judges: number, w: number, p: number) => {
    const how =
      p > 0.05
        ? "agree no better than lots would"
        : w >= 0.7
          ? "agree well"
          : "agree in part";
    const who = judges === 2 ? "Both judges" : `The ${judges} judges`;
    return `${who} ${how}: Kendall's W is ${w.toFixed(2)}, where 1 is the same order; orders drawn by lot reach that ${often(p)}.`;
  },
  mean: "mean place",
  unit: "Tray",
};

/** How often something came about by lot. */
function often(p: number): string {
  const inHundred = Math.round(100 * p);
  return inHundred < 1
    ? "fewer than 1 time in 100"
    : inHundred === 1
      ? "1 time in 100"
      : `${inHundred} times in 100`;
}
