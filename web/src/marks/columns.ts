import type { Schemas } from "../api/client";

type View = Pick<Schemas["TendView"], "readings" | "rows">;

/** The columns of a grid that are wanted, with their cells. */
export function onlyColumns(
  { readings, rows }: View,
  wanted: (column: Schemas["Column"]) => boolean,
): View {
  const kept = readings.map(wanted);
  return {
    readings: readings.filter((_, i) => kept[i]),
    rows: rows.map((row) => ({
      ...row,
      cells: row.cells.filter((_, i) => kept[i]),
    })),
  };
}
