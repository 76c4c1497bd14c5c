import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import {
  loggersQuery,
  useBringLog,
  useGiveLogUp,
  useTakeLogBack,
} from "../../../queries/tracks";
import { text } from "../../../text/en";
import { LogMapping } from "./LogMapping";

type Arrived = Schemas["LoggerArrived"];
type File = Schemas["LoggerFile"];

/** Files of loggers: brought, told how they are read, taken in, and taken back. */
export function Loggers({ trial }: { trial: TrialView }) {
  const words = text.loggers;
  const all = useQuery(loggersQuery(trial.id));
  const bring = useBringLog(trial.id);
  const [brought, setBrought] = useState<Schemas["LoggerBrought"] | null>(null);
  const open = trial.reveal === null;
  const waits =
    brought &&
    all.data?.incoming.some((f) => f.token === brought.file.token && isOpen(f));
  return (
    <section className="loggers">
      <h2>{words.title}</h2>
      <p className="soft">{words.why}</p>
      {open && (
        <label className={bring.isPending ? "file busy" : "file"}>
          {bring.isPending ? words.looking : words.add}
          <input
            type="file"
            name="log"
            accept=".csv,.txt,.tsv,.log,text/csv,text/plain"
            disabled={bring.isPending}
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              if (file) {
                bring.mutate(file, { onSuccess: setBrought });
              }
            }}
          />
        </label>
      )}
      <Trouble error={bring.error ?? all.error} />
      {all.data?.incoming
        .filter((f) => f.standing !== "waiting")
        .map((file) => (
          <OnItsWay key={file.token} trial={trial.id} file={file} />
        ))}
      {brought && waits && all.data && (
        <LogMapping
          key={brought.file.token}
          trial={trial}
          brought={brought}
          known={all.data}
        />
      )}
      {all.data && all.data.files.length > 0 && (
        <>
          <h3>{words.files}</h3>
          <ul className="log-files">
            {all.data.files.map((file) => (
              <TakenIn key={file.id} trial={trial.id} file={file} />
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** Whether it may still be told how a file is read. */
function isOpen(file: Arrived): boolean {
  return (
    file.standing === "waiting" ||
    (typeof file.standing === "object" && "failed" in file.standing)
  );
}

/** A file that is being taken in, is in, or could not be. */
function OnItsWay({ trial, file }: { trial: string; file: Arrived }) {
  const words = text.loggers;
  const giveUp = useGiveLogUp(trial);
  const close = (label: string) => (
    <Button
      size="small"
      loading={giveUp.isPending}
      onClick={() => giveUp.mutate(file.token)}
    >
      {label}
    </Button>
  );
  if (file.standing === "running") {
    const percent = Math.min(
      99,
      Math.floor((100 * file.read) / Math.max(file.bytes, 1)),
    );
    return (
      <div className="on-its-way" role="status">
        <progress max={100} value={percent} aria-label={file.name} />
        <span>{words.running(file.name, percent)}</span> {close(words.stop)}
      </div>
    );
  }
  if (typeof file.standing === "object" && "failed" in file.standing) {
    return (
      <p className="trouble">
        {words.failed(file.name, file.standing.failed)} {close(words.ok)}
      </p>
    );
  }
  return typeof file.standing === "object" && "done" in file.standing ? (
    <div className="on-its-way done" role="status">
      <p>{words.done(file.name, file.standing.done.taken)}</p>
      <Rest file={file.standing.done} />
      {close(words.ok)}
    </div>
  ) : null;
}

/** What became of the rows that brought nothing new. */
function Rest({ file }: { file: File }) {
  const words = text.loggers;
  const left = file.other + file.bad - Math.min(SHOWN, file.bad_rows.length);
  return (
    <>
      {file.doubled > 0 && <p>{words.doubled(file.doubled)}</p>}
      {file.empty > 0 && <p>{words.empty(file.empty)}</p>}
      {file.other > 0 && <p>{words.other(file.other)}</p>}
      {file.bad > 0 && <p>{words.bad(file.bad)}</p>}
      <ul className="plain-list">
        {file.bad_rows.slice(0, SHOWN).map((row) => (
          <li key={row.line}>{words.line(row.line, row.why)}</li>
        ))}
        {left > 0 && <li>{words.more(left)}</li>}
      </ul>
    </>
  );
}

/** Rows that could not be taken in, as many as are shown. */
const SHOWN = 12;

function TakenIn({ trial, file }: { trial: string; file: File }) {
  const words = text.loggers;
  const back = useTakeLogBack(trial);
  const [asked, setAsked] = useState(false);
  return (
    <li>
      <b>{file.name}</b>
      <span>{file.holds.join("; ")}</span>
      <span>{words.rows(file.taken)}</span>
      <span className="soft">
        {words.by(
          file.who,
          new Date(file.at).toLocaleString([], {
            dateStyle: "medium",
            timeStyle: "short",
          }),
        )}
      </span>
      {file.own && !asked && (
        <button type="button" className="plain" onClick={() => setAsked(true)}>
          {words.takeBack}
        </button>
      )}
      {asked && (
        <span className="sure">
          {words.takeBackSure}{" "}
          <Button
            size="small"
            loading={back.isPending}
            onClick={() => back.mutate(file.id)}
          >
            {words.sure}
          </Button>{" "}
          <Button size="small" onClick={() => setAsked(false)}>
            {words.keep}
          </Button>
        </span>
      )}
      {file.bad + file.other > 0 && (
        <details>
          <summary>{words.left(file.bad + file.other)}</summary>
          <Rest file={{ ...file, doubled: 0, empty: 0 }} />
        </details>
      )}
      <Trouble error={back.error} />
    </li>
  );
}
