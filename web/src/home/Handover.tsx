import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useParams } from "react-router";
import { Head } from "../frame/Head";
import { NotHere, Trouble } from "../frame/Trouble";
import { longDate } from "../marks/date";
import { Qr } from "../marks/Qr";
import { calendarQuery, labelsQuery } from "../queries/calendar";
import { givenQuery, todayQuery } from "../queries/trial";
import type { Schemas } from "../api/client";
import { text } from "../text/en";
import "./home.css";

/** A piece of work for somebody else. */
interface Line {
  key: string;
  date: string;
  trial: string;
  trialId: string | null;
  job: Schemas["Job"];
  label: string;
}

/** What falls into a stretch away, or is due today. */
function useLines(away: string): {
  lines: Line[] | null;
  heading: string;
  error: unknown;
} {
  const calendar = useQuery(calendarQuery);
  const today = useQuery(todayQuery);
  if (away === "today") {
    const view = today.data;
    const lines = view?.due.map((t) => ({
      key: `${t.trial_id} ${t.title}`,
      date: view.date,
      trial: t.trial,
      trialId: t.trial_id ?? null,
      job: t.job,
      label: t.title,
    }));
    return {
      lines: lines ?? null,
      heading: text.handover.today,
      error: today.error,
    };
  }
  const stretch = calendar.data?.away.find((a) => a.id === away);
  const lines = stretch?.clashes.map((c) => ({
    key: `${c.trial_id} ${c.job} ${c.day}`,
    date: c.date,
    trial: c.trial,
    trialId: c.trial_id,
    job: c.job,
    label: c.label,
  }));
  const heading = stretch
    ? text.handover.heading(longDate(stretch.first), longDate(stretch.last))
    : "";
  return {
    lines: lines ?? (calendar.data ? [] : null),
    heading,
    error: calendar.error,
  };
}

/** A sheet to print for whoever does the work: what falls on which day, with a box to tick. By code, never by treatment. */
export default function Handover() {
  const { away = "" } = useParams();
  const { lines, heading, error } = useLines(away);
  if (lines !== null && heading === "") {
    return <NotHere />;
  }
  const trials = new Map(
    (lines ?? []).flatMap((l) =>
      l.trialId ? [[l.trialId, l.trial] as const] : [],
    ),
  );
  return (
    <>
      <Head title={text.handover.title} />
      <main className="sheet alone handover">
        <Trouble error={error} />
        {lines && (
          <>
            <Button
              className="noprint"
              type="primary"
              onClick={() => window.print()}
            >
              {text.tell.print}
            </Button>
            <h1>{heading}</h1>
            <p>{text.handover.lead}</p>
            <Lines lines={lines} />
            {[...trials].map(([id, name]) => (
              <ByTrial key={id} id={id} name={name} />
            ))}
          </>
        )}
      </main>
    </>
  );
}

/** The work, line by line, each with its caution and boxes to tick. */
function Lines({ lines }: { lines: Line[] }) {
  return (
    <table>
      <thead>
        <tr>
          {text.handover.columns.map((c) => (
            <th key={c} scope="col">
              {c}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <tr key={line.key}>
            <td>{longDate(line.date, "weekday")}</td>
            <td>{line.trial}</td>
            <td>
              <b>{line.label}</b>
              {line.job === "feed" && <small>{text.handover.feed}</small>}
              {text.tend.cautions[line.job] && (
                <small>{text.tend.cautions[line.job]}</small>
              )}
            </td>
            <td className="tick" />
            <td className="tick" />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The codes of a trial in walking order, each with a box and a code that leads to its page; and its jugs, if given out. */
function ByTrial({ id, name }: { id: string; name: string }) {
  const labels = useQuery(labelsQuery(id));
  const given = useQuery(givenQuery(id));
  const jugs = given.data?.jugs_given_out ? (given.data.jugs ?? []) : [];
  return (
    <section className="by-trial">
      <h2>{name}</h2>
      <Trouble error={labels.error} />
      {jugs.length > 0 && (
        <>
          <p>{text.handover.jugs}</p>
          <ul className="boxes">
            {jugs.map((jug) => (
              <li key={jug.number}>
                <b>{text.tend.given.jug(jug.number)}</b>
                <i />
                <small>{jug.codes.join(" ")}</small>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="soft">{text.handover.scan}</p>
      <ul className="boxes">
        {labels.data?.labels.map((label) => (
          <li key={label.code}>
            <b>{label.code}</b>
            <i />
            <small>{label.place}</small>
            <Qr rows={label.qr} label={label.link} />
          </li>
        ))}
      </ul>
    </section>
  );
}
