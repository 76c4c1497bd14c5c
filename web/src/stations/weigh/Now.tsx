import { useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { type FormEvent, useEffect, useRef, useState } from "react";
import type { Problem, Schemas, TrialView } from "../../api/client";
import { send } from "../../api/outbox";
import { noteSaved } from "../../frame/saved";
import { closed } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { refreshTrial } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { after, keyOf, partOf } from "./parts";
import { WriteOff } from "./WriteOff";

interface Props {
  trial: TrialView;
  view: Schemas["WeighView"];
  row: Schemas["WeighRow"];
  onTaken: () => void;
  /** Another, or this one for as long as it takes. */
  onChoose: (key: string) => void;
}

/** What is on the scale, as typed, and taking it: an unlikely weight is asked about and taken the second time. */
function useScale({ trial, view, row, onTaken, onChoose }: Props) {
  const queries = useQueryClient();
  const field = useRef<HTMLInputElement>(null);
  const [gross, setGross] = useState(String(row.gross_g ?? ""));
  const [tare, setTare] = useState(String(row.tare_g ?? view.last_tare_g ?? ""));
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => field.current?.focus(), []);
  const [grossG, tareG] = [typed(gross), typed(tare) ?? 0];
  const net = grossG === null ? null : Math.round((grossG - tareG) * 1000) / 1000;
  const ready = grossG !== null && !Number.isNaN(grossG) && !Number.isNaN(tareG);
  const take = async () => {
    if (!ready || grossG === null || busy) {
      return;
    }
    setBusy(true);
    // It stays on the scale until it is known what became of it.
    onChoose(keyOf(row));
    const { code, crop, sample, version } = row;
    const body = { code, crop: crop ?? null, sample: sample ?? null, gross_g: grossG, tare_g: tareG, confirmed: problem?.code === "unlikely", version };
    const outcome = await send({ kind: "weighing", trial: trial.id, body });
    setBusy(false);
    setProblem(outcome.state === "refused" ? outcome.problem : null);
    if (outcome.state === "saved") {
      noteSaved();
    }
    if (outcome.state === "kept") {
      // Nobody is there to ask what is next.
      onTaken();
      return;
    }
    await refreshTrial(queries, trial.id);
    if (outcome.state === "refused") {
      field.current?.focus();
    } else {
      onTaken();
    }
  };
  const typeGross = (value: string) => {
    setGross(value);
    setProblem(null);
  };
  return { field, gross, typeGross, tare, setTare, net, ready, busy, problem, take };
}

/** The tray on the scale. Enter takes it. */
export function Now(props: Props) {
  const { trial, view, row, onChoose } = props;
  const scale = useScale(props);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void scale.take();
  };
  return (
    <form className="now" onSubmit={submit}>
      <div className="codebig" aria-label={inWords(trial, text.tend.tray)}>
        {row.code}
        {partOf(row) && <small>{partOf(row)}</small>}
      </div>
      <div className="scale">
        <label>
          <span>{text.weigh.gross}</span>
          <input ref={scale.field} name="gross" inputMode="decimal" autoComplete="off" value={scale.gross} onChange={(e) => scale.typeGross(e.target.value)} />
        </label>
        <i />
        <p className="soft">
          {row.place}. {text.weigh.enter}.
        </p>
      </div>
      <Net trial={trial} view={view} row={row} scale={scale} onChoose={onChoose} />
      {scale.problem && (
        <p className="trouble" role="alert">
          <b>{closed(scale.problem.title)}</b> {scale.problem.detail}
        </p>
      )}
      {!view.ripe && <p className="trouble soft">{text.weigh.unripe(trial.ask.end_day)}</p>}
    </form>
  );
}

interface NetProps extends Omit<Props, "onTaken"> {
  scale: ReturnType<typeof useScale>;
}

/** The container, what was cut, and what can be done with it. */
function Net({ trial, view, row, scale, onChoose }: NetProps) {
  const { net, tare, setTare, busy, ready, problem } = scale;
  const next = typeof row.sample === "number" ? after(view, row) : undefined;
  return (
    <div className="net">
      <label>
        <span>{inWords(trial, text.weigh.tare)}</span>
        <Input name="tare" inputMode="decimal" value={tare} onChange={(e) => setTare(e.target.value)} />
      </label>
      <p>
        {text.weigh.net} <b data-testid="net">{net === null || Number.isNaN(net) || net < 0 ? "–" : `${shown(net, 1)} g`}</b>
      </p>
      {typeof view.least_g === "number" && typeof view.most_g === "number" && (
        <p className="soft">{text.weigh.range(shown(view.least_g, 0), shown(view.most_g, 0))}</p>
      )}
      <Button htmlType="submit" type="primary" loading={busy} disabled={!ready} size="large">
        {problem?.code === "unlikely" ? text.tend.confirm : text.weigh.take}
      </Button>
      {next && (
        <button type="button" className="plain" onClick={() => onChoose(keyOf(next))}>
          {text.weigh.gone}
        </button>
      )}
      <WriteOff trial={trial} row={row} />
    </div>
  );
}
