import { useQuery } from "@tanstack/react-query";
import { AutoComplete, Button, Input, Segmented, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import type { Sent } from "../../api/records";
import { typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { farmQuery, useEntry } from "../../queries/trial";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";
import { OnceMore } from "../../frame/OnceMore";
import { WhenDone, whenSent, type When } from "./WhenDone";
import "./otherwise.css";

type Kind = "as_planned" | "own" | "withheld";
type How = NonNullable<Schemas["GivenPortion"]["how"]>;
type PortionUnit = NonNullable<Schemas["GivenPortion"]["unit"]>;

interface GivingFormProps {
  trial: TrialView;
  view: Schemas["GivenView"];
  close: () => void;
}

/** To whom, of one value of a list: the unit where it is one, and what the record says. */
function whom(value: string): [string | null, Schemas["GivenTo"]] {
  const [kind, rest = ""] = [value.slice(0, 1), value.slice(1)];
  switch (kind) {
    case "u":
      return [rest, "unit"];
    case "j":
      return [null, { jug: Number(rest) }];
    case "t":
      return [null, { treatment: Number(rest) }];
    default:
      return [null, "all"];
  }
}

/** All that may be chosen as recipient: units, jugs, and for who may know the key treatments. */
function useRecipients(
  trial: TrialView,
  view: Schemas["GivenView"],
  kind: Kind,
) {
  const words = text.tend.given;
  const owner = useIsOwner();
  const units = trial.units
    .filter((u) => u.now && !u.lost)
    .map((u) => ({ value: `u${u.code}`, label: u.code }));
  const jugs = (view.jugs ?? []).map((j) => ({
    value: `j${j.number}`,
    label: `${words.jug(j.number)}: ${j.codes.join(" ")}`,
  }));
  const treatments = trial.sheet.treatments.map((t, i) => ({
    value: `t${i}`,
    label: t.name,
  }));
  return [
    ...(kind === "own"
      ? [{ value: "a", label: inWords(trial, words.toAll) }]
      : []),
    { label: inWords(trial, words.toUnits), title: "", options: units },
    ...(jugs.length > 0
      ? [{ label: words.toJugs, title: "", options: jugs }]
      : []),
    ...(owner
      ? [{ label: words.toTreatments, title: "", options: treatments }]
      : []),
  ];
}

interface Draft {
  kind: Kind;
  /** One value of the list of recipients; null before one is chosen. */
  to: string | null;
  job: Schemas["Job"];
  when: When;
  own: Own;
  why: string;
}

/** What is sent of a draft; null while something is missing. */
function giving(draft: Draft, confirmed: boolean): Sent | null {
  const { kind, to, job, own, why } = draft;
  const amount = typed(own.amount);
  const words = { as_planned: "-", own: own.what, withheld: why }[kind];
  if (to === null || words.trim() === "" || Number.isNaN(amount)) {
    return null;
  }
  const gifts = {
    as_planned: "as_planned" as const,
    own: { own: { ...own, amount } },
    withheld: { withheld: why },
  };
  const [unit, recipient] = whom(to);
  return {
    kind: "giving",
    head: { ...whenSent(draft.when), unit, confirmed },
    body: { job, to: recipient, gift: gifts[kind] },
  };
}

/** Something given to one unit, jug or treatment; or that one of them went without. */
export function GivingForm({ trial, view, close }: GivingFormProps) {
  const words = text.tend.given;
  const farm = useQuery(farmQuery);
  const entry = useEntry(trial.id);
  const [draft, setDraft] = useState<Draft>({
    kind: "own",
    to: null,
    job: view.jobs[0]?.job ?? "feed",
    when: { date: farm.data?.today ?? "", time: "" },
    own: NOTHING,
    why: "",
  });
  const set = (change: Partial<Draft>) =>
    setDraft((now) => ({ ...now, ...change }));
  const recipients = useRecipients(trial, view, draft.kind);
  const save = (confirmed: boolean) => {
    const own = giving(draft, confirmed);
    if (own) {
      entry.mutate(
        { trial: trial.id, records: [own] },
        { onSuccess: (state) => state === "saved" && close() },
      );
    }
  };
  return (
    <form
      className="otherwise giving-form"
      onSubmit={(event) => {
        event.preventDefault();
        save(false);
      }}
    >
      <Segmented<Kind>
        value={draft.kind}
        aria-label={words.kind}
        onChange={(kind) =>
          set({
            kind,
            to: kind !== "own" && draft.to === "a" ? null : draft.to,
          })
        }
        options={(["own", "as_planned", "withheld"] as const).map((value) => ({
          value,
          label: words.kinds[value],
        }))}
      />
      <label className="field to">
        <span>{words.to}</span>
        <Select
          value={draft.to}
          onChange={(to) => set({ to })}
          options={recipients}
          showSearch={{ optionFilterProp: "label" }}
          aria-label={words.to}
        />
      </label>
      <WhenDone
        from={trial.sown_on ?? null}
        when={draft.when}
        setWhen={(when) => set({ when })}
      />
      <PartOf view={view} job={draft.job} setJob={(job) => set({ job })} />
      {draft.kind === "own" && (
        <OwnPortion
          own={draft.own}
          setOwn={(own) => set({ own })}
          known={view.known}
          wrong={Number.isNaN(typed(draft.own.amount))}
        />
      )}
      {draft.kind === "withheld" && (
        <label className="field why">
          <span>{text.tend.work.why}</span>
          <Input
            name="why"
            value={draft.why}
            placeholder={text.tend.work.whyPlaceholder}
            onChange={(e) => set({ why: e.target.value })}
          />
        </label>
      )}
      <div className="row">
        <Button
          type="primary"
          htmlType="submit"
          disabled={giving(draft, false) === null}
          loading={entry.isPending}
        >
          {text.tend.work.keep}
        </Button>
        <button type="button" className="plain" onClick={close}>
          {text.tend.work.cancel}
        </button>
      </div>
      {entry.data === "kept" && <p className="soft">{text.tend.work.unsent}</p>}
      <OnceMore error={entry.error} confirm={() => save(true)} />
    </form>
  );
}

interface PartOfProps {
  view: Schemas["GivenView"];
  job: Schemas["Job"];
  setJob: (job: Schemas["Job"]) => void;
}

/** Which work it is part of: feeding, watering, giving beside the water. */
function PartOf({ view, job, setJob }: PartOfProps) {
  const jobs = (["feed", "water", "apply"] as const).map((value) => ({
    value,
    label:
      view.jobs.find((j) => j.job === value)?.label ??
      text.tend.given.verbs[value] ??
      value,
  }));
  return (
    <label className="field part">
      <span>{text.tend.given.part}</span>
      <Select
        value={job}
        onChange={setJob}
        options={jobs}
        aria-label={text.tend.given.part}
      />
    </label>
  );
}

interface Own {
  what: string;
  how: How;
  amount: string;
  unit: PortionUnit;
  lot: string;
  batch: string;
}

const NOTHING: Own = {
  what: "",
  how: "stirred",
  amount: "",
  unit: "mL",
  lot: "",
  batch: "",
};

interface OwnPortionProps {
  own: Own;
  setOwn: (own: Own) => void;
  known: string[];
  wrong: boolean;
}

/** What, how, how much, and where it came from. */
function OwnPortion({ own, setOwn, known, wrong }: OwnPortionProps) {
  const words = text.tend.given;
  const hows = (Object.keys(words.hows) as How[]).map((value) => ({
    value,
    label: words.hows[value],
  }));
  return (
    <>
      <label className="field what">
        <span>{words.what}</span>
        <AutoComplete
          value={own.what}
          onChange={(what: string) => setOwn({ ...own, what })}
          options={known.map((value) => ({ value }))}
          aria-label={words.what}
        />
      </label>
      <label className="field how">
        <span>{words.how}</span>
        <Select
          value={own.how}
          onChange={(how) => setOwn({ ...own, how })}
          options={hows}
          aria-label={words.how}
        />
      </label>
      <label className="field short">
        <span>{words.amount}</span>
        <Input
          name="amount"
          inputMode="decimal"
          value={own.amount}
          status={wrong ? "error" : ""}
          onChange={(e) => setOwn({ ...own, amount: e.target.value })}
        />
      </label>
      <label className="field short">
        <span>{words.unit}</span>
        <Select<PortionUnit>
          value={own.unit}
          onChange={(unit) => setOwn({ ...own, unit })}
          options={[
            { value: "mL", label: "mL" },
            { value: "g", label: "g" },
          ]}
          aria-label={words.unit}
        />
      </label>
      <label className="field lot">
        <span>{words.lot}</span>
        <Input
          name="lot"
          value={own.lot}
          onChange={(e) => setOwn({ ...own, lot: e.target.value })}
        />
      </label>
      <label className="field batch">
        <span>{words.batch}</span>
        <Input
          name="batch"
          value={own.batch}
          onChange={(e) => setOwn({ ...own, batch: e.target.value })}
        />
      </label>
    </>
  );
}
