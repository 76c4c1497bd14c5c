import { beforeEach, expect, test, vi } from "vitest";
import { draftOf, isWhole, keepDraft } from "./draft";

const attributes = [
  { key: "bitter" as const, name: "bitter", least: "not at all", most: "very" },
];
const liking = {
  asked: "liking" as const,
  codes: [417, 206],
  attributes,
  answer: null,
  taster: "",
};

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("window", {
    localStorage: {
      getItem: (k: string) => kept.get(k) ?? null,
      setItem: (k: string, v: string) => kept.set(k, v),
      removeItem: (k: string) => kept.delete(k),
    },
  });
});

test("all that is asked must be said", () => {
  const draft = draftOf("t", liking);
  expect(isWhole(draft, "liking")).toBe(false);
  const said = { ...draft, liking: [7, 3], attributes: { bitter: [1, 9] } };
  expect(isWhole(said, "liking")).toBe(true);
  expect(
    isWhole({ ...said, attributes: { bitter: [1, null] } }, "liking"),
  ).toBe(false);
  expect(isWhole({ ...said, liking: [null, 3] }, "liking")).toBe(false);
  const pair = draftOf("u", { ...liking, asked: "pair", attributes: [] });
  expect(isWhole(pair, "pair")).toBe(false);
  expect(isWhole({ ...pair, picked: 0 }, "pair")).toBe(true);
});

test("what was begun stays on the phone until it was sent, and only at its seat", () => {
  const begun = { ...draftOf("t", liking), liking: [7, null], taster: "Kim" };
  keepDraft("t", begun);
  expect(draftOf("t", liking)).toEqual(begun);
  expect(draftOf("other", liking).taster).toBe("");
  // Another question at the same address: what was kept does not fit.
  expect(draftOf("t", { ...liking, codes: [1, 2, 3] }).liking).toEqual([
    null,
    null,
    null,
  ]);
  keepDraft("t", null);
  const answer = {
    picked: null,
    liking: [2, 8],
    attributes: { bitter: [4, 4] },
  };
  expect(draftOf("t", { ...liking, answer, taster: "Kim" })).toEqual({
    ...answer,
    taster: "Kim",
  });
});

test("a phone that keeps nothing goes on", () => {
  vi.stubGlobal("window", {
    localStorage: {
      getItem: () => {
        throw new Error("private");
      },
      setItem: () => {
        throw new Error("private");
      },
    },
  });
  const draft = draftOf("t", liking);
  expect(() => keepDraft("t", draft)).not.toThrow();
  expect(draft.liking).toEqual([null, null]);
});
