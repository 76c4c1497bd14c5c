import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Head } from "../../frame/Head";
import { NotHere, Trouble } from "../../frame/Trouble";
import { tendQuery, trialQuery, useEntry } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { Grid } from "./Grid";
import "./tend.css";

/** One unit, as its label's code leads to it: where it stands, its readings of today, a note. */
export default function UnitPage() {
  const { id = "", code = "" } = useParams();
  const trial = useQuery(trialQuery(id));
  const tend = useQuery(tendQuery(id, null));
  const unit = trial.data?.units.find((u) => u.code === code);
  if (trial.data && !unit) {
    return <NotHere />;
  }
  const rows = (tend.data?.rows ?? []).filter((r) => r.unit.code === code);
  const notes = (tend.data?.notes ?? []).filter((n) => n.code === code);
  return (
    <>
      <Head
        title={
          trial.data
            ? inWords(trial.data, text.unit.title(code))
            : text.unit.title(code)
        }
        beside={trial.data?.name}
      />
      <main className="sheet alone unit-page">
        <Trouble error={trial.error ?? tend.error} />
        {trial.data && unit && (
          <>
            <p className="where">
              {trial.data.rack.name}, {unit.place}
              {unit.block && unit.block !== `level ${unit.level}`
                ? `, ${unit.block}`
                : ""}
            </p>
            {unit.lost && (
              <p className="trouble">
                {text.weigh.lost}: {unit.lost}
              </p>
            )}
            {typeof tend.data?.day === "number" ? (
              <>
                <h2>{text.tend.day(tend.data.day)}</h2>
                <Grid
                  trial={trial.data}
                  day={tend.data.day}
                  readings={tend.data.readings}
                  rows={rows}
                />
                {trial.data.reveal === null && (
                  <Note trial={id} code={code} day={tend.data.day} />
                )}
              </>
            ) : (
              <p>{text.unit.notSown}</p>
            )}
            <ul className="plain-list">
              {notes.map((note, i) => (
                <li key={i}>
                  {text.tend.day(note.day)}: {note.text}
                </li>
              ))}
            </ul>
            <p className="links">
              <Link to={`/trials/${id}/tend`}>{text.unit.all}</Link>{" "}
              <Link to={`/trials/${id}/weigh`}>{text.stations.weigh}</Link>
            </p>
          </>
        )}
      </main>
    </>
  );
}

function Note({
  trial,
  code,
  day,
}: {
  trial: string;
  code: string;
  day: number;
}) {
  const [words, setWords] = useState("");
  const write = useEntry(trial);
  const head = { unit: code, day };
  return (
    <form
      className="note"
      onSubmit={(event) => {
        event.preventDefault();
        write.mutate(
          { trial, records: [{ kind: "note", head, body: { text: words } }] },
          { onSuccess: () => setWords("") },
        );
      }}
    >
      <label className="field">
        <span>{text.tend.note}</span>
        <Input
          name="note"
          value={words}
          placeholder={text.tend.notePlaceholder}
          onChange={(e) => setWords(e.target.value)}
        />
      </label>
      <Button
        htmlType="submit"
        disabled={words.trim() === ""}
        loading={write.isPending}
      >
        {text.tend.addNote}
      </Button>
      <Trouble error={write.error} />
    </form>
  );
}
