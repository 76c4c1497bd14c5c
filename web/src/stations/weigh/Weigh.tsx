import { useQuery } from "@tanstack/react-query";
import { useState, useSyncExternalStore } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { outbox } from "../../api/outbox";
import { TakeBack } from "../../frame/TakeBack";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { shown } from "../../marks/number";
import { weighQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { Now } from "./Now";
import { after, keyOf, partOf } from "./parts";
import "./weigh.css";

export default function Weigh() {
  const trial = useTrial();
  const harvest = useQuery(weighQuery(trial.id));
  const [chosen, setChosen] = useState<string | null>(null);
  const kept = useKept(trial.id);
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
  const first = view.next === null || view.next === undefined ? null : keyOf({ code: view.next, crop: view.next_crop, sample: view.next_sample });
  // What is kept on this device is weighed, though the server does not know of it yet: the next stands on the scale.
  const row = view.rows.find((r) => keyOf(r) === (chosen ?? first));
  const turn = chosen === null && row && kept.has(keyOf(row)) ? after(view, row, kept) : row;
  const now = turn ? keyOf(turn) : null;
  const open = trial.reveal === null;
  return (
    <div className="weigh">
      {open && turn && <Now key={keyOf(turn)} trial={trial} view={view} row={turn} onTaken={() => setChosen(null)} onChoose={setChosen} />}
      {open && first === null && chosen === null && view.weighed > 0 && (
        <p className="all-done">
          {inWords(trial, text.weigh.done)} <Link to={`/trials/${trial.id}/judge`}>{text.weigh.toJudge}</Link>
        </p>
      )}
      <Done trial={trial} view={view} kept={kept} current={open ? now : null} choose={setChosen} />
      <p className="caution">{text.weigh.caution}</p>
    </div>
  );
}

/** Weights of this trial that are kept here until the server takes them, g, by what was weighed. */
function useKept(trial: string): ReadonlyMap<string, number> {
  const { waiting, refused } = useSyncExternalStore(outbox.subscribe, outbox.kept);
  return new Map(
    [...waiting, ...refused].flatMap((row) =>
      row.kind === "weighing" && row.trial === trial ? [[keyOf(row.body), row.body.gross_g - row.body.tare_g] as const] : [],
    ),
  );
}

interface DoneProps {
  kept: ReadonlyMap<string, number>;
  trial: TrialView;
  view: Schemas["WeighView"];
  current: string | null;
  choose: (code: string) => void;
}

function Done({ trial, view, kept, current, choose }: DoneProps) {
  return (
    <section>
      <div className="sofar">
        <h2>{text.weigh.soFar(view.weighed, view.rows.length)}</h2>
        {view.weighed > 0 && <span>{text.weigh.total(shown(view.total_g, 1))}</span>}
        <TakeBack trial={trial} />
      </div>
      <div className="ticks">
        {view.rows.map((r) => (
          <Tick key={keyOf(r)} row={r} kept={kept.get(keyOf(r))} now={keyOf(r) === current} disabled={trial.reveal !== null} choose={() => choose(keyOf(r))} weigh={inWords(trial, text.weigh.weighThis)} />
        ))}
      </div>
    </section>
  );
}

interface TickProps {
  row: Schemas["WeighRow"];
  kept: number | undefined;
  now: boolean;
  disabled: boolean;
  choose: () => void;
  weigh: string;
}

/** One of what is weighed, with what it weighed. */
function Tick({ row, kept, now, disabled, choose, weigh }: TickProps) {
  const part = partOf(row);
  const net = kept ?? row.net_g;
  const weighed = typeof net === "number";
  return (
    <button type="button" data-code={row.code} disabled={disabled} onClick={choose} className={[now ? "n" : weighed ? "t" : "", kept === undefined ? "" : "kept"].join(" ").trim()}>
      <span className="sr">{weigh} </span>
      {row.code}
      {part && <em>{typeof row.sample === "number" ? row.sample : part}</em>}
      <small>{row.lost ? text.weigh.lost : weighed ? shown(net, 1) : now ? "…" : " "}</small>
    </button>
  );
}
