import { Link } from "react-router";
import { confirm, discard, type Row } from "../api/outbox";
import { text } from "../text/en";

interface Props {
  refused: readonly Row[];
  onClose: () => void;
}

/** What a record says, in a line: the code, what was measured, the value. */
function said(row: Row): string {
  if (row.kind === "weighing") {
    return text.kept.weight(row.body.code, row.body.gross_g, row.body.tare_g);
  }
  const { code, sample, reading, value, day } = row.body;
  return text.kept.reading(sample ? `${code} ${sample}` : code, reading.replaceAll("_", " "), value ?? null, day);
}

/** Records that the server did not take, each with its value: to confirm, to correct at its station, or to throw away. */
export function KeptRecords({ refused, onClose }: Props) {
  return (
    <div className="shortcuts kept-records" role="dialog" aria-label={text.kept.title}>
      <h2>{text.kept.title}</h2>
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
              <Link to={`/trials/${row.trial}/${row.kind === "reading" ? `tend?day=${row.body.day}` : "weigh"}`} onClick={onClose}>
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
