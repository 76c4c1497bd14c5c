import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { lazy, Suspense, useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { answered, client, type Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { OnceMore } from "../frame/OnceMore";
import { Trouble } from "../frame/Trouble";
import { longDate } from "../marks/date";
import { todayQuery, trialsQuery, useJob } from "../queries/trial";
import { text, type StationKey } from "../text/en";
import { Ahead } from "./Ahead";
import { ZoneAsked } from "./ZoneAsked";
import "./home.css";

const Otherwise = lazy(async () => ({
  default: (await import("../stations/tend/Otherwise")).Otherwise,
}));

/** The station at which a kind of work is done; the rest is just marked done. */
const stationOf: Partial<Record<Schemas["Job"], StationKey>> = {
  sow: "tend",
  rotate: "tend",
  feed: "mix",
  apply: "mix",
  read: "tend",
  observe: "tend",
  harvest: "weigh",
};

export function Today() {
  const today = useQuery(todayQuery);
  const view = today.data;
  return (
    <>
      <Head title={text.today.title} />
      <main className="sheet alone today">
        <Trouble error={today.error} />
        {view && view.stakes.length > 0 && <ZoneAsked />}
        {view && view.stakes.length === 0 && <First />}
        {view && view.stakes.length > 0 && (
          <>
            <Stakes stakes={view.stakes} />
            {view.more_ended > 0 && (
              <Link to="/trials">{text.today.moreEnded(view.more_ended)}</Link>
            )}
            <h2>{text.today.heading(longDate(view.date, "weekday"))}</h2>
            {view.due.length === 0 && <p>{text.today.nothing}</p>}
            <ul className="walk">
              {view.due.map((task) => (
                <TaskRow key={`${task.trial_id} ${task.label}`} task={task} />
              ))}
            </ul>
            <Ahead />
          </>
        )}
      </main>
    </>
  );
}

/** An empty bench: what to do first, and a finished trial to look at. */
function First() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const trials = useQuery(trialsQuery);
  const examples = useMutation({
    mutationFn: () => answered(client.POST("/api/v1/examples")),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="first">
      <h2>{text.today.emptyTitle}</h2>
      <p>{text.today.emptyText}</p>
      <Button
        type="primary"
        size="large"
        onClick={() => void navigate("/trials")}
      >
        {text.today.startTrial}
      </Button>
      {trials.data?.length === 0 && (
        <>
          <p className="or">{text.today.exampleText}</p>
          <Button
            loading={examples.isPending}
            onClick={() => examples.mutate(undefined)}
          >
            {text.today.examples}
          </Button>
          <Trouble error={examples.error} />
        </>
      )}
    </div>
  );
}

interface StakesProps {
  stakes: Schemas["Stake"][];
  /** What stands below each stake. */
  under?: (stake: Schemas["Stake"]) => ReactNode;
}

export function Stakes({ stakes, under }: StakesProps) {
  return (
    <nav className="stakes" aria-label={text.today.stakes}>
      {stakes.map((stake) => (
        <div key={stake.id}>
          <Link to={`/trials/${stake.id}/${stake.next}`} className="stake">
            <i style={{ width: `${100 * stake.progress}%` }} />
            <b>{stake.name}</b>
            <span>{stake.status}</span>
          </Link>
          {under?.(stake)}
        </div>
      ))}
    </nav>
  );
}

/** One piece of work: where, what and why now; done with one tap, or otherwise. */
function TaskRow({ task }: { task: Schemas["Task"] }) {
  const job = useJob(task.trial_id ?? "");
  const [open, setOpen] = useState(false);
  const done = (confirmed: boolean) => job.mutate({ job: task.job, confirmed });
  const caution = text.tend.cautions[task.job];
  const words = text.tend.work;
  return (
    <li className={task.late > 0 && !task.asked ? "late" : ""}>
      <span>{task.place}</span>
      <b>
        {task.title}
        {task.units > 0 ? `, ${text.today.units(task.units)}` : ""}
        {caution && <small className="at-work">{caution}</small>}
      </b>
      <em>
        {task.asked
          ? text.tend.asked(task.day)
          : task.late > 0
            ? text.today.late(task.late)
            : text.today.dueToday}
        {task.trial ? `: ${task.trial}` : ""}
        {task.mind && <small>{task.mind}</small>}
      </em>
      <Acts
        task={task}
        busy={job.isPending}
        done={() => done(false)}
        open={open}
        toggle={() => setOpen(!open)}
      />
      {open && task.trial_id && (
        <Suspense fallback={null}>
          <Otherwise
            trial={task.trial_id}
            due={task}
            close={() => setOpen(false)}
          />
        </Suspense>
      )}
      {job.data === "kept" && <p className="soft">{words.unsent}</p>}
      <OnceMore error={job.error} confirm={() => done(true)} />
    </li>
  );
}

/** Where a piece of work is done, that it is, and how otherwise. */
function Acts({
  task,
  busy,
  done,
  open,
  toggle,
}: {
  task: Schemas["Task"];
  busy: boolean;
  done: () => void;
  open: boolean;
  toggle: () => void;
}) {
  const station = stationOf[task.job];
  const words = text.tend.work;
  return (
    <div className="acts">
      {task.job === "calibrate" && (
        <Link to="/stores/meters">{text.today.start}</Link>
      )}
      {station && (
        <Link to={`/trials/${task.trial_id}/${station}`}>
          {text.today.startAt(text.stations[station])}
        </Link>
      )}
      {task.can_skip && (
        <button type="button" disabled={busy} onClick={done}>
          {task.gives ? words.given : task.asked ? words.doneToday : words.done}
        </button>
      )}
      {task.can_skip && (
        <button
          type="button"
          className="plain"
          aria-expanded={open}
          title={words.otherwiseWhy}
          onClick={toggle}
        >
          {words.otherwise}
        </button>
      )}
    </div>
  );
}
