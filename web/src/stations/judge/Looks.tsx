import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Wide } from "../../marks/Wide";
import { shown } from "../../marks/number";
import { inWords } from "../../marks/words";
import { looksQuery, useLook } from "../../queries/looks";
import { text } from "../../text/en";

/** Looks before the end: those that were had, and one that can be had without the key. */
export function Looks({ trial }: { trial: TrialView }) {
  const words = text.looks;
  const found = useQuery(looksQuery(trial.id));
  const view = found.data;
  const nothing =
    trial.reveal === null
      ? view?.measures.length === 0 && view.had.length === 0
      : view?.had.length === 0;
  if (!view || nothing) {
    return <Trouble error={found.error} />;
  }
  return (
    <section className="looks">
      <h2>{words.title}</h2>
      {trial.reveal === null && (
        <p className="soft">{inWords(trial, words.why)}</p>
      )}
      {view.planned.length > 0 && view.stages.length === 0 && (
        <p>{words.planned(view.planned)}</p>
      )}
      {view.had.length > 0 && (
        <ul>
          {view.had.map((look) => (
            <li key={look.at}>
              <span>{words.on(look.day, look.measure)}</span>{" "}
              <b>{inWords(trial, words.answers[look.answer])}</b>{" "}
              <small className="soft">
                {look.planned ? words.asPlanned : words.beside}, {look.who}
              </small>
            </li>
          ))}
        </ul>
      )}
      {view.had.at(-1)?.answer === "out_of_reach" && (
        <p className="soft">{words.outOfReach}</p>
      )}
      <Spends trial={trial} stages={view.stages} />
      {trial.reveal === null &&
        (view.not_now === null ? (
          <Have trial={trial} view={view} />
        ) : (
          <p className="soft">{view.not_now}</p>
        ))}
    </section>
  );
}

/** How much of the error allowance each look and the end take. */
function Spends({
  trial,
  stages,
}: {
  trial: TrialView;
  stages: Schemas["Stage"][];
}) {
  const words = text.looks;
  const end = stages.at(-1);
  if (!end) {
    return null;
  }
  const told = (stage: Schemas["Stage"]) =>
    stage.told
      ? words.brief[stage.told]
      : stage.missed
        ? words.missed
        : stage.end && trial.reveal !== null
          ? words.verdict
          : words.ahead;
  return (
    <>
      <h3>{words.spends}</h3>
      <Wide className="numbers" name={words.spends}>
        <table>
          <thead>
            <tr>
              {words.columns.map((c) => (
                <th key={c} scope="col">
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {stages.map((stage) => (
              <tr key={stage.day}>
                <th scope="row">
                  {stage.end ? words.end(stage.day) : stage.day}
                </th>
                <td>{spent(stage.spent_percent)}</td>
                <td>
                  {typeof stage.confidence_percent === "number"
                    ? words.interval(
                        stage.confidence_percent > 99.99
                          ? words.most
                          : shown(stage.confidence_percent, 2),
                      )
                    : "–"}
                </td>
                <td>{told(stage)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <p className="soft">
        {trial.reveal === null
          ? words.spendsWhy
          : words.adjusted(shown(end.confidence_percent, 2))}
      </p>
    </>
  );
}

/** An allowance in plain digits; what is next to none is said to be. */
const spent = (percent: number) =>
  percent === 0 ? "0" : percent < 0.01 ? "under 0.01" : shown(percent, 2);

/** The button that looks, with what it costs said before it is pressed. */
function Have({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["LooksView"];
}) {
  const words = text.looks;
  const [chosen, setChosen] = useState<string | null>(null);
  const look = useLook(trial.id);
  const measure =
    view.measures.find((m) => m.key === chosen) ??
    view.measures.find((m) => m.decides) ??
    view.measures[0];
  if (!measure) {
    return null;
  }
  const cost = !measure.decides
    ? words.costsNothing
    : view.is_planned
      ? words.costsItsShare
      : words.costsTrust;
  return (
    <>
      <p>{cost}</p>
      <p className="row">
        {view.measures.length > 1 && (
          <Select
            value={measure.key}
            onChange={setChosen}
            aria-label={words.at}
            popupMatchSelectWidth={false}
            options={view.measures.map((m) => ({
              value: m.key,
              label: m.decides ? words.decides(m.name) : m.name,
            }))}
          />
        )}
        <Button
          loading={look.isPending}
          onClick={() => look.mutate(measure.key)}
        >
          {words.look(measure.name)}
        </Button>
      </p>
      <Trouble error={look.error} />
    </>
  );
}
