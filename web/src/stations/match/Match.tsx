import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useRef, useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { Badge } from "../../marks/Mark";
import { Wide } from "../../marks/Wide";
import { useIsOwner } from "../../queries/people";
import { storesQuery } from "../../queries/stores";
import { catalogueQuery, usePlan } from "../../queries/trial";
import { atStrength, laid } from "../../marks/given";
import { text } from "../../text/en";
import { Behind } from "./Behind";
import { ConditionRow } from "./ConditionRow";
import { Crossing } from "./Crossing";
import { Given } from "./Given";
import "./match.css";
import { Terms } from "./Terms";

type Sheet = Schemas["Sheet"];
const roles = ["feed", "additive"] as const;

function saidOf(trial: TrialView): { good: boolean; said: string } {
  const d = trial.differences;
  switch (d.kind) {
    case "one": {
      const hidden = trial.composition.hidden.filter(
        (h) => h.severity !== "minor",
      );
      return hidden.length > 0
        ? {
            good: false,
            said: text.match.oneByName(
              d.factor,
              hidden.map((h) => h.what).join(", "),
            ),
          }
        : { good: true, said: text.match.one(d.factor) };
    }
    case "crossed":
      return { good: true, said: text.match.crossed(d.factors.join(" and ")) };
    case "stepwise": {
      const name = (i: number) => trial.sheet.treatments[i]?.name ?? "";
      return {
        good: true,
        said: text.match.stepwise(
          d.steps
            .map((s) =>
              text.match.step(name(s.treatment), name(s.against), s.factor),
            )
            .join("; "),
        ),
      };
    }
    case "none":
      return { good: false, said: text.match.none };
    case "several":
      return { good: false, said: text.match.several(d.factors.join(", ")) };
  }
}

/** What is given, line by line, with an empty line of each kind to write in and those that were asked for. */
function linesOf(
  trial: TrialView,
  extra: Schemas["Role"][],
): Schemas["Line"][] {
  const of = trial.sheet.treatments.map(() => null);
  const there = (role: Schemas["Role"]) =>
    trial.lines.filter((l) => l.role === role).length;
  return roles.flatMap((role) => [
    ...trial.lines.filter((l) => l.role === role),
    ...(there(role) === 0 ? [{ role, name: role, of }] : []),
    ...(there(role) > 0 && extra.includes(role)
      ? [{ role, name: text.match.lineOf(role, there(role)), of }]
      : []),
  ]);
}

/** The sheet as it is edited: a draft that the server's answer replaces once nothing is on its way. */
function useSheet(trial: TrialView) {
  const plan = usePlan(trial.id);
  const [sheet, setSheet] = useState(trial.sheet);
  const saved = JSON.stringify(trial.sheet);
  const sent = useRef(saved);
  const shown = useRef(saved);
  useEffect(() => {
    shown.current = JSON.stringify(sheet);
  }, [sheet]);
  const settled = !plan.isPending && !plan.error;
  useEffect(() => {
    // What the server holds replaces the draft once nothing is on its way: it orders the control first. A draft that was
    // typed on since then stays; the next field that is left sends all of it.
    if (settled && shown.current === sent.current) {
      sent.current = saved;
      setSheet(JSON.parse(saved) as Sheet);
    }
  }, [saved, settled]);
  const commit = (next: Sheet) => {
    setSheet(next);
    const whole = JSON.stringify(next);
    if (whole !== sent.current || plan.error) {
      sent.current = whole;
      plan.mutate({ part: "sheet", sheet: next });
    }
  };
  return { sheet, setSheet, commit, error: plan.error };
}

export default function Match() {
  const trial = useTrial();
  const catalogue = useQuery(catalogueQuery);
  const { sheet, setSheet, commit, error } = useSheet(trial);
  const [all, setAll] = useState(false);
  /** Lines that were asked for and hold nothing yet. */
  const [extra, setExtra] = useState<Schemas["Role"][]>([]);
  const held = trial.lines.length;
  useEffect(() => setExtra([]), [held]);
  const owner = useIsOwner();
  const locked = trial.sealed_at !== null || !owner;
  const { good, said } = saidOf(trial);
  const conditions = catalogue.data?.conditions ?? [];
  const addable = roles.filter(
    (role) => trial.lines.some((l) => l.role === role) && !extra.includes(role),
  );
  return (
    <div className="match">
      <p className={good ? "verdict" : "verdict wrong"}>{said}</p>
      <SheetTable
        trial={trial}
        sheet={sheet}
        setSheet={setSheet}
        commit={commit}
        conditions={conditions}
        all={all}
        extra={extra}
        locked={locked}
      />
      <ShelfNames />
      <p className="adding">
        <button type="button" className="plain" onClick={() => setAll(!all)}>
          {all ? text.match.fewer : text.match.more}
        </button>
        {!locked &&
          addable.map((role) => (
            <button
              key={role}
              type="button"
              className="plain"
              onClick={() => setExtra([...extra, role])}
            >
              {text.match.alsoGive[role]}
            </button>
          ))}
        {!locked && (
          <Crossing sheet={sheet} conditions={conditions} commit={commit} />
        )}
      </p>
      {!locked && <Adding sheet={sheet} commit={commit} />}
      <Trouble error={error} />
      <Terms trial={trial} sheet={sheet} locked={locked} commit={commit} />
      <p className="soft">
        {locked
          ? text.match.sealed
          : trial.commitment
            ? text.match.dropsDeal
            : ""}
      </p>
    </div>
  );
}

