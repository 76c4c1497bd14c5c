import { Link } from "react-router";
import { codeOf, confirm, discard, type Row } from "../api/outbox";
import { text } from "../text/en";

interface Props {
  refused: readonly Row[];
  waiting: readonly Row[];
  onClose: () => void;
}

/** What a record says, in a line: the code, what was measured or given, the value. */
export function said(row: Row): string {
  switch (row.kind) {
    case "weighing":
      return text.kept.weight(row.body.code, row.body.gross_g, row.body.tare_g);
    case "pick":
      return text.kept.pick(row.body.code, row.body.gross_g - row.body.tare_g, row.body.grade ?? "", row.body.pieces ?? null);
    case "reading": {
      const { code, sample, reading, value, day } = row.body;
      return text.kept.reading(sample ? `${code} ${sample}` : code, reading.replaceAll("_", " "), value ?? null, day);
    }
    case "job":
      return text.kept.job(row.body.job.replaceAll("_", " "), row.body.date ?? null, row.body.skipped ?? null);
    case "giving":
      return text.kept.giving(codeOf(row), row.body.job, row.body.date ?? null);
    case "note":
      return text.kept.note(row.body.code ?? null, row.body.text);
    case "line_up":
      return text.kept.lineUp(row.body.judge ?? null, row.body.places);
    case "gone":
      return text.kept.gone(row.body.samples, row.body.why);
    case "guess":
      return text.kept.guess(row.body.name ?? null);
    case "photo":
      return text.kept.photo(row.body.code, text.tend.photos.views[row.body.view] ?? row.body.view);
  }
}

/** Where a record is corrected. */
const stationOf = (row: Row) => (row.kind === "weighing" || row.kind === "pick" ? "weigh" : row.kind === "guess" ? "judge" : row.kind === "reading" ? `tend?day=${row.body.day}` : "tend");

/**
 * Records that are still on this device, each with its value: those that wait for an answer, and those that the server did
 * not take, to confirm, to correct at their station, or to throw away.
 */
export function KeptRecords({ refused, waiting, onClose }: Props) {
  return (
    <div className="shortcuts kept-records" role="dialog" aria-label={text.kept.title}>
      {waiting.length > 0 && (
        <>
          <h2>{text.kept.waiting}</h2>
          <ul className="waiting">
            {waiting.map((row) => (
              <li key={row.key}>
                <b>{said(row)}</b>
              </li>
            ))}
          </ul>
        </>
      )}
      {refused.length > 0 && <h2>{text.kept.title}</h2>}
      <ul>
        {refused.map((row) => (
          <li key={row.key}>
            <b>{said(row)}</b>
            <span>{row.refused?.detail}</span>
            <span className="acts">
              {row.refused?.code === "unlikely" && (
                <button type="button" className="plain" onClick={() => void confirm(row.key)}>
                  {text.kept.confirm}
                </button>
              )}
              <Link to={`/trials/${row.trial}/${stationOf(row)}`} onClick={onClose}>
                {text.kept.correct}
              </Link>
              <button type="button" className="plain" onClick={() => void discard(row.key)}>
                {text.kept.discard}
              </button>
            </span>
          </li>
        ))}
      </ul>
      <button type="button" className="plain" onClick={onClose}>
        {text.frame.close}
      </button>
    </div>
  );
}
