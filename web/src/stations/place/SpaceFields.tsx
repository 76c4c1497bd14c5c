import { Input, Select } from "antd";
import { useEffect, useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { typed } from "../../marks/number";
import { usePlan } from "../../queries/trial";
import { inPlace } from "../../marks/words";
import { text } from "../../text/en";
import { LevelNames } from "./LevelNames";
import { Numbers } from "./Numbers";
import { Reach } from "./Reach";

/** What the grow space is, how large, what its levels are called, and how treatments are dealt over it. */
export function SpaceFields({
  trial,
  locked,
}: {
  trial: TrialView;
  locked: boolean;
}) {
  const plan = usePlan(trial.id);
  const { rack } = trial;
  const { name, levels, slots } = rack;
  const [draft, setDraft] = useState({ name: "", levels: "", slots: "" });
  const design = rack.design ?? "blocks";
  const kind = rack.kind ?? "rack";
  useEffect(
    () => setDraft({ name, levels: String(levels), slots: String(slots) }),
    [name, levels, slots],
  );
  const put = (change: Partial<Schemas["Rack"]>) =>
    plan.mutate({ part: "rack", rack: { ...rack, ...change } });
  const commit = () => {
    const next = {
      name: draft.name,
      levels: typed(draft.levels) ?? 0,
      slots: typed(draft.slots) ?? 0,
    };
    if (
      Number.isInteger(next.levels) &&
      Number.isInteger(next.slots) &&
      JSON.stringify(next) !== JSON.stringify({ name, levels, slots })
    ) {
      put({
        ...next,
        names: (rack.names ?? []).slice(0, next.levels),
        crops: (rack.crops ?? []).slice(0, next.levels),
      });
    }
  };
  const field = (key: "name" | "levels" | "slots", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`rack-${key}`}
        value={draft[key]}
        disabled={locked}
        inputMode={key === "name" ? "text" : "numeric"}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
        onBlur={commit}
        onPressEnter={commit}
      />
    </label>
  );
  const rounds = design === "swap_over";
  const choose = (chosen: Schemas["RackDesign"]) => {
    // Who deals whole levels has said how far the fixture reaches.
    const said =
      trial.through && chosen === "fixtures"
        ? { [trial.through.fixture]: "level" as const }
        : {};
    put({ design: chosen, numbers: [], serves: { ...rack.serves, ...said } });
  };
  return (
    <div className="rack-fields">
      <label className="field">
        <span>{text.place.kind}</span>
        <Select
          value={kind}
          disabled={locked}
          id="space-kind"
          onChange={(chosen) => put({ kind: chosen })}
          options={Object.entries(text.place.kinds).map(([value, label]) => ({
            value: value as Schemas["SpaceKind"],
            label,
          }))}
        />
      </label>
      {field("name", text.place.name)}
      {field("levels", rounds ? text.place.rounds : text.place.levelsOf[kind])}
      {field("slots", rounds ? text.place.systems : text.place.slotsOf[kind])}
      <label className="field design">
        <span>{text.place.design}</span>
        <Select
          value={design}
          disabled={locked}
          id="design"
          onChange={choose}
          popupMatchSelectWidth={false}
          options={Object.entries(text.place.designs).map(([value, label]) => ({
            value: value as Schemas["RackDesign"],
            label: inPlace(trial, label),
          }))}
        />
      </label>
      <p className="soft design-why">
        {inPlace(trial, text.place.designWhy[design])}
      </p>
      <Reach trial={trial} locked={locked} />
      {(design === "completely_randomised" || design === "fixtures") && (
        <Numbers trial={trial} locked={locked} />
      )}
      {!rounds && <LevelNames trial={trial} locked={locked} put={put} />}
      <Trouble error={plan.error} />
    </div>
  );
}
