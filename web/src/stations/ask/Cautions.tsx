import { Checkbox } from "antd";
import type { Schemas, TrialView } from "../../api/client";
import { text } from "../../text/en";

interface CautionsProps {
  trial: TrialView;
  ask: Schemas["Ask"];
  disabled: boolean;
  set: (change: Partial<Schemas["Ask"]>) => void;
}

type Offer = NonNullable<Schemas["Caution"]["offer"]>;

const taken = (ask: Schemas["Ask"], offer: Offer) =>
  offer === "ratios" ? (ask.by_ratio ?? false) : ask.covariate === offer;

const change = (offer: Offer, on: boolean): Partial<Schemas["Ask"]> =>
  offer === "ratios" ? { by_ratio: on } : { covariate: on ? offer : "start" };

/** What to know before sowing: where verdicts are weaker than usual, and what would make the comparison sharper. */
export function Cautions({ trial, ask, disabled, set }: CautionsProps) {
  if (trial.cautions.length === 0 || trial.reveal !== null) {
    return null;
  }
  return (
    <section className="cautions" aria-label={text.ask.cautionsTitle}>
      <h3>{text.ask.cautionsTitle}</h3>
      <ul>
        {trial.cautions.map(({ code, said, offer }) => (
          <li key={code} data-code={code}>
            <p>{said}</p>
            {offer && (
              <Checkbox
                checked={taken(ask, offer)}
                disabled={disabled}
                onChange={(e) => set(change(offer, e.target.checked))}
              >
                {text.ask.offers[offer]}
              </Checkbox>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
