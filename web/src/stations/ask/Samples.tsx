import { useQuery } from "@tanstack/react-query";
import { Checkbox, Select } from "antd";
import type { Schemas, TrialView } from "../../api/client";
import { inWords } from "../../marks/words";
import { catalogueQuery } from "../../queries/trial";
import { text } from "../../text/en";

interface SamplesProps {
  trial: TrialView;
  ask: Schemas["Ask"];
  disabled: boolean;
  set: (change: Partial<Schemas["Ask"]>) => void;
}

/** How many plants of each unit are read one by one; the unit stays what is compared. */
export function Samples({ trial, ask, disabled, set }: SamplesProps) {
  const number = ask.samples_inside ?? 0;
  const most = useQuery(catalogueQuery).data?.limits.samples ?? 0;
  return (
    <div className="wide">
      <label className="field">
        <span>{inWords(trial, text.ask.samples)}</span>
        <Select
          id="samples-inside"
          value={number}
          disabled={disabled || (ask.crops_inside ?? []).length > 0}
          popupMatchSelectWidth={false}
          onChange={(samples_inside) =>
            set(
              samples_inside === 0
                ? { samples_inside, weigh_samples: false }
                : { samples_inside },
            )
          }
          options={[0, ...SAMPLES.filter((n) => n <= most)].map((n) => ({
            value: n,
            label:
              n === 0
                ? inWords(trial, text.ask.samplesNone)
                : text.ask.samplesEach(n),
          }))}
        />
      </label>
      {number > 0 && (
        <>
          <small className="soft">{inWords(trial, text.ask.samplesWhy)}</small>
          <Checkbox
            id="weigh-samples"
            className="weigh-samples"
            checked={ask.weigh_samples ?? false}
            disabled={disabled}
            onChange={(e) => set({ weigh_samples: e.target.checked })}
          >
            {inWords(trial, text.ask.weighSamples)}
          </Checkbox>
        </>
      )}
    </div>
  );
}

/** Numbers of samples that are offered. */
const SAMPLES = [2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 25, 30, 40];
