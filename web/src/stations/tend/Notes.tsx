import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useEntry } from "../../queries/trial";
import { text } from "../../text/en";

interface NotesProps {
  trial: TrialView;
  day: number;
  notes: Schemas["NoteView"][];
}

/** What was seen or done otherwise than planned, of one unit or of all. */
export function Notes({ trial, day, notes }: NotesProps) {
  const [words, setWords] = useState("");
  const [code, setCode] = useState("");
  const write = useEntry(trial.id);
  const options = [
    { value: "", label: text.tend.wholeTrial },
    ...trial.units.map((u) => ({ value: u.code, label: u.code })),
  ];
  return (
    <section className="notes">
      {trial.reveal === null && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const head = { unit: code || null, day };
            write.mutate(
              {
                trial: trial.id,
                records: [{ kind: "note", head, body: { text: words } }],
              },
              { onSuccess: () => setWords("") },
            );
          }}
        >
          <label className="field words">
            <span>{text.tend.note}</span>
            <Input
              name="note"
              value={words}
              placeholder={text.tend.notePlaceholder}
              onChange={(e) => setWords(e.target.value)}
            />
          </label>
          <label className="field for">
            <span>{text.tend.noteFor}</span>
            <Select value={code} onChange={setCode} options={options} />
          </label>
          <Button
            htmlType="submit"
            disabled={words.trim() === ""}
            loading={write.isPending}
          >
            {text.tend.addNote}
          </Button>
        </form>
      )}
      {write.data === "kept" && <p className="soft">{text.tend.work.unsent}</p>}
      <Trouble error={write.error} />
      <ul>
        {notes.map((note, i) => (
          <li key={i}>
            <span>{text.tend.day(note.day)}</span>{" "}
            {note.code && <b>{note.code}</b>} {note.text}
          </li>
        ))}
      </ul>
    </section>
  );
}
