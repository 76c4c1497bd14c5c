import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { diaryQuery, useTakeBack, type DiaryKind } from "../../queries/trial";
import { text } from "../../text/en";

/** Everything that was written in the trial, newest first; each is taken back by who wrote it. */
export function Diary({ trial }: { trial: TrialView }) {
  const words = text.tend.diary;
  const [open, setOpen] = useState(false);
  return (
    <details className="diary" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>{words.title}</summary>
      {open && <Entries trial={trial} />}
    </details>
  );
}

function Entries({ trial }: { trial: TrialView }) {
  const words = text.tend.diary;
  const [kind, setKind] = useState("all");
  const [before, setBefore] = useState<number | null>(null);
  const diary = useQuery(
    diaryQuery(trial.id, kind === "all" ? null : (kind as DiaryKind), before),
  );
  const takeBack = useTakeBack(trial.id);
  const entries = diary.data?.entries ?? [];
  return (
    <>
      <label className="field kind">
        <span>{words.kind}</span>
        <Select
          value={kind}
          aria-label={words.kind}
          options={Object.entries(words.kinds).map(([value, label]) => ({
            value,
            label,
          }))}
          onChange={(next) => {
            setKind(next);
            setBefore(null);
          }}
        />
      </label>
      <Trouble error={diary.error ?? takeBack.error} />
      {diary.data && entries.length === 0 && (
        <p className="soft">{words.nothing}</p>
      )}
      <ul>
        {entries.map((entry) => (
          <Line
            key={entry.id}
            entry={entry}
            busy={takeBack.isPending}
            takeBack={() => takeBack.mutate(entry.id)}
          />
        ))}
      </ul>
      <p className="acts">
        {before !== null && (
          <button
            type="button"
            className="plain"
            onClick={() => setBefore(null)}
          >
            {words.newest}
          </button>
        )}
        {diary.data?.more && (
          <button
            type="button"
            className="plain"
            onClick={() => setBefore(entries.at(-1)?.id ?? null)}
          >
            {words.older}
          </button>
        )}
      </p>
    </>
  );
}

interface LineProps {
  entry: Schemas["DiaryLine"];
  busy: boolean;
  takeBack: () => void;
}

/** When, who, what; and what became of it. */
function Line({ entry, busy, takeBack }: LineProps) {
  const words = text.tend.diary;
  const when = new Date(entry.at).toLocaleString([], {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
  });
  return (
    <li className={entry.undone ? "undone" : ""}>
      <time dateTime={entry.at}>{when}</time>
      <span>{entry.who}</span>
      <b>{text.frame.acted(entry.action)}</b>
      {entry.undone ? (
        <em>{words.undone}</em>
      ) : entry.own ? (
        <button
          type="button"
          className="plain"
          disabled={busy}
          aria-label={`${words.takeBack} ${entry.action}`}
          onClick={takeBack}
        >
          {words.takeBack}
        </button>
      ) : null}
    </li>
  );
}
