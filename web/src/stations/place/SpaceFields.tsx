import { Input, Select } from "antd";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { typed } from "../../marks/number";
import { useFields } from "../../marks/useFields";
import { type RackChange, resized, usePlan } from "../../queries/trial";
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
  const { draft, type, take } = useFields({
    name,
    levels: String(levels),
    slots: String(slots),
  });
  const design = rack.design ?? "blocks";
  const kind = rack.kind ?? "rack";
  const put = (change: RackChange) =>
    plan.mutate({ part: "rack", rack: change });
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
      take();
      put(resized(next));
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
        onChange={(e) => type(key, e.target.value)}
        onBlur={commit}
        onPressEnter={commit}
      />
    </label>
  );
  const rounds = design === "swap_over";
  return (
    <div className="rack-fields">
      <label className="field">
        <span>{text.place.kind}</span>
        <Select
          value={kind}
          disabled={locked}
          id="space-kind"
          onChange={(chosen) => put(() => ({ kind: chosen }))}
          options={Object.entries(text.place.kinds).map(([value, label]) => ({
            value: value as Schemas["SpaceKind"],
            label,
          }))}
        />
      </label>
      {field("name", text.place.name)}
      {field("levels", rounds ? text.place.rounds : text.place.levelsOf[kind])}
      {field("slots", rounds ? text.place.systems : text.place.slotsOf[kind])}
      <Design trial={trial} locked={locked} put={put} />
      <Reach trial={trial} locked={locked} />
      {(design === "completely_randomised" || design === "fixtures") && (
        <Numbers trial={trial} locked={locked} />
      )}
      {!rounds && <LevelNames trial={trial} locked={locked} put={put} />}
      <Trouble error={plan.error} />
    </div>
  );
}

/** How the treatments are dealt over it, and why one would. */
function Design({
  trial,
  locked,
  put,
}: {
  trial: TrialView;
  locked: boolean;
  put: (change: RackChange) => void;
}) {
  const design = trial.rack.design ?? "blocks";
  const choose = (chosen: Schemas["RackDesign"]) => {
    // Who deals whole levels has said how far the fixture reaches.
    const said =
      trial.through && chosen === "fixtures"
        ? { [trial.through.fixture]: "level" as const }
        : {};
    put((now) => ({
      design: chosen,
      numbers: [],
      serves: { ...now.serves, ...said },
    }));
  };
  return (
    <>
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
    </>
  );
}
