import { expect, test } from "vitest";
import type { Schemas } from "../api/client";
import { onlyColumns } from "./columns";

test("cells go with their columns", () => {
  const column = (key: string, after_cut: boolean) =>
    ({ key, after_cut }) as Schemas["Column"];
  const row = (...values: number[]) =>
    ({ cells: values.map((value) => ({ value })) }) as Schemas["GridRow"];
  const view = {
    readings: [
      column("ph", false),
      column("edible", true),
      column("height", false),
    ],
    rows: [row(1, 2, 3), row(4, 5, 6)],
  };
  const after = onlyColumns(view, (c) => c.after_cut);
  expect(after.readings.map((c) => c.key)).toEqual(["edible"]);
  expect(after.rows.map((r) => r.cells.map((c) => c?.value))).toEqual([
    [2],
    [5],
  ]);
  const before = onlyColumns(view, (c) => !c.after_cut);
  expect(before.rows.map((r) => r.cells.map((c) => c?.value))).toEqual([
    [1, 3],
    [4, 6],
  ]);
  expect(view.rows[0]?.cells).toHaveLength(3);
});
