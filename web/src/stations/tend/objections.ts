import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

/** What the grid says of a cell. */
export type Said =
  | { kind: "ask"; message: string; value: number; key?: string }
  | { kind: "stale"; message: string; value: number | null; key: string }
  | { kind: "wrong"; message: string; key?: string };

type Limits = Pick<
  Schemas["Column"],
  "name" | "unit" | "refused_below" | "refused_above"
>;
type Band = Pick<Schemas["Cell"], "asked_below" | "asked_above" | "previous">;

/** What stands against a value before it is sent, by the limits that the server states; null where nothing does. */
export function objectionTo(
  value: number,
  column: Limits | undefined,
  cell: Band | undefined,
): Said | null {
  if (Number.isNaN(value)) {
    return { kind: "wrong", message: text.tend.notNumber };
  }
  if (
    column &&
    (value < column.refused_below || value > column.refused_above)
  ) {
    const most = `${column.refused_above} ${column.unit}`.trim();
    return {
      kind: "wrong",
      message: text.tend.impossible(
        column.name,
        column.refused_below,
        most,
        String(value),
      ),
    };
  }
  if (cell && (value < cell.asked_below || value > cell.asked_above)) {
    const before =
      typeof cell.previous === "number" ? String(cell.previous) : null;
    return {
      kind: "ask",
      message: text.tend.unusual(String(value), before),
      value,
    };
  }
  return null;
}
