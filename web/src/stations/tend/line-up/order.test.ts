import { expect, test } from "vitest";
import {
  moved,
  numbers,
  placedLast,
  stepped,
  takenOut,
  type Order,
} from "./order";

const order: Order = [["A"], ["B", "C"], ["D"]];

test("codes are placed one after the other, tied where they are as good", () => {
  const two = placedLast(placedLast([], "A", true), "B", false);
  expect(placedLast(two, "C", true)).toEqual([["A"], ["B", "C"]]);
  expect(placedLast(order, "A", false)).toEqual([["B", "C"], ["D"], ["A"]]);
  expect(takenOut(order, "D")).toEqual([["A"], ["B", "C"]]);
});

test("what is dropped goes before a place or into it", () => {
  expect(moved(order, "D", { before: 0 })).toEqual([["D"], ["A"], ["B", "C"]]);
  expect(moved(order, "A", { before: 2 })).toEqual([["B", "C"], ["A"], ["D"]]);
  expect(moved(order, "A", { before: 3 })).toEqual([["B", "C"], ["D"], ["A"]]);
  expect(moved(order, "A", { into: 1 })).toEqual([["B", "C", "A"], ["D"]]);
  expect(moved(order, "C", { into: 1 })).toEqual([["A"], ["B", "C"], ["D"]]);
});

test("half steps go through ties, all the way and back", () => {
  const up = [stepped(order, "D", true)];
  for (let i = 0; i < 3; i += 1) {
    up.push(stepped(up.at(-1) ?? [], "D", true));
  }
  expect(up).toEqual([
    [["A"], ["B", "C", "D"]],
    [["A"], ["D"], ["B", "C"]],
    [
      ["A", "D"],
      ["B", "C"],
    ],
    [["D"], ["A"], ["B", "C"]],
  ]);
  expect(stepped(up[3] ?? [], "D", true)).toEqual(up[3]);
  expect(stepped(order, "D", false)).toEqual(order);
  expect(stepped(order, "B", false)).toEqual([["A"], ["C"], ["B"], ["D"]]);
  expect(stepped(order, "?", true)).toBe(order);
});

test("places are numbered as in a race", () => {
  expect(numbers(order)).toEqual([
    [1, 1],
    [2, 3],
    [4, 4],
  ]);
});
