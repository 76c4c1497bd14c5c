import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { inWords } from "../../marks/words";
import { givenQuery, useJugs } from "../../queries/trial";
import { useIsOwner } from "../../queries/people";
import { text } from "../../text/en";
import { GivingForm } from "./GivingForm";
import { Received } from "./Received";

type View = Schemas["GivenView"];

/** What was given: what each has received, what is missing, every entry, and the jugs of who feeds without the key. */
export function Giving({ trial }: { trial: TrialView }) {
  const given = useQuery(givenQuery(trial.id));
  const [open, setOpen] = useState(false);
  const view = given.data;
  const words = text.tend.given;
  if (!view) {
    return <Trouble error={given.error} />;
  }
  const none = view.rounds.length === 0 && view.singles.length === 0;
  return (
    <section className="giving">
      <h2>{words.title}</h2>
      {view.missed.map((m) => (
        <p key={m.job} className="missed">
          {words.missed(m.label, words.days(m.days))}
        </p>
      ))}
      {none ? (
        <p className="soft">{words.none}</p>
      ) : (
        <Received trial={trial} rows={view.received} />
      )}
      {trial.reveal === null && (
        <>
          <button
            type="button"
            className="plain"
            aria-expanded={open}
            title={inWords(trial, words.enterWhy)}
            onClick={() => setOpen(!open)}
          >
            {words.enter}
          </button>
          {open && (
            <GivingForm
              trial={trial}
              view={view}
              close={() => setOpen(false)}
            />
          )}
        </>
      )}
      {view.jugs && trial.reveal === null && (
        <Jugs trial={trial} jugs={view.jugs} out={view.jugs_given_out} />
      )}
      {!none && <Log trial={trial} view={view} />}
    </section>
  );
}

/** What a round or a single gift was, in a line. */
function told(gift: Schemas["GiftView"]): string {
  const words = text.tend.given;
  if (gift === "as_planned") {
    return words.asPlanned;
  }
  if ("withheld" in gift) {
    return words.withheld(gift.withheld);
  }
  const { what, how = "stirred", amount, unit, lot, batch } = gift.own;
  const much =
    typeof amount === "number"
      ? `, ${shown(amount, amount < 10 ? 1 : 0)} ${unit ?? "mL"} each`
      : "";
  const from = [lot && `lot ${lot}`, batch && `batch ${batch}`]
    .filter(Boolean)
    .join(", ");
  return `${what === "sealed" ? words.sealed : what}, ${words.hows[how]}${much}${from && `, ${from}`}`;
}

interface Line {
  key: string;
  head: Schemas["EntryHead"];
  job: Schemas["Job"];
  what: string;
  to: string;
}

/** Every entry, newest first, with both its instants where they part. */
function Log({ trial, view }: { trial: TrialView; view: View }) {
  const words = text.tend.given;
  const labels = new Map(view.jobs.map((j) => [j.job, j.label]));
  const rounds: Line[] = view.rounds.map((r) => {
    const each =
      typeof r.ml_a_unit === "number"
        ? `${shown(r.ml_a_unit, 0)} mL each`
        : words.asPlanned;
    return {
      key: `r ${r.at} ${r.entered_at}`,
      head: r,
      job: r.job,
      what: r.skipped ? words.leftOut(r.skipped) : each,
      to: inWords(trial, words.toAll),
    };
  });
  const singles: Line[] = view.singles.map((s) => ({
    key: `s ${s.at} ${s.entered_at} ${s.to}`,
    head: s,
    job: s.job,
    what: told(s.gift),
    to: s.to,
  }));
  const lines = [...rounds, ...singles].sort((a, b) =>
    b.head.at.localeCompare(a.head.at),
  );
  return (
    <details className="given-log">
      <summary>
        {words.log} ({lines.length})
      </summary>
      <Wide className="received-wide" name={words.log}>
        <table className="received">
          <thead>
            <tr>
              {words.logColumns.map((c) => (
                <th key={c} scope="col">
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <tr key={line.key}>
                <td className="figure">{line.head.day}</td>
                <td>
                  {labels.get(line.job)}: {line.what}
                </td>
                <td>{line.to}</td>
                <td>
                  {line.head.who}
                  {line.head.late > 0 && (
                    <small> {words.late(line.head.late)}</small>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </details>
  );
}

/** Which codes are filled from which jug: who feeds needs no more. */
function Jugs({
  trial,
  jugs,
  out,
}: {
  trial: TrialView;
  jugs: Schemas["Jug"][];
  out: boolean;
}) {
  const words = text.tend.jugs;
  const owner = useIsOwner();
  const give = useJugs(trial.id);
  return (
    <details className="jugs" open={out}>
      <summary>{words.title}</summary>
      <p className="soft">{words.why}</p>
      <ul>
        {jugs.map((jug) => (
          <li key={jug.number}>
            <b>{jug.number}</b> {jug.codes.join(" ")}{" "}
            {!jug.turn && <em>{words.notToday}</em>}
          </li>
        ))}
      </ul>
      <p className="caution at-work">{words.rinse}</p>
      {out ? (
        <p className="soft">{words.givenOut}</p>
      ) : (
        owner && (
          <p>
            <Button
              onClick={() => give.mutate(undefined)}
              loading={give.isPending}
            >
              {words.giveOut}
            </Button>{" "}
            <small>{words.giveOutWhy}</small>
          </p>
        )
      )}
      <Trouble error={give.error} />
    </details>
  );
}
