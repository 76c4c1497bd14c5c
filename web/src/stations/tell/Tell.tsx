import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import {
  answered,
  client,
  type Schemas,
  type TrialView,
} from "../../api/client";
import { useTrial } from "../../frame/TrialFrame";
import { Trouble } from "../../frame/Trouble";
import { longDate } from "../../marks/date";
import { Badge } from "../../marks/Mark";
import { shown } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { useIsOwner } from "../../queries/people";
import {
  catalogueQuery,
  farmQuery,
  givenQuery,
  judgeQuery,
  mixQuery,
  tendQuery,
  useNewTrial,
} from "../../queries/trial";
import { inWords } from "../../marks/words";
import { Received } from "../tend/Received";
import { text } from "../../text/en";
import { Numbers } from "../judge/Numbers";
import { Gone } from "../judge/Gone";
import { Pictures } from "../judge/Pictures";
import { Guesses } from "../judge/Guesses";
import { CropEffects } from "../judge/CropEffects";
import { BesideVerdicts } from "../judge/Measures";
import { Sentences } from "../judge/Sentences";
import { Twins } from "../judge/Twins";
import { gapSaid } from "../mix/Measured";
import { RackPicture } from "../place/RackPicture";
import { Followed } from "./Followed";
import { Tasted } from "./Tasted";
import "../judge/judge.css";
import "../place/place.css";
import "./tell.css";

/** The whole trial on a page that stands alone on paper. */
export default function Tell() {
  const trial = useTrial();
  const judge = useQuery(judgeQuery(trial.id, null));
  const farm = useQuery(farmQuery);
  const view = judge.data;
  return (
    <div className="tell">
      <Downloads id={trial.id} />
      <article className="report">
        <h1>{trial.name}</h1>
        <p className="soft">
          {farm.data?.name}
          {trial.sown_on &&
            `, ${text.tend.sownOn.toLowerCase()} ${longDate(trial.sown_on, "year")}`}
        </p>
        <h2>{text.tell.verdicts}</h2>
        {view ? (
          <Learned trial={trial} view={view} />
        ) : (
          <p>{text.tell.notYet}</p>
        )}
        <h2>{text.tell.plan}</h2>
        <Plan trial={trial} />
        <h2>{text.tell.matched}</h2>
        <SheetTable trial={trial} />
        {view && view.analysis && (
          <>
            <h2>{text.tell.results}</h2>
            {view.by_crop.length > 0 ? (
              view.by_crop.map((c, i) => (
                <CropResults
                  key={c.crop}
                  trial={trial}
                  crop={i + 1}
                  name={c.crop}
                />
              ))
            ) : (
              <Results trial={trial} view={view} analysis={view.analysis} />
            )}
          </>
        )}
        {trial.reveal !== null && <Followed trial={trial} />}
        {trial.reveal !== null && <Guesses trial={trial} />}
        <Tasted trial={trial.id} />
        <h2>{text.tell.layout}</h2>
        <RackPicture trial={trial} small />
        <Places trial={trial} />
        <Solutions trial={trial} />
        <Given trial={trial} />
        <Care trial={trial} weighed={view?.weighed ?? 0} />
        <Fairness trial={trial} />
        {trial.commitment && (
          <Seal trial={trial} commitment={trial.commitment} />
        )}
        <p className="soft">
          {text.tell.made(farm.data ? longDate(farm.data.today, "year") : "")}
        </p>
      </article>
    </div>
  );
}

/** What can be done with the report, and taken out. */
function Downloads({ id }: { id: string }) {
  const owner = useIsOwner();
  return (
    <p className="noprint doing">
      <Button onClick={() => window.print()}>{text.tell.print}</Button>
      <a href={`/api/v1/trials/${id}/export.csv`} download>
        {text.tell.csv}
      </a>
      <a href={`/api/v1/trials/${id}/plan.json`} download>
        {text.tell.planFile}
      </a>
      <a href={`/api/v1/trials/${id}/trial-plan.json`} download>
        {text.tell.trialPlan}
      </a>
      {owner && <NextRound id={id} />}
    </p>
  );
}

