import { expect, it } from "vitest";
import { objectionTo } from "./objections";

const ec = { name: "EC", unit: "mS/cm", refused_below: 0, refused_above: 20 };

it("refuses what cannot be, asks about what is unusual, and takes the rest", () => {
  const cell = { asked_below: 0.5, asked_above: 2, previous: 1 };
  const said = (value: number) => objectionTo(value, ec, cell)?.kind ?? null;
  expect([0.5, 1, 2].map(said)).toEqual([null, null, null]);
  expect([0.49, 2.01, 20].map(said)).toEqual(["ask", "ask", "ask"]);
  expect([-0.1, 20.1, Number.NaN].map(said)).toEqual([
    "wrong",
    "wrong",
    "wrong",
  ]);
  expect(objectionTo(2.5, ec, cell)?.message).toBe(
    "2.5 is unusual after 1. Is it right? Enter again takes it.",
  );
  expect(objectionTo(21, ec, cell)?.message).toBe(
    "EC lies between 0 and 20 mS/cm; 21 cannot be right.",
  );
});

it("says nothing where the server has not told any limits yet", () => {
  expect(objectionTo(99, undefined, undefined)).toBeNull();
});
