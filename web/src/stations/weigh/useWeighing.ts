import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import {
  ProblemError,
  type Problem,
  type Schemas,
  type TrialView,
} from "../../api/client";
import { send } from "../../api/outbox";
import type { Sent } from "../../api/records";
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
  /** What was typed while the one before was being recorded: it is of this one. */
  ahead: string;
  onTaken: (ahead: string) => void;
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

/** Of what is picked: how many pieces, of which grade. */
interface Pick {
  pieces: number | null;
  grade: string;
}

/** Recording a weight: an unlikely one is asked about and taken the second time. */
function useRecord(
  { trial, view, row, inTurn, onTaken, onChoose }: NowProps,
  load: ReturnType<typeof useLoad>,
) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  /** Records it; of a pick, how many pieces of which grade. */
  const record = async (
    grossG: number,
    tareG: number,
    instrument: string | null,
    pick: Pick | null,
  ) => {
    // It stays on the scale until it is known what became of it.
    onChoose(keyOf(row));
    const { code, crop, sample, version } = row;
    const confirmed = problem?.code === "unlikely";
    const head = {
      unit: code,
      crop: crop ?? null,
      sample: sample ?? null,
      instrument,
      confirmed,
      version: pick ? 0 : version,
    };
    const body = { gross_g: grossG, tare_g: tareG };
    const taken: Sent = pick
      ? { kind: "pick", head, body: { ...body, ...pick } }
      : {
          kind: "weighing",
          head,
          body: { ...body, turn: inTurn ? view.turn : "chosen" },
        };
    const outcome = await send({ trial: trial.id, records: [taken] });
    // Of a unit that is sorted more may come: it stays until one goes on.
    const stays = pick !== null && pick.grade !== "";
    setProblem(outcome.state === "refused" ? outcome.problem : null);
    if (outcome.state === "saved") {
      noteSaved();
    }
    if (outcome.state !== "refused") {
      // Whoever types on while it is asked what is next types the next weight.
      load.setGross("");
    }
    if (outcome.state === "kept") {
      // Nobody is there to ask what is next.
      onTaken("");
      return true;
    }
    await refreshTrial(queries, trial.id);
    if (outcome.state !== "refused" && !stays) {
      onTaken(load.typed.current);
    }
    return outcome.state !== "refused";
  };
  return { record, problem, setProblem, busy, setBusy };
}

/** How many pieces of which grade, as they are typed. */
function usePick() {
  const [pieces, setPieces] = useState("");
  const [grade, setGrade] = useState("");
  const clear = () => {
    setPieces("");
    setGrade("");
  };
  return { pieces, setPieces, grade, setGrade, clear };
}

/** What lies on the scale or was typed, and what the container weighs. */
function useLoad({ view, row, unit, scale, ahead }: NowProps) {
  const inUnit = (g: number | null | undefined) =>
    typeof g === "number" ? massIn(g, unit) : "";
  const [gross, show] = useState(
    typeof row.gross_g === "number" ? inUnit(row.gross_g) : ahead,
  );
  const typedNow = useRef(gross);
  const setGross = (value: string) => {
    typedNow.current = value;
    show(value);
  };
  const [tare, setTare] = useState(inUnit(row.tare_g ?? view.last_tare_g));
  const [held, setHeld] = useState<Held | null>(null);
  const live = scale.device !== null && !scale.byHand;
  const grossG = live
    ? (held?.g ?? scale.showing?.g ?? null)
    : inGrams(gross, unit);
  const tareG = inGrams(tare, unit);
  return {
    gross,
    setGross,
    typed: typedNow,
    tare,
    setTare,
    held,
    setHeld,
    live,
    grossG,
    tareG,
  };
}

/** What lies on the scale, taken; what it says against it is shown. */
async function taken(
  scale: ScaleInUse,
  what: string,
  setProblem: (problem: Problem) => void,
): Promise<Held | null> {
  try {
    return scale.device && (await takeWeight(scale.device.no, what));
  } catch (error) {
    setProblem(
      error instanceof ProblemError
        ? error.problem
        : {
            type: "about:blank",
            status: 0,
            code: "away",
            title: text.weigh.streamLost,
            detail: "",
          },
    );
    return null;
  }
}

/** What is on the scale, and taking it. */
export function useWeighing(props: NowProps) {
  const { trial, view, row, unit, scale } = props;
  const load = useLoad(props);
  const pick = usePick();
  const { record, problem, setProblem, busy, setBusy } = useRecord(props, load);
  const { live, held, grossG, tareG } = load;
  const known =
    grossG !== null &&
    tareG !== null &&
    !Number.isNaN(grossG) &&
    !Number.isNaN(tareG) &&
    !Number.isNaN(typed(pick.pieces));
  const ready =
    known &&
    (!live ||
      held !== null ||
      scale.showing?.pan === "settled" ||
      scale.showing?.pan === "taken");
  const fromScale = (what: string) =>
    taken(scale, `${trial.id}/${what}`, setProblem);
  const take = async () => {
    if (!known || busy) {
      return;
    }
    setBusy(true);
    const picked = view.waves
      ? { pieces: typed(pick.pieces), grade: pick.grade }
      : null;
    const now = live
      ? (held ?? (await fromScale(keyOf(row))))
      : { g: grossG, instrument: null };
    if (now) {
      const taken = await record(now.g, tareG, now.instrument, picked);
      load.setHeld(!taken && live ? (now as Held) : null);
      if (taken) {
        pick.clear();
      }
    }
    setBusy(false);
  };
  /** It was looked at, and nothing was ripe. */
  const nothing = async () => {
    setBusy(true);
    await record(0, 0, null, { pieces: null, grade: "" });
    setBusy(false);
  };
  const takeTare = async () => {
    const now = await fromScale("tare");
    if (now) {
      load.setTare(massIn(now.g, unit));
      setProblem(null);
    }
  };
  const change =
    <T>(set: (value: T) => void) =>
    (value: T) => {
      set(value);
      setProblem(null);
      load.setHeld(null);
    };
  return {
    ...load,
    setGross: change(load.setGross),
    setTare: change(load.setTare),
    hand: change(scale.setByHand),
    known,
    ready,
    busy,
    problem,
    take,
    takeTare,
    nothing,
    pieces: pick.pieces,
    setPieces: change(pick.setPieces),
    grade: pick.grade,
    setGrade: change(pick.setGrade),
  };
}

export type Weighing = ReturnType<typeof useWeighing>;
