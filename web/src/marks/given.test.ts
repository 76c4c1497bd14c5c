import { describe, expect, it } from "vitest";
import {
  type Application,
  amountOf,
  basisOf,
  daysOf,
  fedWith,
  figureOf,
  isNothing,
  laid,
  rhythmOf,
  whenOf,
  withApplication,
} from "./given";

const feed: Application = { role: "feed", what: "grow feed" };
const kelp: Application = {
  role: "additive",
  what: "kelp",
  how: "sprayed",
  amount: "undiluted",
  ml_a_unit: 5,
};
const treatment = {
  name: "full feed",
  control: false,
  conditions: {},
  applications: [feed, kelp],
};

describe("what is given", () => {
  it("has the usual amount where none is said, and comes back as it was put", () => {
    expect([basisOf(undefined), figureOf(undefined)]).toEqual(["of_label", 1]);
    expect([basisOf("undiluted"), figureOf("undiluted")]).toEqual([
      "undiluted",
      null,
    ]);
    for (const basis of [
      "of_label",
      "per_litre",
      "per_unit",
      "per_site",
    ] as const) {
      const amount = amountOf(basis, 0.5);
      expect([basisOf(amount), figureOf(amount)]).toEqual([basis, 0.5]);
    }
  });

  it("reads days as growers type them", () => {
    expect(whenOf("days", "4, 6 and 9")).toEqual({ days: [4, 6, 9] });
    expect(whenOf("every", "3 from day 2")).toEqual({
      every: { days: 3, from: 2 },
    });
    expect(whenOf("every", "3")).toEqual({ every: { days: 3, from: 0 } });
    expect([whenOf("days", "when dry"), whenOf("planting", "")]).toEqual([
      null,
      "planting",
    ]);
    for (const typedIn of ["4, 6, 9"]) {
      expect(daysOf(whenOf("days", typedIn) ?? undefined)).toBe(typedIn);
    }
    expect([
      rhythmOf(undefined),
      rhythmOf({ days: [4] }),
      rhythmOf({ every: { days: 3, from: 2 } }),
    ]).toEqual(["each_feeding", "days", "every"]);
  });

  it("stands in its line before the server has said so, and only once", () => {
    const line = (role: "feed" | "additive", of: (number | null)[]) => ({
      role,
      name: role,
      of,
    });
    const water = { ...treatment, applications: [feed] };
    const places = (lines: ReturnType<typeof laid>) => lines.map((l) => l.of);
    expect(
      places(
        laid(
          [line("feed", [null, 0]), line("additive", [null, 1])],
          [water, treatment],
        ),
      ),
    ).toEqual([
      [0, 0],
      [null, 1],
    ]);
    // A second feed of the same treatment goes to the line that it has none in.
    const twice = { ...treatment, applications: [feed, kelp, feed] };
    expect(
      places(
        laid(
          [line("feed", [0]), line("additive", [1]), line("feed", [null])],
          [twice],
        ),
      ),
    ).toEqual([[0], [1], [2]]);
    const told = [line("feed", [0]), line("additive", [1])];
    expect(places(laid(told, [treatment]))).toEqual(places(told));
    expect(
      places(
        laid(
          [line("feed", [0]), line("additive", [1])],
          [{ ...treatment, applications: [feed] }],
        ),
      ),
    ).toEqual([[0], [1]]);
  });

  it("is put in its place, added at the end, or taken away", () => {
    const names = (t: typeof treatment) => t.applications.map((a) => a.what);
    expect(
      names(
        withApplication(treatment, 1, {
          ...kelp,
          what: "humic",
        }) as typeof treatment,
      ),
    ).toEqual(["grow feed", "humic"]);
    expect(
      names(
        withApplication(treatment, null, {
          ...kelp,
          what: "humic",
        }) as typeof treatment,
      ),
    ).toEqual(["grow feed", "kelp", "humic"]);
    expect(
      names(withApplication(treatment, 0, null) as typeof treatment),
    ).toEqual(["kelp"]);
    expect(names(fedWith(treatment, "bloom feed") as typeof treatment)).toEqual(
      ["bloom feed", "kelp"],
    );
    expect([isNothing(" None "), isNothing("kelp")]).toEqual([true, false]);
  });
});
