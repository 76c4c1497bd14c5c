import type { Schemas, TrialView } from "../../api/client";
import { shown } from "../../marks/number";
import { text } from "../../text/en";
import { CellMark } from "./CellMark";

type Given = Schemas["Given"];

interface Row {
  label: string;
  decimals: number;
  /** As the core calls it among the hidden differences. */
  what: string;
  of: (given: Given) => number | null | undefined;
}

const rows: Row[] = [
  {
    label: text.match.behind.n,
    what: "nitrogen",
    decimals: 0,
    of: (g) => g.n_mg_per_l,
  },
  {
    label: text.match.behind.p,
    what: "phosphorus",
    decimals: 0,
    of: (g) => g.p_mg_per_l,
  },
  {
    label: text.match.behind.k,
    what: "potassium",
    decimals: 0,
    of: (g) => g.k_mg_per_l,
  },
  {
    label: text.match.behind.ca,
    what: "calcium",
    decimals: 0,
    of: (g) => g.ca_mg_per_l,
  },
  {
    label: text.match.behind.mg,
    what: "magnesium",
    decimals: 0,
    of: (g) => g.mg_mg_per_l,
  },
  {
    label: text.match.behind.urea,
    what: "urea",
    decimals: 0,
    of: (g) => (g.urea_share == null ? null : 100 * g.urea_share),
  },
  {
    label: text.match.behind.ec,
    what: "EC",
    decimals: 2,
    of: (g) => g.ec_ms_per_cm,
  },
  {
    label: text.match.behind.light,
    what: "light on the leaves",
    decimals: 1,
    of: (g) => g.daily_light_mol_per_m2,
  },
  {
    label: text.match.behind.price,
    what: "price of the solution",
    decimals: 3,
    of: (g) => g.price_per_l,
  },
];

/** Columns of the match sheet: rows of figures under the names, worked out from Stores. */
export function Behind({ trial }: { trial: TrialView }) {
  const { given } = trial.composition;
  const hidden = new Set(trial.composition.hidden.map((h) => h.what));
  const known = rows.filter((row) => given.some((g) => (row.of(g) ?? 0) > 0));
  if (known.length === 0 || given.length !== trial.sheet.treatments.length) {
    return null;
  }
  return (
    <tbody className="behind">
      <tr>
        <th scope="rowgroup" colSpan={given.length + 2}>
          {text.match.behind.title}
        </th>
      </tr>
      {known.map((row) => (
        <tr key={row.label} className={hidden.has(row.what) ? "unlike" : ""}>
          <th scope="row">{row.label}</th>
          {given.map((g, i) => (
            <td key={i}>
              <CellMark treatment={i} />
              {row.of(g) == null
                ? text.match.behind.unknown
                : shown(row.of(g), row.decimals)}
            </td>
          ))}
          <td />
        </tr>
      ))}
    </tbody>
  );
}
