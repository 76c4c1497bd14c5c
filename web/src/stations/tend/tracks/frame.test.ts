import { expect, test } from "vitest";
import { frameOf, pathOf, span, spread } from "./frame";

test("a flat line stands in the middle, and a single day has room", () => {
  const frame = frameOf(false, [3, 3], [6, 6]);
  expect(frame.x(3)).toBeCloseTo((frame.left + frame.right) / 2);
  expect(frame.y(6)).toBeCloseTo((frame.top + frame.bottom) / 2, -1);
});

test("lines run from point to point", () => {
  const frame = frameOf(false, [0, 10], [0, 10]);
  expect(pathOf(frame, [0, 10], [5, 5])).toMatch(
    /^M54\.0 \d+\.\dL750\.0 \d+\.\d$/,
  );
  expect(pathOf(frame, [], [])).toBe("");
});

test("the span of nothing is one that can be drawn", () => {
  expect(span([])).toEqual([0, 1]);
  expect(span([3, -1, 2])).toEqual([-1, 3]);
});

test("labels stand apart, in their order, and inside", () => {
  const moved = spread(
    [
      { y: 100, n: "a" },
      { y: 101, n: "b" },
      { y: 99, n: "c" },
      { y: 300, n: "d" },
    ],
    14,
    [10, 300],
  );
  expect(moved.map((l) => l.n)).toEqual(["c", "a", "b", "d"]);
  const gaps = moved.slice(1).map((l, i) => l.y - (moved[i]?.y ?? 0));
  expect(Math.min(...gaps)).toBeGreaterThanOrEqual(14);
  expect(Math.max(...moved.map((l) => l.y))).toBeLessThanOrEqual(300);
});
