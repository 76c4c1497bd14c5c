import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { Trouble } from "../frame/Trouble";
import { todayQuery, useJob } from "../queries/trial";
import { text } from "../text/en";
import "./home.css";

/** Where each kind of work is done; work without a station of its own is just marked done. */
const stationOf: Record<Schemas["Job"], string | null> = {
  sow: "tend",
  end_blackout: null,
  feed: "mix",
  read: "tend",
  harvest: "weigh",
};

function longDate(iso: string): string {
  const [year = 0, month = 1, day = 1] = iso.split("-").map(Number);
  return new Date(year, month - 1, day).toLocaleDateString([], { weekday: "long", day: "numeric", month: "long" });
}

export function Today() {
  const today = useQuery(todayQuery);
  const view = today.data;
  return (
    <>
      <Head title={text.today.title} />
      <main className="sheet alone today">
        <Trouble error={today.error} />
        {view && view.stakes.length === 0 && (
          <div className="first">
            <h2>{text.today.emptyTitle}</h2>
            <p>{text.today.emptyText}</p>
            <Link to="/trials">{text.today.startTrial}</Link>
          </div>
        )}
        {view && view.stakes.length > 0 && (
          <>
            <Stakes stakes={view.stakes} />
            <h2>{text.today.heading(longDate(view.date))}</h2>
            {view.due.length === 0 && <p>{text.today.nothing}</p>}
            <ul className="walk">
              {view.due.map((task) => (
                <TaskRow key={`${task.trial_id} ${task.job}`} task={task} />
              ))}
            </ul>
          </>
        )}
      </main>
    </>
  );
}

export function Stakes({ stakes }: { stakes: Schemas["Stake"][] }) {
  return (
    <nav className="stakes" aria-label={text.today.stakes}>
      {stakes.map((stake) => (
        <Link key={stake.id} to={`/trials/${stake.id}/${stake.next}`} className="stake">
          <i style={{ width: `${100 * stake.progress}%` }} />
          <b>{stake.name}</b>
          <span>{stake.status}</span>
        </Link>
      ))}
    </nav>
  );
}

function TaskRow({ task }: { task: Schemas["Task"] }) {
  const queries = useQueryClient();
  const job = useJob(task.trial_id);
  const station = stationOf[task.job];
  return (
    <li className={task.late > 0 ? "late" : ""}>
      <span>{task.place}</span>
      <b>
        {task.label}, {text.today.units(task.units)}
      </b>
      <em>
        {task.late > 0 ? text.today.late(task.late) : text.today.dueToday}: {task.trial}
      </em>
      {station ? (
        <Link to={`/trials/${task.trial_id}/${station}`}>{text.today.start}</Link>
      ) : (
        <button
          type="button"
          disabled={job.isPending}
          onClick={() => job.mutate({ job: task.job }, { onSettled: () => void queries.invalidateQueries(todayQuery) })}
        >
          {text.today.done}
        </button>
      )}
    </li>
  );
}
