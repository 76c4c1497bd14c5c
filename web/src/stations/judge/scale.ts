import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

/** How the figures of a kind of measure are drawn: what stands for zero, and in which unit. */
export interface Scale {
  /** A difference, or a limit of one. */
  gap: (value: number) => number;
  /** A treatment's mean, as its dots are drawn. */
  mean: (value: number) => number;
  /** Unit of a gap. */
  unit: string;
  /** The margin; null where none was given. */
  margin: number | null;
}

/** The limits that a verdict was taken from; those of the figures where none was. */
export function limitsOf(
  c: Schemas["Contrast"],
): [number | null | undefined, number | null | undefined] {
  if (c.decided_by) return [c.decided_by.low, c.decided_by.high];
  return c.simultaneous
    ? [c.simultaneous.low, c.simultaneous.high]
    : [c.low, c.high];
}

export function scaleOf(
  analysis: Schemas["Analysis"],
  measure: Schemas["Measure"],
): Scale {
  const same = (value: number) => value;
  const given = analysis.margin
    ? Number.parseFloat(analysis.margin.given)
    : null;
  switch (analysis.scale) {
    case "ratio":
      return {
        gap: (v) => 100 * (v - 1),
        mean: same,
        unit: "%",
        margin: given,
      };
    case "points":
      return {
        gap: same,
        mean: (v) => 100 * v,
        unit: text.judge.points,
        margin: analysis.margin?.absolute ?? null,
      };
    case "superiority":
      return {
        gap: (v) => 100 * v,
        mean: same,
        unit: text.judge.pairings,
        margin: given === null ? null : 100 * given,
      };
    default:
      return {
        gap: same,
        mean: same,
        unit: measure.unit,
        margin: analysis.margin?.absolute ?? null,
      };
  }
}
