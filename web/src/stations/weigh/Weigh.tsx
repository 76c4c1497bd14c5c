import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { answered, client, type Problem, type Schemas, type TrialView } from "../../api/client";
import { send } from "../../api/outbox";
import { noteSaved } from "../../frame/saved";
import { TakeBack } from "../../frame/TakeBack";
import { closed, Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { shown, typed } from "../../marks/number";
import { refreshTrial, useTrialWrite, weighQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import "./weigh.css";

export default function Weigh() {
  const trial = useTrial();
  const harvest = useQuery(weighQuery(trial.id));
  const [chosen, setChosen] = useState<string | null>(null);
  const view = harvest.data;
  if (trial.sown_on === null) {
    return (
      <p>
        {inWords(trial, text.weigh.notSown)} <Link to={`/trials/${trial.id}/tend`}>{text.stations.tend}</Link>
      </p>
    );
  }
  if (!view) {
    return <Trouble error={harvest.error} />;
  }
  const now = chosen ?? (view.next === null || view.next === undefined ? null : keyOf({ code: view.next, crop: view.next_crop, sample: view.next_sample }));
  const row = view.rows.find((r) => keyOf(r) === now);
  const open = trial.reveal === null;
  return (
    <div className="weigh">
      {open && row && <Now key={keyOf(row)} trial={trial} view={view} row={row} onTaken={() => setChosen(null)} onSkip={setChosen} />}
      {open && !row && view.weighed > 0 && (
        <p className="all-done">
          {inWords(trial, text.weigh.done)} <Link to={`/trials/${trial.id}/judge`}>{text.weigh.toJudge}</Link>
        </p>
      )}
      <Done trial={trial} view={view} current={open ? now : null} choose={setChosen} />
      <p className="caution">{text.weigh.caution}</p>
    </div>
  );
}

/** A unit, or one of the crops or plants in it. */
const keyOf = (r: { code: string; crop?: number | null; sample?: number | null }) => `${r.code}/${r.crop ?? 0}/${r.sample ?? 0}`;

/** What of the unit it is: its crop, its plant; empty for the whole. */
const partOf = (r: Schemas["WeighRow"]) => r.crop_name ?? (typeof r.sample === "number" ? text.weigh.plant(r.sample) : "");

/** The next that is still to be weighed after this one, for a plant that is gone. */
const after = (view: Schemas["WeighView"], row: Schemas["WeighRow"]) => {
  const open = view.rows.filter((r) => !r.lost && typeof r.net_g !== "number");
  return open.find((r) => view.rows.indexOf(r) > view.rows.indexOf(row)) ?? open.find((r) => r !== row);
};

interface NowProps {
  trial: TrialView;
  view: Schemas["WeighView"];
  row: Schemas["WeighRow"];
  onTaken: () => void;
  onSkip: (key: string) => void;
}

/** The tray on the scale. Enter takes it; an unlikely weight is asked about and taken on the second Enter. */
function Now({ trial, view, row, onTaken, onSkip }: NowProps) {
  const next = typeof row.sample === "number" ? after(view, row) : undefined;
  const queries = useQueryClient();
  const gross = useRef<HTMLInputElement>(null);
  const [grossText, setGross] = useState(row.gross_g === null || row.gross_g === undefined ? "" : String(row.gross_g));
  const [tareText, setTare] = useState(String(row.tare_g ?? view.last_tare_g ?? ""));
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  useEffect(() => gross.current?.focus(), []);
  const [grossG, tareG] = [typed(grossText), typed(tareText) ?? 0];
  const net = grossG === null ? null : Math.round((grossG - tareG) * 1000) / 1000;
  const ready = grossG !== null && !Number.isNaN(grossG) && !Number.isNaN(tareG);
  const take = async () => {
    if (!ready || grossG === null || busy) {
      return;
    }
    setBusy(true);
    const body = { code: row.code, crop: row.crop ?? null, sample: row.sample ?? null, gross_g: grossG, tare_g: tareG, confirmed: problem?.code === "unlikely", version: row.version };
    const outcome = await send({ kind: "weighing", trial: trial.id, body });
    setBusy(false);
    if (outcome.state === "refused") {
      setProblem(outcome.problem);
      gross.current?.focus();
      await refreshTrial(queries, trial.id);
      return;
    }
    if (outcome.state === "saved") {
      noteSaved();
    }
    setProblem(null);
    await refreshTrial(queries, trial.id);
    onTaken();
  };
  return (
    <form
      className="now"
      onSubmit={(event) => {
        event.preventDefault();
        void take();
      }}
    >
      <div className="codebig" aria-label={text.tend.tray}>
        {row.code}
        {partOf(row) && <small>{partOf(row)}</small>}
      </div>
      <div className="scale">
        <label>
          <span>{text.weigh.gross}</span>
          <input
            ref={gross} name="gross" inputMode="decimal" autoComplete="off" value={grossText}
            onChange={(e) => {
              setGross(e.target.value);
              setProblem(null);
            }}
          />
        </label>
        <i />
        <p className="soft">
          {row.place}. {text.weigh.enter}.
        </p>
      </div>
      <div className="net">
        <label>
          <span>{inWords(trial, text.weigh.tare)}</span>
          <Input name="tare" inputMode="decimal" value={tareText} onChange={(e) => setTare(e.target.value)} />
        </label>
        <p>
          {text.weigh.net} <b data-testid="net">{net === null || Number.isNaN(net) || net < 0 ? "–" : `${shown(net, 1)} g`}</b>
        </p>
        {view.least_g !== null && view.most_g !== null && (
          <p className="soft">{text.weigh.range(shown(view.least_g, 0), shown(view.most_g, 0))}</p>
        )}
        <Button htmlType="submit" type="primary" loading={busy} disabled={!ready} size="large">
          {problem?.code === "unlikely" ? text.tend.confirm : text.weigh.take}
        </Button>
        {next && (
          <button type="button" className="plain" onClick={() => onSkip(keyOf(next))}>
            {text.weigh.gone}
          </button>
        )}
        <WriteOff trial={trial} row={row} />
      </div>
      {problem && (
        <p className="trouble" role="alert">
          <b>{closed(problem.title)}</b> {problem.detail}
        </p>
      )}
      {!view.ripe && <p className="trouble soft">{text.weigh.unripe(trial.ask.end_day)}</p>}
    </form>
  );
}

function useWriteOff(trial: TrialView) {
  return useTrialWrite(trial.id, (body: Schemas["WriteOffSent"]) =>
    answered(client.POST("/api/v1/trials/{id}/write-offs", { params: { path: { id: trial.id } }, body })),
  );
}

function WriteOff({ trial, row }: { trial: TrialView; row: Schemas["WeighRow"] }) {
  const [reason, setReason] = useState<string | null>(null);
  const write = useWriteOff(trial);
  if (row.lost) {
    return (
      <p className="soft">
        {row.lost}{" "}
        <button type="button" className="plain" onClick={() => write.mutate({ code: row.code, reason: null })}>
          {text.weigh.takeBack}
        </button>
      </p>
    );
  }
  if (reason === null) {
    return (
      <button type="button" className="plain" onClick={() => setReason("")}>
        {inWords(trial, text.weigh.writeOff)}
      </button>
    );
  }
  return (
    <div className="writeoff">
      <Input name="lost" placeholder={text.weigh.lostReason} value={reason} onChange={(e) => setReason(e.target.value)} />
      <Button onClick={() => write.mutate({ code: row.code, reason })} disabled={reason.trim() === ""}>
        {text.weigh.keepLost}
      </Button>
      <Trouble error={write.error} />
    </div>
  );
}

interface DoneProps {
  trial: TrialView;
  view: Schemas["WeighView"];
  current: string | null;
  choose: (code: string) => void;
}

function Done({ trial, view, current, choose }: DoneProps) {
  return (
    <section>
      <div className="sofar">
        <h2>{text.weigh.soFar(view.weighed, view.rows.length)}</h2>
        {view.weighed > 0 && <span>{text.weigh.total(shown(view.total_g, 1))}</span>}
        <TakeBack trial={trial} />
      </div>
      <div className="ticks">
        {view.rows.map((r) => (
          <button
            key={keyOf(r)} type="button" disabled={trial.reveal !== null} onClick={() => choose(keyOf(r))} aria-label={inWords(trial, text.weigh.weighThis(partOf(r) ? `${r.code}, ${partOf(r)}` : r.code))}
            className={keyOf(r) === current ? "n" : r.net_g === null || r.net_g === undefined ? "" : "t"}
          >
            {r.code}
            {partOf(r) && <em>{typeof r.sample === "number" ? r.sample : partOf(r)}</em>}
            <small>{r.lost ? text.weigh.lost : keyOf(r) === current && typeof r.net_g !== "number" ? "…" : typeof r.net_g === "number" ? shown(r.net_g, 1) : " "}</small>
          </button>
        ))}
      </div>
    </section>
  );
}
