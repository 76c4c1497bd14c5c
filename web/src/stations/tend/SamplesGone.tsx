import { useQuery } from "@tanstack/react-query";
import { Button, Input, Segmented } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { inWords } from "../../marks/words";
import { Wide } from "../../marks/Wide";
import type { Sent } from "../../api/records";
import { farmQuery, useEntry } from "../../queries/trial";
import { text } from "../../text/en";
import { WhenDone, whenSent, type When } from "./WhenDone";

type Row = Schemas["GridRow"];
type Why = Schemas["GoneWhy"];

/** Units in walking order, each with its samples. */
function byUnit(rows: Row[]): [string, Row[]][] {
  const units = new Map<string, Row[]>();
  for (const row of rows.filter((r) => r.sample && !r.unit.lost)) {
    units.set(row.unit.code, [...(units.get(row.unit.code) ?? []), row]);
  }
  return [...units];
}

const keyOf = (row: Row) => `${row.unit.code} ${row.sample}`;

/** Plants that died, were thinned out or were never there: tapped in a field of all, and taken out from a day on. */
export function SamplesGone({
  trial,
  rows,
}: {
  trial: TrialView;
  rows: Row[];
}) {
  const words = text.tend.gone;
  const farm = useQuery(farmQuery);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [why, setWhy] = useState<Why>("lost");
  const [note, setNote] = useState("");
  const [when, setWhen] = useState<When>({ date: "", time: "" });
  const write = useEntry(trial.id);
  const units = byUnit(rows);
  const keep = () => {
    const gone = rows.filter((r) => r.sample && chosen.has(keyOf(r)));
    // All of them are one deed: it stands as a whole, or not at all.
    const records = gone.map((r): Sent => ({
      kind: "gone",
      head: { unit: r.unit.code, sample: r.sample ?? null, ...whenSent(when) },
      body: { why, note },
    }));
    write.mutate(
      { trial: trial.id, records },
      { onSuccess: () => (setChosen(new Set()), setNote("")) },
    );
  };
  return (
    <details className="samples-gone">
      <summary>{words.title}</summary>
      <p className="soft">{inWords(trial, words.why)}</p>
      <Field units={units} chosen={chosen} setChosen={setChosen} />
      <div className="row">
        <Segmented<Why>
          value={why}
          onChange={setWhy}
          options={(Object.keys(words.whys) as Why[]).map((value) => ({
            value,
            label: words.whys[value],
          }))}
        />
        {why !== "never_there" && (
          <WhenDone
            from={trial.sown_on ?? null}
            when={{ ...when, date: when.date || (farm.data?.today ?? "") }}
            setWhen={setWhen}
          />
        )}
        <label className="field note">
          <span>{words.note}</span>
          <Input
            name="gone-note"
            value={note}
            placeholder={words.notePlaceholder}
            onChange={(e) => setNote(e.target.value)}
          />
        </label>
        <Button
          type="primary"
          disabled={chosen.size === 0}
          loading={write.isPending}
          onClick={keep}
        >
          {words.keep(chosen.size)}
        </Button>
      </div>
      {write.data === "kept" && <p className="soft">{text.tend.work.unsent}</p>}
      <Trouble error={write.error} />
    </details>
  );
}

interface FieldProps {
  units: [string, Row[]][];
  chosen: ReadonlySet<string>;
  setChosen: (chosen: ReadonlySet<string>) => void;
}

/** All plants that are followed: a row a unit, a button a plant. */
function Field({ units, chosen, setChosen }: FieldProps) {
  const words = text.tend.gone;
  const turn = (key: string) => {
    const next = new Set(chosen);
    if (!next.delete(key)) {
      next.add(key);
    }
    setChosen(next);
  };
  return (
    <Wide className="plants" name={words.title}>
      {units.map(([code, own]) => (
        <div key={code} role="group" aria-label={code}>
          <b>{code}</b>
          {own.map((row) =>
            row.gone ? (
              <span key={keyOf(row)} className="is-gone" title={row.gone.note}>
                {row.sample}: {row.gone.words}
              </span>
            ) : (
              <button
                key={keyOf(row)}
                type="button"
                aria-pressed={chosen.has(keyOf(row))}
                onClick={() => turn(keyOf(row))}
                aria-label={words.plant(code, row.sample ?? 0)}
              >
                {row.sample}
              </button>
            ),
          )}
        </div>
      ))}
    </Wide>
  );
}
