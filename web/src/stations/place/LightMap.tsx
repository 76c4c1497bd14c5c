import { Select } from "antd";
import { useState, type KeyboardEvent } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { useLight } from "../../queries/trial";
import { text } from "../../text/en";
import { levelsSeen, Space } from "./RackPicture";

/** Places in the order of a walk: along the first level seen, back along the next. */
function walk(trial: TrialView): [number, number][] {
  return levelsSeen(trial).flatMap((level, i) => {
    const along = Array.from({ length: trial.rack.slots }, (_, s): [number, number] => [level, s + 1]);
    return i % 2 === 1 ? along.reverse() : along;
  });
}

/** From paper to a warm yellow, by share of the brightest place. */
const warmth = (share: number) => `hsl(46 ${Math.round(20 + 70 * share)}% ${Math.round(93 - 33 * share)}%)`;

/** The light of each place, typed in walking order and drawn as heat. */
export function LightMap({ trial }: { trial: TrialView }) {
  const [scale, setScale] = useState<Schemas["LightScale"]>("umol");
  const [kind, setKind] = useState("white LED");
  const light = useLight(trial.id);
  const locked = trial.reveal !== null;
  const order = walk(trial);
  const brightest = trial.uniformity?.most_umol ?? 1;
  const go = (e: KeyboardEvent<HTMLInputElement>, level: number, slot: number) => {
    const step = e.key === "Enter" || e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    const next = step && order[order.findIndex(([l, s]) => l === level && s === slot) + step];
    if (step) {
      e.preventDefault();
      e.currentTarget.blur();
    }
    if (next) {
      document.querySelector<HTMLInputElement>(`input[name="light-${next[0]}-${next[1]}"]`)?.focus();
    }
  };
  return (
    <>
      <div className="light-fields">
        <label className="field">
          <span>{text.place.lightScale}</span>
          <Select
            value={scale} onChange={setScale} id="light-scale" disabled={locked}
            options={[
              { value: "umol" as const, label: text.place.umol },
              { value: "lux" as const, label: text.place.lux },
            ]}
          />
        </label>
        {scale === "lux" && (
          <label className="field">
            <span>{text.place.lightKind}</span>
            <Select value={kind} onChange={setKind} id="light-kind" options={text.place.luxKinds.map((value) => ({ value, label: value }))} />
          </label>
        )}
        <p className="soft">{text.place.lightHow}</p>
      </div>
      <Space
        trial={trial}
        place={(level, slot) => {
          const own = trial.light.find((l) => l.level === level && l.slot === slot);
          return (
            <label className="heat" style={own ? { background: warmth(brightest > 0 ? own.umol / brightest : 0) } : undefined}>
              <LightField
                key={`${own?.umol ?? ""}-${scale}`} name={`light-${level}-${slot}`} label={`${trial.level_names[level - 1] ?? ""}, ${slot}`} locked={locked}
                first={scale === "umol" && own ? String(Math.round(own.umol * 10) / 10) : ""}
                onValue={(value) => light.mutate({ places: [{ level, slot, value }], scale, kind: scale === "lux" ? kind : "" })}
                onKey={(e) => go(e, level, slot)}
              />
              {own && scale === "lux" && <small>{shown(own.umol, 0)}</small>}
            </label>
          );
        }}
      />
      {trial.uniformity ? (
        <p className="evenness">
          {text.place.evenness(
            trial.uniformity.places, shown(trial.uniformity.least_umol, 0), shown(trial.uniformity.mean_umol, 0),
            shown(trial.uniformity.most_umol, 0), shown(trial.uniformity.min_over_mean, 2),
          )}
        </p>
      ) : (
        <p className="soft">{text.place.noLight}</p>
      )}
      <p className="soft">{text.place.lightCaution}</p>
      <Trouble error={light.error} />
    </>
  );
}

interface LightFieldProps {
  name: string;
  label: string;
  first: string;
  locked: boolean;
  onValue: (value: number | null) => void;
  onKey: (e: KeyboardEvent<HTMLInputElement>) => void;
}

function LightField({ name, label, first, locked, onValue, onKey }: LightFieldProps) {
  const [draft, setDraft] = useState(first);
  const commit = () => {
    const value = typed(draft);
    if (draft !== first && !Number.isNaN(value)) {
      onValue(value);
    }
  };
  return (
    <input
      name={name} aria-label={label} value={draft} inputMode="decimal" disabled={locked} onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setDraft(e.target.value)} onBlur={commit} onKeyDown={onKey}
    />
  );
}
