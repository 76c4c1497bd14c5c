/** Units in which weights are shown and typed; they are kept in g. */

/** g of each: the international pound is 453.59237 g, the ounce its sixteenth. */
const UNITS = { g: 1, kg: 1000, oz: 453.59237 / 16, lb: 453.59237 };
const DECIMALS = { g: 1, kg: 4, oz: 2, lb: 3 };

export type MassUnit = keyof typeof UNITS;
export const massUnits = Object.keys(UNITS) as MassUnit[];

/** g of a weight in a unit, to the milligram. */
export const grams = (value: number, unit: MassUnit) =>
  Math.round(value * UNITS[unit] * 1000) / 1000;

/** A weight in g, in a unit, without its name. */
export const massIn = (g: number, unit: MassUnit) =>
  (g / UNITS[unit]).toFixed(DECIMALS[unit]);

/** A weight in g, in a unit. */
export const mass = (g: number, unit: MassUnit) => `${massIn(g, unit)} ${unit}`;
