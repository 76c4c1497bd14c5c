import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { useJob } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { Moves } from "./Moves";
import { OnceMore } from "../../frame/OnceMore";
import { Otherwise } from "./Otherwise";

type Due = Schemas["Due"];

/** What is due in a trial: done as planned with one tap, or otherwise. */
export function Work({ trial, due }: { trial: TrialView; due: Due[] }) {
  return (
    <section className="work">
      <h2>{text.tend.due}</h2>
      {due.length === 0 && <p className="soft">{text.tend.nothing}</p>}
      <ul>
        {due.map((d) => (
          <WorkRow key={d.job} trial={trial} due={d} />
        ))}
      </ul>
    </section>
  );
}

/** What the button of a piece of work says. */
function act(due: Due): string {
  if (due.job === "harvest") {
    return text.today.start;
  }
  if (due.gives) {
    return due.asked ? text.tend.work.givenToday : text.tend.work.given;
  }
  return due.asked ? text.tend.work.doneToday : text.tend.work.done;
}

function WorkRow({ trial, due }: { trial: TrialView; due: Due }) {
  const job = useJob(trial.id);
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const done = (confirmed: boolean) =>
    due.job === "harvest"
      ? void navigate(`/trials/${trial.id}/weigh`)
      : job.mutate({ job: due.job, confirmed });
  const caution = text.tend.cautions[due.job];
  return (
    <li className={due.late > 0 && !due.asked ? "late" : ""}>
      <b>{due.label}</b>
      <span>
        {due.asked
          ? text.tend.asked(due.day)
          : due.late > 0
            ? text.tend.late(due.late)
            : ""}
        {due.mind && <small>{due.mind}</small>}
      </span>
      <div className="acts">
        {due.can_skip && (
          <button
            type="button"
            className="plain else"
            aria-expanded={open}
            title={text.tend.work.otherwiseWhy}
            onClick={() => setOpen(!open)}
          >
            {text.tend.work.otherwise}
          </button>
        )}
        <Button onClick={() => done(false)} loading={job.isPending}>
          {act(due)}
        </Button>
      </div>
      {caution && <p className="caution at-work">{inWords(trial, caution)}</p>}
      {open && (
        <Otherwise trial={trial.id} due={due} close={() => setOpen(false)} />
      )}
      {job.data === "kept" && <p className="soft">{text.tend.work.unsent}</p>}
      <OnceMore error={job.error} confirm={() => done(true)} />
      {due.job === "rotate" && <Moves trial={trial} />}
    </li>
  );
}
