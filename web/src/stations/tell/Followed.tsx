import { useQuery } from "@tanstack/react-query";
import type { TrialView } from "../../api/client";
import { nextQuery, scorecardQuery } from "../../queries/next";
import { text } from "../../text/en";
import { Decided } from "../judge/Decided";
import { Looks } from "../judge/Looks";
import { Measures } from "../judge/Measures";
import { MoneyTold } from "../judge/Money";

/** What follows from the results of an opened trial: every measure, looks, money, what counted, what was decided. */
export function Followed({ trial }: { trial: TrialView }) {
  return (
    <>
      <Measures trial={trial} />
      <Looks trial={trial} />
      <MoneyTold trial={trial} />
      <Counted trial={trial} />
      <Kept trial={trial} />
    </>
  );
}

/** What the scorecard says in each setting; one that was only proposed is nobody's view. */
function Counted({ trial }: { trial: TrialView }) {
  const view = useQuery(scorecardQuery(trial.id)).data;
  if (!view || view.proposed) {
    return null;
  }
  return (
    <>
      <h2>{text.scorecard.title}</h2>
      {view.outcome.rankings.map((own) => (
        <p key={own.setting}>
          <b>{own.setting}</b>: {own.said.join(" ")}
        </p>
      ))}
    </>
  );
}

function Kept({ trial }: { trial: TrialView }) {
  const view = useQuery(nextQuery(trial.id)).data;
  if (!view || view.decisions.length === 0) {
    return null;
  }
  return (
    <>
      <h2>{text.tell.decided}</h2>
      <Decided view={view} />
    </>
  );
}
