import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

/** A unit, or one of the crops or plants in it. */
export const keyOf = (r: {
  code: string;
  crop?: number | null;
  sample?: number | null;
}) => `${r.code}/${r.crop ?? 0}/${r.sample ?? 0}`;

/** What of the unit it is: its crop, its plant; empty for the whole. */
export const partOf = (r: Schemas["WeighRow"]) =>
  r.crop_name ??
  (typeof r.sample === "number" ? text.weigh.plant(r.sample) : "");

/** The next that is still to be weighed after this one; what is kept on this device is weighed. */
export const after = (
  view: Schemas["WeighView"],
  row: Schemas["WeighRow"],
  kept?: ReadonlyMap<string, number>,
) => {
  const open = view.rows.filter(
    (r) => !r.lost && typeof r.net_g !== "number" && !kept?.has(keyOf(r)),
  );
  return (
    open.find((r) => view.rows.indexOf(r) > view.rows.indexOf(row)) ??
    open.find((r) => r !== row)
  );
};
