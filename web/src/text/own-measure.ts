/** Words of a measure of one's own, a part of the catalogue in `en.ts`. */
import type { Schemas } from "../api/client";

const kinds: Record<Schemas["OwnKind"], string> = {
  amount: "an amount, measured",
  count: "a number, counted",
  score: "grades, by eye",
  first_seen: "a day, when it is first seen",
};

export const ownMeasure = {
  title: "A measure of your own",
  why: "For what is not in the list. It is recorded in the grid and judged as its like is, and stands in the list of all your trials.",
  name: "What is measured",
  namePlaceholder: "gloss of the leaves",
  kind: "It is told as",
  kinds,
  unit: "Unit",
  least: "At least",
  most: "At most",
  grade: (n: number) => `Grade ${n} is`,
  gradePlaceholders: ["dull", "matt", "shiny", "", ""],
  firstSeen:
    "At each look it is said whether it is seen yet: 1 seen, 0 not yet.",
  add: "Record it in this trial",
};
