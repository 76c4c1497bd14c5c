import { expect, test } from "vitest";
import { grams, mass, massIn } from "./mass";

test("weights go over and back", () => {
  expect(mass(412.6, "g")).toBe("412.6 g");
  expect(mass(412.6, "kg")).toBe("0.4126 kg");
  expect(mass(453.59237, "lb")).toBe("1.000 lb");
  expect(grams(1, "oz")).toBe(28.35);
  expect(grams(0.4126, "kg")).toBe(412.6);
  for (const unit of ["g", "kg", "oz", "lb"] as const) {
    // What is shown and typed again lies within the last digit of a scale that shows tenths of a gram, or near it.
    expect(Math.abs(grams(Number(massIn(288, unit)), unit) - 288)).toBeLessThan(
      0.25,
    );
  }
});
