import { Input } from "antd";
import { useEffect, useState } from "react";
import type { TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { usePlan, useStarts } from "../../queries/trial";
import { text } from "../../text/en";
import { useSealedReason } from "./SealedReason";
import { SlotFigures } from "./SlotFigures";

/** Starting sizes, place by place; how evenly the deal shares them, and how unevenly it may. */
export function Starts({ trial }: { trial: TrialView }) {
  const starts = useStarts(trial.id);
  const plan = usePlan(trial.id);
  const goesBy =
    trial.rack.design === "by_size" ||
    typeof trial.rack.within_percent === "number";
  const locked = trial.reveal !== null || (trial.sealed_at !== null && goesBy);
  const { wanted, reason, field } = useSealedReason(trial);
  const within = trial.rack.within_percent ?? null;
  const [draft, setDraft] = useState("");
  useEffect(() => setDraft(within === null ? "" : String(within)), [within]);
  const commit = () => {
    const value = typed(draft);
    if (!Number.isNaN(value) && value !== within) {
      plan.mutate({
        part: "rack",
        rack: () => ({ within_percent: value }),
      });
    }
  };
  const size = (level: number, slot: number) =>
    trial.rack.starts?.[(level - 1) * trial.rack.slots + slot - 1] ?? undefined;
  const { gap_percent, by_level_percent, by_size_percent } =
    trial.start_balance ?? {};
  return (
    <>
      <p className="soft">{inWords(trial, text.place.startHow)}</p>
      {!locked && field}
      <SlotFigures
        trial={trial}
        name="start"
        locked={locked || wanted}
        inField
        figure={size}
        onFigure={(level, slot, value) =>
          starts.mutate({ places: [{ level, slot, value }], reason })
        }
      />
      {trial.start_balance && (
        <p className="evenness">
          {typeof gap_percent === "number" &&
            text.place.startGap(shown(gap_percent, 1))}{" "}
          {typeof by_level_percent === "number" &&
            typeof by_size_percent === "number" &&
            text.place.startUsual(
              shown(by_level_percent, 1),
              shown(by_size_percent, 1),
            )}
        </p>
      )}
      <label className="field within">
        <span>{text.place.within}</span>
        <Input
          name="within"
          inputMode="decimal"
          value={draft}
          placeholder={text.place.withinHint}
          disabled={trial.sealed_at !== null}
          onChange={(e) => setDraft(e.target.value)}
          onBlur={commit}
          onPressEnter={commit}
        />
      </label>
      <Trouble error={starts.error ?? plan.error} />
    </>
  );
}
