import type { ReactNode } from "react";
import { closed } from "../../frame/Trouble";
import { massIn, type MassUnit } from "../../marks/mass";
import { text } from "../../text/en";
import type { ScaleInUse } from "./useScale";
import type { Weighing } from "./useWeighing";

interface Props {
  code: string;
  /** Whether it is picked in waves: what comes of it lies on the scale, and not the unit. */
  waves: boolean;
  place: string;
  unit: MassUnit;
  scale: ScaleInUse;
  weighing: Weighing;
  children: ReactNode;
}

/** How the scale stands, in words. */
function standing({ scale, code, waves, weighing }: Props): string {
  const showing = scale.showing;
  if (weighing.held) {
    return "";
  }
  if (!showing) {
    return text.weigh.streamLost;
  }
  if (showing.contact.state === "lost") {
    return text.weigh.scaleLost(showing.contact.why);
  }
  if (showing.contact.state === "reaching" || !showing.pan) {
    return text.weigh.reaching;
  }
  return text.weigh.pan(waves ? text.waves.from(code) : code)[showing.pan];
}

/** What the scale shows, large, or a field in its place. */
export function OnTheScale(props: Props) {
  const { unit, scale, weighing, place, children } = props;
  const { live, held } = weighing;
  const pan = scale.showing?.pan ?? null;
  const g = held?.g ?? scale.showing?.g ?? null;
  const settled = held !== null || pan === "settled";
  return (
    <div className={`scale ${live ? "live" : ""}`}>
      {live ? (
        <p className="reads">
          <span>{text.weigh.gross(unit)}</span>
          <output data-testid="live" data-pan={held ? "held" : (pan ?? "none")}>
            {typeof g === "number" ? massIn(g, unit) : "–"}
          </output>
        </p>
      ) : (
        <label>
          <span>{text.weigh.gross(unit)}</span>
          <input
            name="gross"
            autoFocus
            inputMode="decimal"
            autoComplete="off"
            value={weighing.gross}
            onChange={(e) => weighing.setGross(e.target.value)}
          />
        </label>
      )}
      <i className={live && settled ? "still" : ""} />
      {live && (
        <p className={`pan ${pan ?? "none"}`} role="status" data-testid="pan">
          {closed(standing(props))}{" "}
          {settled &&
            !held &&
            (weighing.known ? text.weigh.enter : text.weigh.tareFirst)}
        </p>
      )}
      <p className="soft">
        {place}. {!live && `${text.weigh.enter}. `}
        {scale.device && (
          <button
            type="button"
            className="plain"
            onClick={() => weighing.hand(!scale.byHand)}
          >
            {scale.byHand ? text.weigh.useScale : text.weigh.type}
          </button>
        )}
      </p>
      {live && children}
    </div>
  );
}
