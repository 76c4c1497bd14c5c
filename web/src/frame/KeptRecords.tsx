import { useEffect, useState } from "react";
import { Link } from "react-router";
import { said, stationOf } from "../api/kinds";
import { isOwn } from "../api/keptRows";
import {
  confirm,
  discard,
  handIn,
  tryAgain,
  type Kept,
  type Row,
} from "../api/outbox";
import { text } from "../text/en";
import { capital, closed } from "./Trouble";
import "./kept.css";

/** What an entry says, in a line. */
const saidOf = (row: Row): string =>
  "picture" in row
    ? text.kept.photo(
        row.picture.code,
        text.tend.photos.views[row.picture.view] ?? row.picture.view,
      )
    : row.records.map(said).join("; ");

const correctedAt = (row: Row): string =>
  "picture" in row || !row.records[0] ? "tend" : stationOf(row.records[0]);

/**
 * Records that are still on this device, each with its value: those that the server did not take, to confirm, to correct at
 * their station or to throw away; those that stepped aside; those that somebody else took; those on their way.
 */
export function KeptRecords({
  kept: { refused, waiting, writer },
  onClose,
}: {
  kept: Kept;
  onClose: () => void;
}) {
  const own = waiting.filter(isOwn);
  const parts = [
    [text.kept.title, refused],
    [text.kept.aside, own.filter((r) => r.aside)],
    [text.kept.others, waiting.filter((r) => !isOwn(r))],
    [text.kept.waiting, own.filter((r) => !r.aside)],
  ] as const;
  return (
    <div
      className="shortcuts kept-records"
      role="dialog"
      aria-label={text.kept.dialog}
    >
      {parts
        .filter(([, rows]) => rows.length > 0)
        .map(([title, rows]) => (
          <section key={title}>
            <h2>{title}</h2>
            <ul>
              {rows.map((row) => (
                <KeptRecord
                  key={row.key}
                  row={row}
                  writer={writer}
                  onClose={onClose}
                />
              ))}
            </ul>
          </section>
        ))}
      <button type="button" className="plain" onClick={onClose}>
        {text.frame.close}
      </button>
    </div>
  );
}

/** Why it is still here. */
function why(row: Row): string | null {
  if (row.refused) {
    return capital(row.refused.detail);
  }
  if (row.who !== null && !isOwn(row)) {
    return text.kept.takenBy(row.who);
  }
  if (row.aside?.problem.code === "not_found") {
    return text.kept.notThere;
  }
  return row.aside
    ? `${closed(row.aside.problem.title)} ${capital(row.aside.problem.detail)}`
    : null;
}

function KeptRecord({
  row,
  writer,
  onClose,
}: {
  row: Row;
  writer: string | null;
  onClose: () => void;
}) {
  const act = (words: string, done: () => Promise<void>) => (
    <button type="button" className="plain" onClick={() => void done()}>
      {words}
    </button>
  );
  return (
    <li>
      <b>{saidOf(row)}</b>
      <span>{why(row)}</span>
      <span className="acts">
        {row.refused?.code === "unlikely" &&
          act(text.kept.confirm, () => confirm(row.key))}
        {row.refused && (
          <Link
            to={`/trials/${row.trial}/${correctedAt(row)}`}
            onClick={onClose}
          >
            {text.kept.correct}
          </Link>
        )}
        {row.aside &&
          isOwn(row) &&
          act(text.kept.tryAgain, () => tryAgain(row.key))}
        {writer !== null &&
          !isOwn(row) &&
          act(text.kept.handIn(writer), () => handIn(row.key))}
        <Save row={row} />
        <Discard row={row} />
      </span>
    </li>
  );
}

/** The record as a file: the picture itself, or what was to be sent. */
function Save({ row }: { row: Row }) {
  const [address, setAddress] = useState("");
  useEffect(() => {
    const file =
      "picture" in row
        ? row.picture.file
        : new Blob([JSON.stringify(row, null, 2)], {
            type: "application/json",
          });
    const made = URL.createObjectURL(file);
    setAddress(made);
    return () => URL.revokeObjectURL(made);
  }, [row]);
  const ending =
    "picture" in row ? row.picture.file.type.replace(/.*\//, "") : "json";
  return (
    <a href={address} download={`${text.kept.file(row.key)}.${ending}`}>
      {text.kept.save}
    </a>
  );
}

/** What nobody has refused is asked about once more: there is no way back. */
function Discard({ row }: { row: Row }) {
  const [asked, setAsked] = useState(row.refused !== undefined);
  return (
    <button
      type="button"
      className="plain"
      onClick={() => (asked ? void discard(row.key) : setAsked(true))}
    >
      {asked && !row.refused ? text.kept.discardSure : text.kept.discard}
    </button>
  );
}
