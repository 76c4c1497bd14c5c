import { Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown } from "../../marks/number";
import { useLight } from "../../queries/trial";
import { text } from "../../text/en";
import { useSealedReason } from "./SealedReason";
import { SlotFigures } from "./SlotFigures";

/** The light of each place, typed in walking order and drawn as heat. */
export function LightMap({ trial }: { trial: TrialView }) {
  const [scale, setScale] = useState<Schemas["LightScale"]>("umol");
  const [kind, setKind] = useState("white LED");
  const light = useLight(trial.id);
  const { wanted, reason, field } = useSealedReason(trial);
  const locked = trial.reveal !== null || wanted;
  return (
    <>
      <div className="light-fields">
        <label className="field">
          <span>{text.place.lightScale}</span>
          <Select
            value={scale}
            onChange={setScale}
            id="light-scale"
            disabled={trial.reveal !== null}
            options={[
              { value: "umol" as const, label: text.place.umol },
              { value: "lux" as const, label: text.place.lux },
            ]}
          />
        </label>
        {scale === "lux" && (
          <label className="field">
            <span>{text.place.lightKind}</span>
            <Select
              value={kind}
              onChange={setKind}
              id="light-kind"
              options={text.place.luxKinds.map((value) => ({
                value,
                label: value,
              }))}
            />
          </label>
        )}
        <p className="soft">{text.place.lightHow}</p>
      </div>
      {field}
      <SlotFigures
        trial={trial}
        name="light"
        locked={locked}
        inField={scale === "umol"}
        figure={(level, slot) =>
          trial.light.find((l) => l.level === level && l.slot === slot)?.umol
        }
        onFigure={(level, slot, value) =>
          light.mutate({
            places: [{ level, slot, value }],
            scale,
            kind: scale === "lux" ? kind : "",
            reason,
          })
        }
      />
      {trial.uniformity ? (
        <p className="evenness">
          {text.place.evenness(
            trial.uniformity.places,
            shown(trial.uniformity.least_umol, 0),
            shown(trial.uniformity.mean_umol, 0),
            shown(trial.uniformity.most_umol, 0),
            shown(trial.uniformity.min_over_mean, 2),
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
