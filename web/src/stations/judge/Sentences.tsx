import type { Schemas, TrialView } from "../../api/client";
import { colourOf } from "../../marks/Mark";
import { text } from "../../text/en";

/** What was learned of each treatment; what several verdicts rest on is said once. */
export function Sentences({ trial, analysis }: { trial: TrialView; analysis: Schemas["Analysis"] }) {
  return (
    <div className="verdicts">
      {analysis.contrasts.map((c) => {
        const index = trial.sheet.treatments.findIndex((t) => t.name === c.treatment);
        const sentence = c.claim;
        const at = sentence.toLowerCase().indexOf(c.treatment.toLowerCase());
        const end = at + c.treatment.length;
        return (
          <p className="v" key={c.treatment} data-verdict={c.verdict}>
            {at < 0 ? (
              sentence
            ) : (
              <>
                {sentence.slice(0, at)}
                <b style={{ borderColor: colourOf(index) }}>{sentence.slice(at, end)}</b>
                {sentence.slice(end)}
              </>
            )}
          </p>
        );
      })}
      {[...new Set(analysis.contrasts.map((c) => c.caveat).filter(Boolean))].map((caveat) => (
        <p key={caveat} className="caveat">
          {caveat}
        </p>
      ))}
      {analysis.best && <p>{text.judge.best(analysis.best.join(", "))}</p>}
    </div>
  );
}
