import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

/** The decision that stands, and those before it. */
export function Decided({ view }: { view: Schemas["NextView"] }) {
  const words = text.next;
  const [last, ...earlier] = [...view.decisions].reverse();
  if (!last) {
    return null;
  }
  const line = (own: Schemas["DecisionView"]) => (
    <>
      <b>{own.said}</b>
      {own.decision.reason !== "" && words.because(own.decision.reason)}{" "}
      <small className="soft">
        {words.by(own.decision.at.slice(0, 10), own.decision.who)}
      </small>
    </>
  );
  return (
    <div className="decided">
      <p>
        {words.stands}: {line(last)}
      </p>
      {earlier.map((own) => (
        <p key={own.decision.at} className="soft">
          {words.earlier}: {line(own)}
        </p>
      ))}
    </div>
  );
}
