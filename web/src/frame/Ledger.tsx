import { Link } from "react-router";
import type { TrialView } from "../api/client";
import { isStation, text } from "../text/en";

/** Sheet and places are sealed by the first record, everything by the opened key. */
function canMend(trial: TrialView, station: string): boolean {
  return trial.reveal === null && (trial.sealed_at === null || !["match", "place"].includes(station));
}

/** The fairness ledger, in reach on every station. */
export function Ledger({ trial }: { trial: TrialView }) {
  const { open, sound, waits } = trial.ledger;
  return (
    <details className="ledger" open={window.innerWidth > 760}>
      <summary>
        <h2>{text.ledger.title}</h2>
        <span className="sum">{text.ledger.sum(open.length, sound.length)}</span>
      </summary>
      {open.map((finding) => (
        <article key={finding.code} className={`finding ${finding.severity}`}>
          <h3>
            {finding.title} <small>{text.ledger.severity[finding.severity]}</small>
          </h3>
          <p>{finding.seen}</p>
          <p className="remedy">{finding.remedy}</p>
          {canMend(trial, finding.station) && isStation(finding.station) && (
            <Link to={`/trials/${trial.id}/${finding.station}`}>{text.ledger.goTo(text.stations[finding.station])}</Link>
          )}
        </article>
      ))}
      {sound.length > 0 && <h3 className="over">{text.ledger.sound}</h3>}
      <ul>
        {sound.map((what) => (
          <li key={what}>{what}</li>
        ))}
      </ul>
      {waits.length > 0 && (
        <>
          <h3 className="over">{text.ledger.waits}</h3>
          <p className="waits">{waits.join(", ")}</p>
        </>
      )}
    </details>
  );
}
