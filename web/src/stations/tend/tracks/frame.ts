import { type ScaleLinear, scaleLinear } from "d3-scale";

/** Where a plot of tracks stands inside its drawing, and how days and values lie in it. */
export interface Frame {
  width: number;
  height: number;
  left: number;
  right: number;
  top: number;
  bottom: number;
  x: ScaleLinear<number, number>;
  y: ScaleLinear<number, number>;
}

const TOP = 28;
const BELOW = 62;

/** A frame for days and values that lie between these; a flat line stands in the middle. */
export function frameOf(
  narrow: boolean,
  days: [number, number],
  values: [number, number],
): Frame {
  const [width, height] = narrow ? [380, 330] : [900, 400];
  const [left, right] = narrow ? [44, width - 96] : [54, width - 150];
  const bottom = height - BELOW;
  const [low, high] = values;
  const reach =
    high > low ? (high - low) * 0.04 : Math.max(Math.abs(high) * 0.05, 0.5);
  return {
    width,
    height,
    left,
    right,
    top: TOP,
    bottom,
    x: scaleLinear(days[1] > days[0] ? days : [days[0] - 1, days[0] + 1], [
      left,
      right,
    ]),
    y: scaleLinear([low - reach, high + reach], [bottom, TOP]).nice(5),
  };
}

/** A line through points, as a path. */
export function pathOf(frame: Frame, days: number[], values: number[]): string {
  return days
    .map(
      (day, i) =>
        `${i === 0 ? "M" : "L"}${frame.x(day).toFixed(1)} ${frame.y(values[i] ?? 0).toFixed(1)}`,
    )
    .join("");
}

/** Least and greatest of all numbers; 0 and 1 where there are none. */
export function span(numbers: Iterable<number>): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const n of numbers) {
    low = Math.min(low, n);
    high = Math.max(high, n);
  }
  return low <= high ? [low, high] : [0, 1];
}

/** Labels at the end of lines, moved apart so that none covers another. */
export function spread<T extends { y: number }>(
  labels: T[],
  step: number,
  [top, bottom]: [number, number],
): T[] {
  const sorted = [...labels].sort((a, b) => a.y - b.y);
  let above = top - step;
  const down = sorted.map((label) => {
    above = Math.max(label.y, above + step);
    return { ...label, y: above };
  });
  let below = bottom + step;
  for (const label of [...down].reverse()) {
    below = Math.min(label.y, below - step);
    label.y = below;
  }
  return down;
}
