import { expect, test } from "vitest";
import { sameClock } from "./zone";

test("zones are told apart by what their clocks show, and not by their names", () => {
  expect(sameClock("UTC", "Etc/UTC", 2026)).toBe(true);
  expect(sameClock("Europe/Vienna", "Europe/Berlin", 2026)).toBe(true);
  // In winter they agree, in summer they do not.
  expect(sameClock("Europe/London", "Etc/UTC", 2026)).toBe(false);
  expect(sameClock("Moon/Base", "UTC", 2026)).toBe(false);
  expect(sameClock("Moon/Base", "Moon/Base", 2026)).toBe(true);
});
