import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState, type FormEvent } from "react";
import type { Problem, Schemas, TrialView } from "../../api/client";
import { send } from "../../api/outbox";
import type { Sent } from "../../api/records";
import { noteSaved } from "../../frame/saved";
import { closed } from "../../frame/Trouble";
import { grams, type MassUnit } from "../../marks/mass";
import { typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { farmQuery, refreshTrial } from "../../queries/trial";
import { text } from "../../text/en";
import { keyOf } from "./parts";

interface AsideProps {
  trial: TrialView;
  view: Schemas["WeighView"];
  unit: MassUnit;
}

const FRESH = { key: "", net: "", date: "" };

/** What was taken of a row aside, as it is sent. */
const pickOf = (
  { code, crop, sample }: Schemas["WeighRow"],
  netG: number,
  date: string,
  confirmed: boolean,
): Sent => ({
  kind: "pick",
  head: {
    unit: code,
    crop: crop ?? null,
    sample: sample ?? null,
    date: date || null,
    confirmed,
  },
  body: { gross_g: netG, tare_g: 0, aside: true, grade: "" },
});

/** What was taken before the harvest, as for the kitchen: it is counted in, and the ledger looks whether all gave as much. */
export function Aside({ trial, view, unit }: AsideProps) {
  const words = text.aside;
  const queries = useQueryClient();
  const today = useQuery(farmQuery).data?.today;
  const [draft, setDraft] = useState(FRESH);
  const [problem, setProblem] = useState<Problem | null>(null);
  const net = typed(draft.net);
  const row = view.rows.find((r) => keyOf(r) === draft.key);
  const set = (change: Partial<typeof FRESH>) => {
    setDraft({ ...draft, ...change });
    setProblem(null);
  };
  const record = async (event: FormEvent) => {
    event.preventDefault();
    if (!row || net === null || Number.isNaN(net)) {
      return;
    }
    const sure = problem?.code === "unlikely";
    const outcome = await send({
      trial: trial.id,
      records: [pickOf(row, grams(net, unit), draft.date, sure)],
    });
    if (outcome.state === "refused") {
      setProblem(outcome.problem);
      return;
    }
    noteSaved();
    setDraft(FRESH);
    await refreshTrial(queries, trial.id);
  };
  const options = view.rows
    .filter((r) => !r.lost)
    .map((r) => ({
      value: keyOf(r),
      label: [r.code, r.crop_name, r.sample].filter(Boolean).join(" "),
    }));
  return (
    <details className="aside">
      <summary>{inWords(trial, words.title)}</summary>
      <form className="row" onSubmit={(event) => void record(event)}>
        <label className="field">
          <span>{inWords(trial, words.from)}</span>
          <Select
            id="aside-unit"
            value={draft.key || undefined}
            onChange={(key: string) => set({ key })}
            options={options}
          />
        </label>
        <label className="field">
          <span>{words.weight(unit)}</span>
          <Input
            name="aside-net"
            inputMode="decimal"
            value={draft.net}
            onChange={(e) => set({ net: e.target.value })}
          />
        </label>
        <label className="field">
          <span>{words.when}</span>
          <Input
            type="date"
            name="aside-date"
            min={trial.sown_on ?? undefined}
            max={today}
            value={draft.date || today}
            onChange={(e) => set({ date: e.target.value })}
          />
        </label>
        <Button htmlType="submit" disabled={!row || net === null || !(net > 0)}>
          {problem?.code === "unlikely" ? text.tend.confirm : words.keep}
        </Button>
      </form>
      {problem && (
        <p className="trouble" role="alert">
          <b>{closed(problem.title)}</b> {problem.detail}
        </p>
      )}
      <p className="soft">{inWords(trial, words.why)}</p>
    </details>
  );
}
