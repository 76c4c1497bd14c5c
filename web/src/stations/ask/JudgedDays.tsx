import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { daysIn } from "../../marks/days";
import { catalogueQuery } from "../../queries/trial";
import { text } from "../../text/en";

interface Props {
  ask: Schemas["Ask"];
  disabled: boolean;
  set: (change: Partial<Schemas["Ask"]>) => void;
}

/** Days on which what is recorded is judged; left empty, by the last figure. */
export function JudgedDays({ ask, disabled, set }: Props) {
  const catalogue = useQuery(catalogueQuery);
  const recorded = [
    ask.primary_measure,
    ...(ask.also ?? []).filter((key) => key !== ask.primary_measure),
  ];
  const measures = recorded.flatMap(
    (key) =>
      catalogue.data?.measures.filter((m) => m.key === key && m.of_a_day) ?? [],
  );
  const put = (key: string, days: number[]) => {
    const others = Object.entries(ask.judged_on ?? {}).filter(
      ([other]) => other !== key,
    );
    set({
      judged_on: Object.fromEntries(
        days.length > 0 ? [...others, [key, days]] : others,
      ),
    });
  };
  if (measures.length === 0) {
    return null;
  }
  return (
    <details
      className="wide judged-days"
      open={Object.keys(ask.judged_on ?? {}).length > 0}
    >
      <summary>{text.ask.judgedOn}</summary>
      {measures.map((m) => (
        <DaysField
          key={m.key}
          name={m.key}
          label={text.ask.judgedOf(m.name)}
          none={text.ask.judgedLast}
          days={ask.judged_on?.[m.key] ?? []}
          disabled={disabled}
          onDays={(days) => put(m.key, days)}
        />
      ))}
      <p className="soft">{text.ask.judgedOnWhy}</p>
    </details>
  );
}

/** Days before the end on which it is looked at by plan. */
export function PlannedLooks({ ask, disabled, set }: Props) {
  const days = ask.looks_on ?? [];
  return (
    <details className="wide judged-days" open={days.length > 0}>
      <summary>{text.looks.ask}</summary>
      <DaysField
        name="looks"
        label={text.looks.askDays}
        none={text.looks.none}
        days={days}
        disabled={disabled}
        onDays={(looks_on) => set({ looks_on })}
      />
      <p className="soft">{text.looks.askWhy}</p>
    </details>
  );
}

interface FieldProps {
  name: string;
  label: string;
  /** What an empty field stands for. */
  none: string;
  days: number[];
  disabled: boolean;
  onDays: (days: number[]) => void;
}

function DaysField({ name, label, none, days, disabled, onDays }: FieldProps) {
  const saved = days.join(", ");
  const [draft, setDraft] = useState(saved);
  useEffect(() => setDraft(saved), [saved]);
  const read = daysIn(draft);
  const commit = () => {
    if (read !== null && read.join(", ") !== saved) {
      onDays(read);
    }
  };
  return (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`judged-${name}`}
        value={draft}
        disabled={disabled}
        placeholder={none}
        status={read === null ? "error" : ""}
        inputMode="numeric"
        onChange={(e) => setDraft(e.target.value)}
        onBlur={commit}
        onPressEnter={commit}
      />
    </label>
  );
}
