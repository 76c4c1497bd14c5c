import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import type { Sent } from "../../api/records";
import { OnceMore } from "../../frame/OnceMore";
import { Trouble } from "../../frame/Trouble";
import { useMoveJob } from "../../queries/calendar";
import { farmQuery, trialQuery, useEntry } from "../../queries/trial";
import { daysBetween, longDate } from "../../marks/date";
import { typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { WhenDone, whenSent, type When } from "./WhenDone";
import "./otherwise.css";

interface OtherwiseProps {
  /** Id of the trial. */
  trial: string;
  due: Schemas["Due"];
  close: () => void;
}

/** Work that is not done as planned: on another day, in another amount, not for all, not at all, later, or by somebody else. */
export function Otherwise({ trial, due, close }: OtherwiseProps) {
  const known = useQuery(trialQuery(trial));
  const farm = useQuery(farmQuery);
  return known.data && farm.data ? (
    <div className="otherwise">
      <DoneOtherwise
        trial={known.data}
        today={farm.data.today}
        due={due}
        close={close}
      />
      {due.can_move && <Later trial={known.data} due={due} close={close} />}
      <p className="by-others">
        <Link to="/handover/today">{text.tend.work.handOver}</Link>
      </p>
    </div>
  ) : (
    <Trouble error={known.error ?? farm.error} />
  );
}

interface Draft {
  when: When;
  /** mL, as typed. */
  each: string;
  /** Codes that did not get it. */
  without: string[];
  leftOut: boolean;
  why: string;
}

/** What is sent as one deed: the round, and those who went without. */
function recordsOf(
  due: Schemas["Due"],
  draft: Draft,
  confirmed: boolean,
): Sent[] {
  const [when, { leftOut, why }] = [whenSent(draft.when), draft];
  const round = {
    job: due.job,
    ml_a_unit: leftOut ? null : typed(draft.each),
    skipped: leftOut ? why : null,
  };
  const without = (unit: string): Sent => ({
    kind: "giving",
    head: { ...when, unit, confirmed: true },
    body: { job: due.job, to: "unit", gift: { withheld: why } },
  });
  return [
    { kind: "work", head: { ...when, confirmed }, body: round },
    ...(leftOut ? [] : draft.without).map(without),
  ];
}

interface DoneProps {
  trial: TrialView;
  today: string;
  due: Schemas["Due"];
  close: () => void;
}

function DoneOtherwise({ trial, today, due, close }: DoneProps) {
  const words = text.tend.work;
  const entry = useEntry(trial.id);
  const [draft, setDraft] = useState<Draft>({
    when: { date: today, time: "" },
    each: "",
    without: [],
    leftOut: false,
    why: "",
  });
  const wrong = Number.isNaN(typed(draft.each));
  const asksWhy = draft.leftOut || draft.without.length > 0;
  const save = async (confirmed: boolean) => {
    await entry.mutateAsync({
      trial: trial.id,
      records: recordsOf(due, draft, confirmed),
    });
    close();
  };
  const tryTo = (confirmed: boolean) =>
    void save(confirmed).catch(() => undefined);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        tryTo(false);
      }}
    >
      <WhenDone
        from={trial.sown_on ?? null}
        when={draft.when}
        setWhen={(when) => setDraft({ ...draft, when })}
      />
      {due.gives && !draft.leftOut && (
        <HowMuch
          trial={trial}
          draft={draft}
          setDraft={setDraft}
          wrong={wrong}
        />
      )}
      {due.can_skip && (
        <Checkbox
          checked={draft.leftOut}
          onChange={(e) => setDraft({ ...draft, leftOut: e.target.checked })}
        >
          {words.leftOut}
        </Checkbox>
      )}
      {asksWhy && (
        <label className="field why">
          <span>{words.why}</span>
          <Input
            name="why"
            value={draft.why}
            placeholder={words.whyPlaceholder}
            onChange={(e) => setDraft({ ...draft, why: e.target.value })}
          />
        </label>
      )}
      <div className="row">
        <Button
          type="primary"
          htmlType="submit"
          disabled={wrong || (asksWhy && draft.why.trim() === "")}
          loading={entry.isPending}
        >
          {words.keep}
        </Button>
        <button type="button" className="plain" onClick={close}>
          {words.cancel}
        </button>
      </div>
      <OnceMore error={entry.error} confirm={() => tryTo(true)} />
    </form>
  );
}

interface HowMuchProps {
  trial: TrialView;
  draft: Draft;
  setDraft: (draft: Draft) => void;
  wrong: boolean;
}

/** How much each got, and who went without. */
function HowMuch({ trial, draft, setDraft, wrong }: HowMuchProps) {
  const words = text.tend.work;
  const standing = trial.units.filter((u) => u.now && !u.lost);
  return (
    <>
      <label className="field short">
        <span>{words.each}</span>
        <Input
          name="each"
          inputMode="decimal"
          value={draft.each}
          status={wrong ? "error" : ""}
          onChange={(e) => setDraft({ ...draft, each: e.target.value })}
        />
      </label>
      <label className="field without">
        <span>{inWords(trial, words.allBut)}</span>
        <Select
          mode="multiple"
          value={draft.without}
          onChange={(without) => setDraft({ ...draft, without })}
          placeholder={words.nobody}
          aria-label={words.allBut}
          options={standing.map((u) => ({ value: u.code, label: u.code }))}
        />
      </label>
    </>
  );
}

interface LaterProps {
  trial: TrialView;
  due: Schemas["Due"];
  close: () => void;
}

/** Moves work to a later day: then it is not late. */
function Later({ trial, due, close }: LaterProps) {
  const move = useMoveJob();
  const farm = useQuery(farmQuery);
  const [date, setDate] = useState("");
  const to = trial.sown_on && date ? daysBetween(trial.sown_on, date) : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (to !== null) {
          move.mutate(
            { id: trial.id, job: due.job, from: due.day, to },
            { onSuccess: close },
          );
        }
      }}
    >
      <label className="field date">
        <span>{text.tend.work.moveTo}</span>
        <Input
          type="date"
          name="move-to"
          value={date}
          min={farm.data?.today}
          onChange={(e) => setDate(e.target.value)}
        />
      </label>
      <Button htmlType="submit" disabled={to === null} loading={move.isPending}>
        {date ? text.ahead.moveTo(longDate(date)) : text.tend.work.move}
      </Button>
      <Trouble error={move.error} />
    </form>
  );
}
