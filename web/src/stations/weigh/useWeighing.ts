import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ProblemError, type Problem, type Schemas, type TrialView } from "../../api/client";
import { send } from "../../api/outbox";
import { noteSaved } from "../../frame/saved";
import { grams, massIn, type MassUnit } from "../../marks/mass";
import { typed } from "../../marks/number";
import { takeWeight } from "../../queries/instruments";
import { refreshTrial } from "../../queries/trial";
import { text } from "../../text/en";
import type { ScaleInUse } from "./useScale";
import { keyOf } from "./parts";

export interface NowProps {
  trial: TrialView;
  view: Schemas["WeighView"];
  row: Schemas["WeighRow"];
  /** Whether it is the turn of this one; it was chosen out of turn otherwise. */
  inTurn: boolean;
  unit: MassUnit;
  scale: ScaleInUse;
  onTaken: () => void;
  /** Another, or this one for as long as it takes. */
  onChoose: (key: string) => void;
}

/** What a field holds, in g. */
const inGrams = (field: string, unit: MassUnit) => {
  const value = typed(field);
  return value === null || Number.isNaN(value) ? value : grams(value, unit);
};

/** A weight that was taken from the scale and is not recorded yet. */
interface Held {
  g: number;
  instrument: string;
}

/** Recording a weight: an unlikely one is asked about and taken the second time. */
function useRecord({ trial, view, row, inTurn, onTaken, onChoose }: NowProps) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const record = async (grossG: number, tareG: number, instrument: string | null) => {
    // It stays on the scale until it is known what became of it.
    onChoose(keyOf(row));
    const { code, crop, sample, version } = row;
    const body = {
      code, crop: crop ?? null, sample: sample ?? null, gross_g: grossG, tare_g: tareG, confirmed: problem?.code === "unlikely",
      version, instrument, turn: inTurn ? view.turn : ("chosen" as const),
    };
    const outcome = await send({ kind: "weighing", trial: trial.id, body });
    setProblem(outcome.state === "refused" ? outcome.problem : null);
    if (outcome.state === "saved") {
      noteSaved();
    }
    if (outcome.state === "kept") {
      // Nobody is there to ask what is next.
      onTaken();
      return true;
    }
    await refreshTrial(queries, trial.id);
    if (outcome.state !== "refused") {
      onTaken();
    }
    return outcome.state !== "refused";
  };
  return { record, problem, setProblem, busy, setBusy };
}

/** What is on the scale, and taking it. */
export function useWeighing(props: NowProps) {
  const { trial, view, row, unit, scale } = props;
  const inUnit = (g: number | null | undefined) => (typeof g === "number" ? massIn(g, unit) : "");
  const [gross, setGross] = useState(inUnit(row.gross_g));
  const [tare, setTare] = useState(inUnit(row.tare_g ?? view.last_tare_g));
  const [byHand, setByHand] = useState(false);
  const [held, setHeld] = useState<Held | null>(null);
  const { record, problem, setProblem, busy, setBusy } = useRecord(props);
  const live = scale.device !== null && !byHand;
  const grossG = live ? (held?.g ?? scale.showing?.g ?? null) : inGrams(gross, unit);
  const tareG = inGrams(tare, unit);
  const known = grossG !== null && tareG !== null && !Number.isNaN(grossG) && !Number.isNaN(tareG);
  const ready = known && (!live || held !== null || scale.showing?.pan === "settled" || scale.showing?.pan === "taken");
  /** What lies on the scale, taken; what it says against it is shown. */
  const fromScale = async (what: string): Promise<Held | null> => {
    try {
      return scale.device && (await takeWeight(scale.device.no, `${trial.id}/${what}`));
    } catch (error) {
      setProblem(error instanceof ProblemError ? error.problem : { type: "about:blank", status: 0, code: "away", title: text.weigh.streamLost, detail: "" });
      return null;
    }
  };
  const take = async () => {
    if (!known || busy) {
      return;
    }
    setBusy(true);
    const now = live ? (held ?? (await fromScale(keyOf(row)))) : { g: grossG, instrument: null };
    if (now) {
      const taken = await record(now.g, tareG, now.instrument);
      setHeld(!taken && live ? (now as Held) : null);
    }
    setBusy(false);
  };
  const takeTare = async () => {
    const now = await fromScale("tare");
    if (now) {
      setTare(massIn(now.g, unit));
      setProblem(null);
    }
  };
  const change = (set: (value: string) => void) => (value: string) => {
    set(value);
    setProblem(null);
    setHeld(null);
  };
  const hand = (on: boolean) => {
    setByHand(on);
    setProblem(null);
    setHeld(null);
  };
  return { live, byHand, hand, gross, setGross: change(setGross), tare, setTare: change(setTare), grossG, tareG, known, ready, busy, problem, held, take, takeTare };
}

export type Weighing = ReturnType<typeof useWeighing>;
