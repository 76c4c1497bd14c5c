import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { longDate } from "../marks/date";
import { calendarQuery, useMoveJob, useNotAway } from "../queries/calendar";
import { text } from "../text/en";

/** Its fields come when it is opened, so that the first route stays light. */
const AddAway = lazy(() => import("./AddAway"));

/** Days shown at first; the rest comes at a click. */
const SOON = 7;

/** What lies ahead by date, and days away with what falls into them. */
export function Ahead() {
  const calendar = useQuery(calendarQuery);
  const [all, setAll] = useState(false);
  const view = calendar.data;
  if (!view) {
    return <Trouble error={calendar.error} />;
  }
  const later = view.ahead.filter((a) => a.date > view.today);
  const dates = [...new Set(later.map((a) => a.date))];
  const shown = all ? dates : dates.slice(0, SOON);
  return (
    <div className="ahead">
      <section>
        <h2>{text.ahead.title}</h2>
        {dates.length === 0 && <p className="soft">{text.ahead.nothing}</p>}
        <dl>
          {shown.map((date) => (
            <div key={date}>
              <dt>{longDate(date, "weekday")}</dt>
              <dd>
                {later
                  .filter((a) => a.date === date)
                  .map((a) => (
                    <span key={`${a.trial_id} ${a.label}`}>
                      <b>{a.label}</b>{" "}
                      {a.trial_id && (
                        <Link to={`/trials/${a.trial_id}/tend`}>{a.trial}</Link>
                      )}
                    </span>
                  ))}
              </dd>
            </div>
          ))}
        </dl>
        <p className="acts">
          {dates.length > SOON && (
            <button
              type="button"
              className="plain"
              onClick={() => setAll(!all)}
            >
              {all ? text.ahead.less : text.ahead.more(dates.length - SOON)}
            </button>
          )}
          <a href="/api/v1/calendar.ics" download>
            {text.ahead.file}
          </a>
        </p>
      </section>
      <Away view={view} />
    </div>
  );
}

function Away({ view }: { view: Schemas["CalendarView"] }) {
  const [open, setOpen] = useState(false);
  return (
    <section className="days-away">
      <h2>{text.ahead.away}</h2>
      {view.away.map((stretch) => (
        <Stretch key={stretch.id} stretch={stretch} />
      ))}
      {open ? (
        <Suspense fallback={null}>
          <AddAway today={view.today} onKept={() => setOpen(false)} />
        </Suspense>
      ) : (
        <button type="button" className="plain" onClick={() => setOpen(true)}>
          {text.ahead.add}
        </button>
      )}
    </section>
  );
}

/** One stretch away: what falls into it, and where it could go. */
function Stretch({ stretch }: { stretch: Schemas["AwayView"] }) {
  const not = useNotAway();
  const move = useMoveJob();
  return (
    <article>
      <p>
        <b>
          {longDate(stretch.first)} {text.ahead.to} {longDate(stretch.last)}
        </b>{" "}
        {stretch.note}{" "}
        <button
          type="button"
          className="plain"
          disabled={not.isPending}
          onClick={() => not.mutate(stretch.id)}
        >
          {text.ahead.notAway}
        </button>
      </p>
      {stretch.clashes.length === 0 && (
        <p className="soft">{text.ahead.noClash}</p>
      )}
      <ul>
        {stretch.clashes.map((clash) => (
          <li key={`${clash.trial_id} ${clash.job} ${clash.day}`}>
            <span>
              {longDate(clash.date)}: {clash.label}, {clash.trial}
            </span>
            {typeof clash.move_to === "number" && clash.move_to_date ? (
              <button
                type="button"
                className="plain"
                disabled={move.isPending}
                onClick={() =>
                  move.mutate({
                    id: clash.trial_id,
                    job: clash.job,
                    from: clash.day,
                    to: clash.move_to ?? 0,
                  })
                }
              >
                {text.ahead.moveTo(longDate(clash.move_to_date))}
              </button>
            ) : (
              <em>{text.ahead.handOver}</em>
            )}
          </li>
        ))}
      </ul>
      {stretch.clashes.length > 0 && (
        <Link to={`/handover/${stretch.id}`}>{text.ahead.sheet}</Link>
      )}
      <Trouble error={not.error ?? move.error} />
    </article>
  );
}
