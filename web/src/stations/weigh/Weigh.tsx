import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { TakeBack } from "../../frame/TakeBack";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { shown } from "../../marks/number";
import { weighQuery } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { Now } from "./Now";
import { keyOf, partOf } from "./parts";
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
