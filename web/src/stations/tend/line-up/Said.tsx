import type { Schemas, TrialView } from "../../../api/client";
import { shown } from "../../../marks/number";
import { Wide } from "../../../marks/Wide";
import { inWords } from "../../../marks/words";
import { text } from "../../../text/en";
import { numbers } from "./order";

/** What all judges said, beside one another, and how far they agree. */
export function Said({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["LineUpsView"];
}) {
  const words = text.lineUp;
  const placeOf = (lineUp: Schemas["LineUpView"], code: string) => {
    const at = lineUp.places.findIndex((tied) => tied.includes(code));
    const [first, last] = numbers(lineUp.places)[at] ?? [0, 0];
    return at < 0 ? "–" : shown((first + last) / 2, first === last ? 0 : 1);
  };
  return (
    <section className="said">
      <h3>{words.said}</h3>
      {view.agreement && (
        <p>
          {words.agreement(
            view.line_ups.length,
            view.agreement.w,
            view.agreement.p,
          )}
        </p>
      )}
      <Wide className="numbers" name={words.said}>
        <table>
          <thead>
            <tr>
              <th scope="col">{inWords(trial, words.unit)}</th>
              {view.line_ups.map((l) => (
                <th key={l.judge} scope="col">
                  {l.judge}, {text.tend.day(l.day)}
                </th>
              ))}
              {view.line_ups.length > 1 && <th scope="col">{words.mean}</th>}
            </tr>
          </thead>
          <tbody>
            {view.mean.map((m) => (
              <tr key={m.code}>
                <th scope="row">{m.code}</th>
                {view.line_ups.map((l) => (
                  <td key={l.judge}>{placeOf(l, m.code)}</td>
                ))}
                {view.line_ups.length > 1 && <td>{shown(m.place, 2)}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}
