import { Input } from "antd";
import type { Schemas } from "../../api/client";
import { cellOf, withCell } from "../../marks/cell";
import { text } from "../../text/en";
import { CellMark } from "./CellMark";

type Sheet = Schemas["Sheet"];

interface Props {
  sheet: Sheet;
  condition: Schemas["ConditionView"];
  /** Whether conditions that nobody uses are shown as well. */
  all: boolean;
  locked: boolean;
  /** Rows that are kept apart although all say the same. */
  apart: ReadonlySet<string>;
  setApart: (apart: ReadonlySet<string>) => void;
  setSheet: (sheet: Sheet) => void;
  commit: (sheet: Sheet) => void;
}

/** A condition under which treatments stand: one field where all share it, else one for each. */
export function ConditionRow({
  sheet,
  condition,
  all,
  locked,
  apart,
  setApart,
  setSheet,
  commit,
}: Props) {
  const { key } = condition;
  const values = sheet.treatments.map((t) => cellOf(t, key));
  // A condition that nobody uses stays below the fold.
  const used = condition.common || values.some((v) => v !== condition.usual);
  if (!used && !all && !apart.has(key)) {
    return null;
  }
  const equal = values.every((v) => v === values[0]) && !apart.has(key);
  const label = `${condition.name}${condition.unit ? `, ${condition.unit}` : ""}`;
  const withValues = (
    value: (treatment: number, old: string) => string,
  ): Sheet => ({
    ...sheet,
    treatments: sheet.treatments.map((t, i) =>
      withCell(t, key, value(i, cellOf(t, key))),
    ),
  });
  const toggle = () => {
    const next = new Set(apart);
    if (equal) {
      next.add(key);
    } else {
      next.delete(key);
      commit(withValues(() => values[0] ?? ""));
    }
    setApart(next);
  };
  return (
    <tr className={equal ? "" : "apart"}>
      <th scope="row">{label}</th>
      {(equal ? values.slice(0, 1) : values).map((value, i) => (
        <td key={i} colSpan={equal ? values.length : 1}>
          {!equal && <CellMark treatment={i} />}
          <Input
            variant="borderless"
            aria-label={
              equal ? label : `${label}, ${sheet.treatments[i]?.name ?? ""}`
            }
            name={equal ? key : `${key}-${i}`}
            value={value}
            title={value}
            list={condition.shelf ? `shelf-${condition.shelf}` : undefined}
            placeholder={locked ? "" : text.match.notSaid}
            disabled={locked}
            onChange={(e) =>
              setSheet(
                withValues((t, old) =>
                  equal || t === i ? e.target.value : old,
                ),
              )
            }
            onBlur={() => commit(sheet)}
            onPressEnter={() => commit(sheet)}
          />
        </td>
      ))}
      <td className="act">
        {!locked && (
          <button type="button" className="plain" onClick={toggle}>
            {equal ? text.match.split : text.match.merge}
          </button>
        )}
      </td>
    </tr>
  );
}
