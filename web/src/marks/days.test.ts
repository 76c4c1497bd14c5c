import { expect, test } from "vitest";
import { daysIn } from "./days";

test("days are read as growers type them, and nothing else is", () => {
  expect(daysIn("7, 12")).toEqual([7, 12]);
  expect(daysIn(" 12 7;7 and 9 ")).toEqual([7, 9, 12]);
  expect(daysIn("")).toEqual([]);
  for (const wrong of ["7.5", "-3", "day 7", "0", "7-12"]) {
    expect(daysIn(wrong)).toBeNull();
  }
});
