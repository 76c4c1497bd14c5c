import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { Badge } from "../../marks/Mark";
import { typed } from "../../marks/number";
import { usePlan } from "../../queries/trial";
import { text } from "../../text/en";
import { RackPicture } from "./RackPicture";
import "./place.css";

export default function Place() {
  const trial = useTrial();
  const plan = usePlan(trial.id);
  const locked = trial.sealed_at !== null;
  const dealt = trial.commitment !== null;
  return (
    <div className="place">
      <div>
        <RackFields trial={trial} locked={locked} />
        <RackPicture trial={trial} />
        {trial.used_slots < trial.rack.slots && <p className="soft">{text.place.stays(trial.rack.slots - trial.used_slots)}</p>}
        <p className="soft">{text.place.edges}</p>
      </div>
      <aside className="dealing">
        <h2>{text.place.dealt}</h2>
        {dealt ? <Dealt trial={trial} /> : <p>{text.place.notDealt[trial.rack.design ?? "blocks"]}</p>}
        {!locked && (
          <Button
            type={dealt ? "default" : "primary"} loading={plan.isPending} className="deal"
            onClick={() => plan.mutate({ part: "deal" })}
          >
            {dealt ? text.place.again : text.place.deal}
          </Button>
        )}
        {dealt && (
          <p className="to-labels">
            <Link to={`/trials/${trial.id}/labels`}>{text.place.labels}</Link>
          </p>
        )}
        <Trouble error={plan.error} />
      </aside>
    </div>
  );
}

function RackFields({ trial, locked }: { trial: TrialView; locked: boolean }) {
  const plan = usePlan(trial.id);
  const [draft, setDraft] = useState({ name: "", levels: "", slots: "" });
  const { name, levels, slots } = trial.rack;
  const design = trial.rack.design ?? "blocks";
  useEffect(() => setDraft({ name, levels: String(levels), slots: String(slots) }), [name, levels, slots]);
  const commit = () => {
    const rack = { name: draft.name, levels: typed(draft.levels) ?? 0, slots: typed(draft.slots) ?? 0, design };
    if (Number.isInteger(rack.levels) && Number.isInteger(rack.slots) && JSON.stringify(rack) !== JSON.stringify({ name, levels, slots, design })) {
      plan.mutate({ part: "rack", rack });
    }
  };
  const field = (key: "name" | "levels" | "slots", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`rack-${key}`} value={draft[key]} disabled={locked} inputMode={key === "name" ? "text" : "numeric"}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })} onBlur={commit} onPressEnter={commit}
      />
    </label>
  );
  return (
    <div className="rack-fields">
      {field("name", text.place.rack)}
      {field("levels", text.place.levels)}
      {field("slots", text.place.slots)}
      <label className="field design">
        <span>{text.place.design}</span>
        <Select
          value={design} disabled={locked} id="design"
          onChange={(chosen) => plan.mutate({ part: "rack", rack: { ...trial.rack, design: chosen } })}
          options={Object.entries(text.place.designs).map(([value, label]) => ({ value: value as Schemas["RackDesign"], label }))}
        />
      </label>
      <p className="soft design-why">{text.place.designWhy[design]}</p>
      <Trouble error={plan.error} />
    </div>
  );
}

function grouped(fingerprint: string): string {
  return (fingerprint.match(/.{1,8}/g) ?? []).join(" ");
}

function Dealt({ trial }: { trial: TrialView }) {
  const { reveal } = trial;
  const ways = trial.ways < 1e9 ? Math.round(trial.ways).toLocaleString() : trial.ways.toExponential(1);
  return (
    <>
      <p>{text.place.how[trial.rack.design ?? "blocks"]}</p>
      <p>{text.place.ways(ways)}</p>
      {trial.sealed_at && <p>{text.place.sown}</p>}
      <h3>{text.place.seal}</h3>
      <p className="print" title={text.place.sealWhy}>
        {grouped(trial.commitment ?? "")}
      </p>
      {reveal ? (
        <>
          <p>
            <b>{reveal.verified ? text.place.verified : text.place.broken}</b>
          </p>
          <p className="print">
            {text.place.seed} {reveal.seed}
            <br />
            {text.place.nonce} {grouped(reveal.nonce)}
          </p>
          <h3>{text.place.key}</h3>
          {trial.sheet.treatments.map((t, i) => (
            <p key={t.name}>
              <Badge treatment={i} />
              {t.name}: {trial.units.filter((u) => u.treatment === i).map((u) => u.code).join(" ")}
            </p>
          ))}
        </>
      ) : (
        <p className="soft">{text.place.sealWhy}</p>
      )}
    </>
  );
}
