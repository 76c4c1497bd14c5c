import { expect, it } from "vitest";
import { daysBetween } from "./date";

it("counts days on the calendar, over the change of the clocks and of the year", () => {
  expect(daysBetween("2026-03-28", "2026-03-30")).toBe(2);
  expect(daysBetween("2026-10-24", "2026-10-26")).toBe(2);
  expect(daysBetween("2025-12-31", "2026-01-01")).toBe(1);
  expect(daysBetween("2026-02-28", "2026-02-28")).toBe(0);
  expect(daysBetween("2026-03-02", "2026-02-28")).toBe(-2);
});
