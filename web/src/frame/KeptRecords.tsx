import { Link } from "react-router";
import { said, stationOf } from "../api/kinds";
import { confirm, discard, type Row } from "../api/outbox";
import { text } from "../text/en";

interface Props {
  refused: readonly Row[];
  waiting: readonly Row[];
  onClose: () => void;
}

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
 * Records that are still on this device, each with its value: those that wait for an answer, and those that the server did
 * not take, to confirm, to correct at their station, or to throw away.
 */
export function KeptRecords({ refused, waiting, onClose }: Props) {
  return (
    <div
      className="shortcuts kept-records"
      role="dialog"
      aria-label={text.kept.title}
    >
      {waiting.length > 0 && (
        <>
          <h2>{text.kept.waiting}</h2>
          <ul className="waiting">
            {waiting.map((row) => (
              <li key={row.key}>
                <b>{saidOf(row)}</b>
              </li>
            ))}
          </ul>
        </>
      )}
      {refused.length > 0 && <h2>{text.kept.title}</h2>}
      <ul>
        {refused.map((row) => (
          <li key={row.key}>
            <b>{saidOf(row)}</b>
            <span>{row.refused?.detail}</span>
            <span className="acts">
              {row.refused?.code === "unlikely" && (
                <button
                  type="button"
                  className="plain"
                  onClick={() => void confirm(row.key)}
                >
                  {text.kept.confirm}
                </button>
              )}
              <Link
                to={`/trials/${row.trial}/${correctedAt(row)}`}
                onClick={onClose}
              >
                {text.kept.correct}
              </Link>
              <button
                type="button"
                className="plain"
                onClick={() => void discard(row.key)}
              >
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
