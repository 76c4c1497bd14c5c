import { describe, expect, it } from "vitest";
import { shown, typed } from "./number";

describe("numbers", () => {
  it("are read with a point or a comma, and nothing else", () => {
    expect([typed("6.1"), typed(" 6,1 "), typed(""), typed("-2")]).toEqual([
      6.1,
      6.1,
      null,
      -2,
    ]);
    expect(Number.isNaN(typed("six"))).toBe(true);
  });

  it("are shown with as many decimals as asked for", () => {
    expect([shown(6.125, 1), shown(6, 2)]).toEqual(["6.1", "6.00"]);
  });
});
