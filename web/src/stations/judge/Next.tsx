import { useQuery } from "@tanstack/react-query";
import { Button, Input, Radio, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { DecidedBefore } from "../../frame/DecidedBefore";
import { Trouble } from "../../frame/Trouble";
import { money, typed } from "../../marks/number";
import { inDealt } from "../../marks/words";
import { nextQuery, useDecide, usePlanNext } from "../../queries/next";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";
import { Decided } from "./Decided";

type View = Schemas["NextView"];
type Decides = Schemas["Decides"];

const KINDS: Decides[] = ["adopt", "reject", "repeat", "further"];
/** What was decided, what the figures advise, and which trials could follow. */
export function Next({ trial }: { trial: TrialView }) {
  const words = text.next;
  const found = useQuery(nextQuery(trial.id));
  const owner = useIsOwner();
  const view = found.data;
  if (!view) {
    return <Trouble error={found.error} />;
  }
  return (
    <section className="what-now">
      <h2>{words.title}</h2>
      <Decided view={view} />
      {view.advice && (
        <p className="advice">
          {words.advice} <b>{said(trial, view.advice)}</b> {view.advice.why}
        </p>
      )}
      {owner && (
        <Deciding
          key={`${view.advice?.decides}${view.decisions.length}`}
          trial={trial}
          advice={view.advice ?? null}
        />
      )}
      {view.suggestions.length > 0 && <Suggestions trial={trial} view={view} />}
      <DecidedBefore trial={trial} />
    </section>
  );
}

function said(trial: TrialView, advice: Schemas["DecisionAdvice"]): string {
  const words = text.next;
  const units =
    typeof advice.units === "number"
      ? `${advice.units} ${advice.units === 1 ? trial.dealt_word : trial.dealt_words}`
      : null;
  return words.advised(
    words.decides[advice.decides],
    advice.treatment ?? null,
    units,
  );
}

/** A decision as it is made; what the figures advise is chosen already. */
function Deciding({
  trial,
  advice,
}: {
  trial: TrialView;
  advice: Schemas["DecisionAdvice"] | null;
}) {
  const words = text.next;
  const [kind, setKind] = useState<Decides>(advice?.decides ?? "further");
  const others = trial.sheet.treatments.filter((t) => !t.control);
  const [treatment, setTreatment] = useState<string | null>(
    advice?.treatment ??
      (others.length === 1 ? (others[0]?.name ?? null) : null),
  );
  const [units, setUnits] = useState(
    typeof advice?.units === "number" ? String(advice.units) : "",
  );
  const [reason, setReason] = useState("");
  const decide = useDecide(trial.id);
  const count = typed(units);
  const wants = kind === "adopt" || kind === "reject";
  const keep = () =>
    decide.mutate({
      decides: kind,
      treatment: kind === "repeat" ? null : treatment,
      units: kind === "repeat" ? count : null,
      reason,
    });
  return (
    <form
      className="deciding"
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <Radio.Group
        value={kind}
        onChange={(e) => setKind(e.target.value as Decides)}
        aria-label={words.title}
        options={KINDS.map((value) => ({ value, label: words.decides[value] }))}
      />
      {kind === "repeat" ? (
        <label className="field">
          <span>{inDealt(trial, words.units)}</span>
          <Input
            name="decide-units"
            inputMode="numeric"
            value={units}
            onChange={(e) => setUnits(e.target.value)}
          />
        </label>
      ) : (
        <label className="field">
          <span>{words.treatment}</span>
          <Select
            value={treatment}
            onChange={setTreatment}
            aria-label={words.treatment}
            allowClear={kind === "further"}
            options={trial.sheet.treatments.map((t) => ({
              value: t.name,
              label: t.name,
            }))}
          />
        </label>
      )}
      <label className="field wide">
        <span>{words.reason}</span>
        <Input
          name="decide-reason"
          value={reason}
          maxLength={400}
          onChange={(e) => setReason(e.target.value)}
        />
      </label>
      <Button
        htmlType="submit"
        type="primary"
        loading={decide.isPending}
        disabled={(wants && treatment === null) || Number.isNaN(count)}
      >
        {words.keep}
      </Button>
      <Trouble error={decide.error} />
    </form>
  );
}

/** Trials that could follow, one press to plan. */
function Suggestions({ trial, view }: { trial: TrialView; view: View }) {
  const words = text.next;
  const plan = usePlanNext(trial.id);
  const go = useNavigate();
  const owner = useIsOwner();
  const start = async (key: string) => {
    const made = await plan.mutateAsync(key).catch(() => null);
    if (made) {
      await go(`/trials/${made.id}/ask`);
    }
  };
  return (
    <>
      <h3>{words.suggested}</h3>
      <ul className="suggestions">
        {view.suggestions.map((own) => (
          <li key={own.key} data-key={own.key}>
            <div>
              <b>{own.title}</b>
              <p>
                {own.why} {own.teaches}
              </p>
              <p className="soft">
                {inDealt(trial, words.size(own.treatments, own.units))}
                {typeof own.cost === "number" &&
                  `; ${words.costs(money(view.currency, own.cost))}`}
              </p>
            </div>
            {owner && (
              <Button
                loading={plan.isPending && plan.variables === own.key}
                onClick={() => void start(own.key)}
              >
                {words.plan}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Trouble error={plan.error} />
    </>
  );
}
