import type { Schemas, TrialView } from "../../api/client";
import { colourOf } from "../../marks/Mark";
import { text } from "../../text/en";

/** A sentence with the treatment it speaks of marked in its colour. */
function Named({
  sentence,
  name,
  index,
}: {
  sentence: string;
  name: string;
  index: number;
}) {
  const at = sentence.toLowerCase().indexOf(name.toLowerCase());
  if (at < 0) {
    return sentence;
  }
  const end = at + name.length;
  return (
    <>
      {sentence.slice(0, at)}
      <b style={{ borderColor: colourOf(index) }}>{sentence.slice(at, end)}</b>
      {sentence.slice(end)}
    </>
  );
}

/** What was learned of each treatment; what several verdicts rest on is said once. */
export function Sentences({
  trial,
  analysis,
}: {
  trial: TrialView;
  analysis: Schemas["Analysis"];
}) {
  return (
    <div className="verdicts">
      {analysis.contrasts.map((c) => {
        const index = trial.sheet.treatments.findIndex(
          (t) => t.name === c.treatment,
        );
        return (
          <div key={c.treatment}>
            <p className="v whole" data-verdict={c.verdict}>
              <Named sentence={c.claim} name={c.treatment} index={index} />
            </p>
            <p className="v brief">
              <Named sentence={c.brief} name={c.treatment} index={index} />
            </p>
            <details className="brief">
              <summary>{text.sideBySide.ofIt}</summary>
              <p>{c.claim}</p>
            </details>
          </div>
        );
      })}
      {[
        ...new Set(analysis.contrasts.map((c) => c.caveat).filter(Boolean)),
      ].map((caveat) => (
        <p key={caveat} className="caveat">
          {caveat}
        </p>
      ))}
      {analysis.best && <p>{text.judge.best(analysis.best.join(", "))}</p>}
    </div>
  );
}