interface TableProps {
  trial: TrialView;
  sheet: Sheet;
  setSheet: (sheet: Sheet) => void;
  commit: (sheet: Sheet) => void;
  conditions: Schemas["ConditionView"][];
  /** Whether rows that say nothing are shown. */
  all: boolean;
  extra: Schemas["Role"][];
  locked: boolean;
}

/** The sheet: conditions and what is given in rows, treatments in columns. */
function SheetTable({
  trial,
  sheet,
  setSheet,
  commit,
  conditions,
  all,
  extra,
  locked,
}: TableProps) {
  const [apart, setApart] = useState<ReadonlySet<string>>(new Set());
  const rows = { sheet, all, locked, apart, setApart, commit };
  const lines = laid(linesOf(trial, extra), sheet.treatments);
  const given = lines.map((line, i) => {
    const place = lines.slice(0, i).filter((l) => l.role === line.role).length;
    return (
      <Given
        key={`${line.role} ${line.name}`}
        line={line}
        place={place}
        unit={trial.unit_word}
        {...rows}
      />
    );
  });
  return (
    <Wide className="scroll" name={text.match.sheetName}>
      <table className="sheet-table">
        <thead>
          <tr>
            <th scope="col">{text.match.condition}</th>
            {sheet.treatments.map((_, i) => (
              <TreatmentHead
                key={i}
                sheet={sheet}
                index={i}
                locked={locked}
                setSheet={setSheet}
                commit={commit}
              />
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {conditions.flatMap((condition) => {
            const row = (
              <ConditionRow
                key={condition.key}
                condition={condition}
                {...rows}
                setSheet={setSheet}
              />
            );
            // What is given stands below the water it is given with.
            return condition.key === "water" ? [row, ...given] : [row];
          })}
        </tbody>
        <Behind trial={trial} />
      </table>
    </Wide>
  );
}

/** Names on the shelves of Stores, offered in the cells. */
function ShelfNames() {
  const shelves = useQuery(storesQuery).data ?? [];
  return (
    <>
      {shelves
        .filter((shelf) => shelf.condition)
        .map((shelf) => (
          <datalist key={shelf.key} id={`shelf-${shelf.key}`}>
            {shelves
              .filter((other) => other.condition === shelf.condition)
              .flatMap((other) =>
                other.items.map((item) => (
                  <option key={`${other.key} ${item.name}`} value={item.name} />
                )),
              )}
          </datalist>
        ))}
    </>
  );
}

interface HeadProps {
  sheet: Sheet;
  index: number;
  locked: boolean;
  setSheet: (sheet: Sheet) => void;
  commit: (sheet: Sheet) => void;
}

function TreatmentHead({ sheet, index, locked, setSheet, commit }: HeadProps) {
  const treatment = sheet.treatments[index];
  if (!treatment) {
    return null;
  }
  const change = (name: string): Sheet => ({
    ...sheet,
    treatments: sheet.treatments.map((t, i) =>
      i === index ? { ...t, name } : t,
    ),
  });
  return (
    <th scope="col">
      <div className="named">
        <Badge treatment={index} />
        <Input
          variant="borderless"
          value={treatment.name}
          disabled={locked}
          aria-label={text.match.treatmentName(index + 1)}
          name={`treatment-${index}`}
          onChange={(e) => setSheet(change(e.target.value))}
          onBlur={() => commit(sheet)}
          onPressEnter={() => commit(sheet)}
        />
      </div>
      <div className="under-name">
        {treatment.control && <span>{text.match.control}</span>}
        {!locked && !treatment.control && (
          <button
            type="button"
            className="plain"
            onClick={() =>
              commit({
                ...sheet,
                treatments: sheet.treatments.map((t, i) => ({
                  ...t,
                  control: i === index,
                })),
              })
            }
          >
            {text.match.makeControl}
          </button>
        )}
        {!locked && !treatment.control && sheet.treatments.length > 2 && (
          <button
            type="button"
            className="plain"
            onClick={() =>
              commit({
                ...sheet,
                treatments: sheet.treatments.filter((_, i) => i !== index),
              })
            }
            aria-label={text.match.remove(treatment.name)}
            title={text.match.remove(treatment.name)}
          >
            ×
          </button>
        )}
      </div>
    </th>
  );
}

/** New treatments start as copies of the last one with another strength, so that nothing else differs by accident. */
function Adding({
  sheet,
  commit,
}: {
  sheet: Sheet;
  commit: (sheet: Sheet) => void;
}) {
  const model =
    [...sheet.treatments].reverse().find((t) => !t.control) ??
    sheet.treatments[0];
  if (!model || sheet.treatments.length >= 8) {
    return null;
  }
  const add = (name: string, strength: number | null) => {
    const own = strength === null ? model : atStrength(model, strength);
    commit({
      ...sheet,
      treatments: [...sheet.treatments, { ...own, name, control: false }],
    });
  };
  const fed = model.applications.some((a) => a.role === "feed");
  const free = text.match.strengths.filter(
    ([name]) => fed && !sheet.treatments.some((t) => t.name === name),
  );
  return (
    <p className="adding">
      {text.match.add}
      {free.map(([name, strength]) => (
        <button
          key={name}
          type="button"
          className="plain"
          onClick={() => add(name, strength)}
        >
          {name}
        </button>
      ))}
      <button type="button" className="plain" onClick={() => add("", null)}>
        {text.match.other}
      </button>
    </p>
  );
}
