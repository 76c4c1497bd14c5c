import { useCallback, useEffect, useRef } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { typed } from "../../marks/number";

/** What is asked as it stands in the fields: numbers as they are typed. */
export interface Draft {
  name: string;
  ask: Schemas["Ask"];
  margin: string;
  endDay: string;
  price: string;
  usual: string;
  outOf: string;
}

export const draftOf = (trial: TrialView): Draft => ({
  name: trial.name,
  ask: trial.ask,
  margin: String(trial.ask.margin_money ?? trial.ask.margin.value),
  price: String(trial.ask.price_per_kg ?? ""),
  usual: String(trial.ask.usual_per_unit ?? ""),
  outOf: String(trial.ask.usual_out_of ?? ""),
  endDay: String(trial.ask.end_day),
});

/** A draft that can be sent. */
export interface Ready {
  name: string;
  ask: Schemas["Ask"];
}

/** The draft as the server takes it; null while a number is not readable. */
export function ready(draft: Draft): Ready | null {
  const [margin, end] = [typed(draft.margin), typed(draft.endDay)];
  const [price, usual, outOf] = [
    typed(draft.price),
    typed(draft.usual),
    typed(draft.outOf),
  ];
  if (
    margin === null ||
    Number.isNaN(margin) ||
    end === null ||
    !Number.isInteger(end) ||
    Number.isNaN(price) ||
    Number.isNaN(usual) ||
    Number.isNaN(outOf)
  ) {
    return null;
  }
  const inMoney = typeof draft.ask.margin_money === "number";
  if (inMoney && price === null) {
    return null;
  }
  const ask = {
    ...draft.ask,
    end_day: end,
    price_per_kg: price,
    usual_per_unit: usual,
    usual_out_of: outOf,
  };
  // Money is turned into the measure's unit by the program; what stands in its place until then is not looked at.
  return {
    name: draft.name,
    ask: inMoney
      ? { ...ask, margin_money: margin }
      : { ...ask, margin: { ...draft.ask.margin, value: margin } },
  };
}

const SAVE_AFTER_MS = 500;

/**
 * Saves what can be sent after every pause in typing, and before the page is left; not once the plan is sealed, when a change
 * wants its reason first. Returns whether something is not yet saved, and what says that it is.
 */
export function useSaving(
  plan: Ready | null,
  first: TrialView,
  sealed: boolean,
  put: (plan: Ready) => void,
) {
  const sent = useRef(JSON.stringify(ready(draftOf(first))));
  const waiting = useRef<string | null>(null);
  const now = JSON.stringify(plan);
  const save = useCallback(() => {
    if (waiting.current !== null) {
      sent.current = waiting.current;
      put(JSON.parse(waiting.current) as Ready);
      waiting.current = null;
    }
  }, [put]);
  useEffect(() => {
    waiting.current =
      sealed || now === sent.current || now === "null" ? null : now;
    const timer = window.setTimeout(save, SAVE_AFTER_MS);
    return () => window.clearTimeout(timer);
  }, [now, sealed, save]);
  useEffect(() => {
    // Whoever walks on before the pause is over, or closes the page, must not lose the last words.
    window.addEventListener("pagehide", save);
    return () => {
      window.removeEventListener("pagehide", save);
      save();
    };
  }, [save]);
  return { changed: now !== sent.current, saved: () => (sent.current = now) };
}