/** The verdicts in their sentences, whatever kind of trial it was. */
function Learned({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  return (
    <>
      {trial.trust && (
        <p className={`trust ${trial.trust.belief}`}>{trial.trust.line}</p>
      )}
      {view.dose && <p className="v">{view.dose.sentence}</p>}
      {view.by_crop.length > 0 ? (
        <CropVerdicts view={view} />
      ) : view.analysis ? (
        <Sentences trial={trial} analysis={view.analysis} />
      ) : (
        view.gone.length === 0 && <p>{text.tell.notYet}</p>
      )}
      {trial.reveal !== null && (
        <BesideVerdicts trial={trial} efficacy={view.efficacy} />
      )}
      <Gone view={view} />
      <CropEffects view={view} />
    </>
  );
}

/** What each unit has really received; by treatment once the key is open. */
function Given({ trial }: { trial: TrialView }) {
  const given = useQuery(givenQuery(trial.id));
  const view = given.data;
  if (!view || (view.rounds.length === 0 && view.singles.length === 0)) {
    return null;
  }
  return (
    <>
      <h2>{text.tend.given.title}</h2>
      {view.missed.map((m) => (
        <p key={m.job}>
          {text.tend.given.missed(m.label, text.tend.given.days(m.days))}
        </p>
      ))}
      <Received trial={trial} rows={view.received} />
    </>
  );
}

/** What was recorded, and the notes. */
function Care({ trial, weighed }: { trial: TrialView; weighed: number }) {
  const tend = useQuery(tendQuery(trial.id, null));
  return (
    <>
      <h2>{text.tell.care}</h2>
      <p>
        {tend.data &&
          text.tell.careText(
            trial.readings,
            tend.data.notes.length,
            weighed,
            trial.units.length,
          )}
      </p>
      <ul className="done">
        {tend.data?.done.map((d) => (
          <li key={d.job}>{text.tell.done(d.label, d.days)}</li>
        ))}
      </ul>
      <ul>
        {tend.data?.notes.map((n, i) => (
          <li key={i}>
            {text.tend.day(n.day)} {n.code ?? ""} {n.text}
          </li>
        ))}
      </ul>
    </>
  );
}

function Fairness({ trial }: { trial: TrialView }) {
  return (
    <>
      <h2>{text.tell.fairness}</h2>
      <ul>
        {trial.ledger.open.map((f) => (
          <li key={f.code}>
            <b>{f.title}</b> ({text.ledger.severity[f.severity]}): {f.seen}{" "}
            {f.remedy}
            {f.answer && (
              <em>
                {" "}
                {text.ledger.answered}: {f.answer.text}
              </em>
            )}
          </li>
        ))}
      </ul>
      <p>
        {text.ledger.sound}: {trial.ledger.sound.join("; ")}.
      </p>
    </>
  );
}

/** The seal, so that anybody can check it. */
function Seal({ trial, commitment }: { trial: TrialView; commitment: string }) {
  return (
    <>
      <h2>{text.tell.seal}</h2>
      <p className="print">SHA-256 {commitment}</p>
      {trial.reveal && (
        <p className="print">
          {text.place.seed} {trial.reveal.seed}, {text.place.nonce}{" "}
          {trial.reveal.nonce}:{" "}
          {trial.reveal.verified ? text.place.verified : text.place.broken}
        </p>
      )}
    </>
  );
}

/** Plans the same trial once more. */
function NextRound({ id }: { id: string }) {
  const next = useNewTrial(() =>
    answered(
      client.POST("/api/v1/trials/{id}/next-round", {
        params: { path: { id } },
      }),
    ),
  );
  return (
    <>
      <button
        type="button"
        className="plain"
        disabled={next.isPending}
        onClick={() => next.mutate(undefined)}
      >
        {text.tell.nextRound}
      </button>
      <Trouble error={next.error} />
    </>
  );
}

/** The verdict on each crop that shares a unit, and whether they agree. */
function CropVerdicts({ view }: { view: Schemas["JudgeView"] }) {
  return (
    <>
      {view.by_crop.map((c) => (
        <p key={c.crop}>
          <b>{c.crop}</b>: {c.sentences.join(" ")}
        </p>
      ))}
      <p>{view.agree ?? text.judge.noAgreement}</p>
    </>
  );
}

interface ResultsProps {
  trial: TrialView;
  view: Schemas["JudgeView"];
  analysis: Schemas["Analysis"];
}

function Results({ trial, view, analysis }: ResultsProps) {
  return (
    <>
      <Twins trial={trial} view={view} />
      <Pictures trial={trial} view={view} />
      <Numbers analysis={analysis} measure={view.measure} />
      <EveryTray trial={trial} view={view} />
    </>
  );
}

function CropResults({
  trial,
  crop,
  name,
}: {
  trial: TrialView;
  crop: number;
  name: string;
}) {
  const judge = useQuery(judgeQuery(trial.id, null, crop));
  const view = judge.data;
  return (
    <>
      <h3>{name}</h3>
      {view?.analysis && view.crop === crop && (
        <Results trial={trial} view={view} analysis={view.analysis} />
      )}
    </>
  );
}

/** Light, starting sizes and site cards, as far as they were taken. */
function Places({ trial }: { trial: TrialView }) {
  const { uniformity: light, start_balance: start } = trial;
  return (
    <>
      {light && (
        <p>
          {text.place.evenness(
            light.places,
            shown(light.least_umol, 0),
            shown(light.mean_umol, 0),
            shown(light.most_umol, 0),
            shown(light.min_over_mean, 2),
          )}
        </p>
      )}
      {typeof start?.gap_percent === "number" && (
        <p>{text.place.startGap(shown(start.gap_percent, 1))}</p>
      )}
      {trial.site_cards.map((card) => (
        <p key={card.level}>
          <b>{trial.level_names[card.level - 1]}</b>:{" "}
          {(Object.keys(text.place.card) as (keyof typeof text.place.card)[])
            .filter((line) => card[line])
            .map(
              (line) => `${text.place.card[line].toLowerCase()} ${card[line]}`,
            )
            .join("; ")}
        </p>
      ))}
    </>
  );
}

/** One column a treatment, after one for what the rows are. */
function TreatmentHeads({ trial }: { trial: TrialView }) {
  return (
    <thead>
      <tr>
        <td />
        {trial.sheet.treatments.map((t, i) => (
          <th key={t.name} scope="col">
            <Badge treatment={i} />
            {t.name}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** The figures themselves, so that anybody can do the sum again. */
function EveryTray({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  const levels = [...new Set(view.dots.map((d) => d.level))].sort(
    (a, b) => a - b,
  );
  const values = (level: number, treatment: number) =>
    view.dots
      .filter((d) => d.level === level && d.treatment === treatment)
      .map((d) => `${d.code} ${shown(d.value, view.measure.decimals)}`);
  return (
    <Wide
      className="wide"
      name={text.tell.everyTray(view.measure.name, view.measure.unit)}
    >
      <table className="got">
        <caption>
          {text.tell.everyTray(view.measure.name, view.measure.unit)}
        </caption>
        <TreatmentHeads trial={trial} />
        <tbody>
          {levels.map((level) => (
            <tr key={level}>
              <th scope="row">{trial.level_names[level - 1]}</th>
              {trial.sheet.treatments.map((t, i) => (
                <td key={t.name}>{values(level, i).join(", ")}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

/** What was mixed, with what was measured of it. */
function Solutions({ trial }: { trial: TrialView }) {
  const bench = useQuery(mixQuery(trial.id));
  const mixes = (bench.data?.treatments ?? []).flatMap((t) =>
    t.recorded.map((m) => ({ ...m, name: t.name })),
  );
  if (mixes.length === 0) {
    return null;
  }
  return (
    <>
      <h2>{text.tell.solutions}</h2>
      <Wide className="wide" name={text.tell.solutions}>
        <table className="got">
          <thead>
            <tr>
              {text.tell.solutionColumns.map((c) => (
                <th key={c} scope="col">
                  {c}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {mixes.map((m) => (
              <tr key={m.at + m.name}>
                <th scope="row">{m.name}</th>
                <td>{text.tend.day(m.day)}</td>
                <td>{shown(m.volume_l, 2)}</td>
                <td>
                  {m.portions.length > 0
                    ? m.portions.map(wentIn).join("; ")
                    : m.feed_total > 0
                      ? shown(m.feed_total, 2)
                      : text.mix.water}
                </td>
                <td>{shown(m.ec_ms_per_cm, 2)}</td>
                <td>{shown(m.computed_ec_ms_per_cm, 2)}</td>
                <td>{shown(m.ph, 1)}</td>
                <td>{gapSaid(m)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  );
}

/** An ingredient as weighed, with its lot. */
const wentIn = (p: Schemas["Portioned"]) =>
  `${shown(p.measured, p.measured < 10 ? 2 : 1)} ${p.unit} ${p.name}${p.lot ? `, ${text.mix.lot} ${p.lot}` : ""}`;

function Plan({ trial }: { trial: TrialView }) {
  const catalogue = useQuery(catalogueQuery);
  const { ask } = trial;
  const measure = catalogue.data?.measures.find(
    (m) => m.key === ask.primary_measure,
  );
  const margin =
    ask.margin.kind === "percent"
      ? `${ask.margin.value} %`
      : `${ask.margin.value} ${measure?.unit ?? ""}`;
  return (
    <dl>
      <dt>{text.tell.question}</dt>
      <dd>{ask.question || "–"}</dd>
      <dt>{text.tell.expected}</dt>
      <dd>{ask.hypothesis || "–"}</dd>
      <dt>{text.tell.decides}</dt>
      <dd>
        {measure?.name}, {text.ask.goals[ask.goal]}; {text.tell.counts(margin)};{" "}
        {text.ask.end.toLowerCase()} {ask.end_day}
        {ask.end_stage && `, ${text.ask.endStage}: ${ask.end_stage}`}
      </dd>
      {Object.keys(ask.judged_on ?? {}).length > 0 && (
        <>
          <dt>{text.ask.judgedOn}</dt>
          <dd>
            {Object.entries(ask.judged_on ?? {})
              .map(([key, days]) =>
                text.tell.onDays(
                  catalogue.data?.measures.find((m) => m.key === key)?.name ??
                    key,
                  days.join(", "),
                ),
              )
              .join("; ")}
          </dd>
        </>
      )}
      {(ask.crops_inside ?? []).length > 0 && (
        <>
          <dt>{inWords(trial, text.ask.cropsInside)}</dt>
          <dd>{(ask.crops_inside ?? []).join(", ")}</dd>
        </>
      )}
      <dt>{text.tell.changes}</dt>
      <dd>
        {trial.changes.length === 0
          ? text.tell.none
          : trial.changes
              .map(
                (c) =>
                  `${text.ask.change(c.field, c.before, c.after)} (${c.reason})`,
              )
              .join("; ")}
      </dd>
    </dl>
  );
}

function SheetTable({ trial }: { trial: TrialView }) {
  return (
    <Wide className="wide" name={text.match.sheetName}>
      <table className="got">
        <TreatmentHeads trial={trial} />
        <tbody>
          {trial.rows
            .filter((row) =>
              row.cells.some((cell) => cell != null && cell !== ""),
            )
            .map((row) => {
              const said = row.cells.filter((cell) => cell != null);
              const differs = said.some((cell) => cell !== said[0]);
              const label = `${row.name}${row.unit ? `, ${row.unit}` : ""}`;
              return (
                <tr key={label}>
                  <th scope="row">{label}</th>
                  {!differs && said.length === row.cells.length ? (
                    <td colSpan={said.length}>{said[0]}</td>
                  ) : (
                    row.cells.map((cell, i) => (
                      <td key={i}>
                        {differs && cell != null ? (
                          <b>{cell}</b>
                        ) : (
                          (cell ?? "–")
                        )}
                      </td>
                    ))
                  )}
                </tr>
              );
            })}
        </tbody>
      </table>
    </Wide>
  );
}
