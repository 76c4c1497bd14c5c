import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { TrialView } from "../api/client";
import { nextQuery } from "../queries/next";
import { text } from "../text/en";

/** What was decided after other trials of the same crop. */
export function DecidedBefore({ trial }: { trial: TrialView }) {
  const words = text.next;
  const view = useQuery(nextQuery(trial.id)).data;
  if (!view || view.before.length === 0) {
    return null;
  }
  return (
    <div className="decided-before">
      <h3>{words.before(trial.ask.crop)}</h3>
      <ul>
        {view.before.map((own) => (
          <li key={own.trial}>
            <Link to={`/trials/${own.trial}/judge`}>{own.name}</Link>:{" "}
            <b>{own.said}</b>
            {own.decision.reason !== "" &&
              words.because(own.decision.reason)}{" "}
            <small className="soft">
              {words.by(own.decision.at.slice(0, 10), own.decision.who)}
            </small>
          </li>
        ))}
      </ul>
    </div>
  );
}
