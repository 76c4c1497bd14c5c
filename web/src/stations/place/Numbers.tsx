import { Input } from "antd";
import { useEffect, useState } from "react";
import type { TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { typed } from "../../marks/number";
import { inDealt } from "../../marks/words";
import { usePlan } from "../../queries/trial";
import { text } from "../../text/en";

/** How many units each treatment gets, where there are not as many of each; for a deal over the whole space. */
export function Numbers({
  trial,
  locked,
}: {
  trial: TrialView;
  locked: boolean;
}) {
  const plan = usePlan(trial.id);
  const numbers = trial.rack.numbers ?? [];
  const own = numbers.join(" ");
  const [draft, setDraft] = useState<string[]>([]);
  useEffect(() => setDraft(own === "" ? [] : own.split(" ")), [own]);
  const { treatments } = trial.sheet;
  const put = (next: number[]) =>
    plan.mutate({ part: "rack", rack: () => ({ numbers: next }) });
  const commit = () => {
    const next = treatments.map((_, t) => typed(draft[t] ?? "") ?? 0);
    if (next.every((n) => Number.isInteger(n)) && next.join(" ") !== own) {
      put(next);
    }
  };
  if (draft.length === 0) {
    return locked ? null : (
      <button
        type="button"
        className="plain numbers"
        onClick={() => setDraft(treatments.map(() => String(trial.seen_each)))}
      >
        {inDealt(trial, text.place.ownNumbers)}
      </button>
    );
  }
  return (
    <fieldset className="unit-numbers" disabled={locked}>
      <legend>{inDealt(trial, text.place.numbers)}</legend>
      {treatments.map((t, i) => (
        <label key={t.name} className="field">
          <span>{t.name}</span>
          <Input
            name={`number-${i}`}
            disabled={locked}
            inputMode="numeric"
            value={draft[i] ?? ""}
            onBlur={commit}
            onPressEnter={commit}
            onChange={(e) =>
              setDraft(
                treatments.map((_, t) =>
                  t === i ? e.target.value : (draft[t] ?? ""),
                ),
              )
            }
          />
        </label>
      ))}
      <p className="soft">{inDealt(trial, text.place.numbersWhy)}</p>
      {!locked && (
        <button
          type="button"
          className="plain"
          onClick={() => {
            setDraft([]);
            if (own !== "") {
              put([]);
            }
          }}
        >
          {text.place.equalNumbers}
        </button>
      )}
      <Trouble error={plan.error} />
    </fieldset>
  );
}
