import type { Schemas } from "../api/client";

type Treatment = Schemas["SheetTreatment"];

/** What stands in a cell of the match sheet. */
export const cellOf = (
  treatment: Treatment | undefined,
  condition: string,
): string => treatment?.conditions?.[condition] ?? "";

/** A treatment with another value in one cell. */
export const withCell = (
  treatment: Treatment,
  condition: string,
  value: string,
): Treatment => ({
  ...treatment,
  conditions: { ...treatment.conditions, [condition]: value },
});
