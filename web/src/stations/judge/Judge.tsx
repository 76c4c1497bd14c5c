import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useRef, useState } from "react";
import { Link } from "react-router";
import {
  answered,
  client,
  type Schemas,
  type TrialView,
} from "../../api/client";
import { Guessers } from "../../frame/Guessers";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { money, ofAHundred, shown } from "../../marks/number";
import { pricesQuery } from "../../queries/money";
import { useIsOwner } from "../../queries/people";
import { catalogueQuery, judgeQuery, useTrialWrite } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { downloadSvg } from "../../marks/download";
import { text } from "../../text/en";
import { Courses } from "./Courses";
import { CropEffects } from "./CropEffects";
import { Factors } from "./Factors";
import { Gone } from "./Gone";
import { Guesses } from "./Guesses";
import { SealCheck } from "./SealCheck";
import { Looks } from "./Looks";
import { BesideVerdicts, Measures } from "./Measures";
import { Moment } from "./Moment";
import { MoneyTold } from "./Money";
import { Next } from "./Next";
import { Numbers } from "./Numbers";
import { Pictures } from "./Pictures";
import { ScorecardTold } from "./Scorecard";
import { Sentences } from "./Sentences";
import { Twins } from "./Twins";
import { WhyTold } from "./Why";
import "./judge.css";

export default function Judge() {
  const trial = useTrial();
  const [measure, setMeasure] = useState<string | null>(null);
  const [against, setAgainst] = useState<number | null>(null);
  const [crop, setCrop] = useState<number | null>(null);
  const [numbers, setNumbers] = useState(false);
  const [moment, setMoment] = useState(false);
  const judge = useQuery(judgeQuery(trial.id, measure, crop, against));
  const view = judge.data;
  if (!view) {
    return <Trouble error={judge.error} />;
  }
  if (trial.reveal === null) {
    return <Sealed trial={trial} view={view} opened={() => setMoment(true)} />;
  }
  if (moment) {
    return <Moment trial={trial} view={view} done={() => setMoment(false)} />;
  }
  return (
    <div className="judge">
      {trial.trust && (
        <p className={`trust ${trial.trust.belief}`}>{trial.trust.line}</p>
      )}
      {view.dose && trial.ask.seeks === "dose" && (
        <Enough
          dose={view.dose}
          command={numbers ? (view.dose_command ?? "") : ""}
        />
      )}
      {view.by_crop.length > 0 && (
        <Crops trial={trial} view={view} setCrop={setCrop} />
      )}
      {view.analysis && view.by_crop.length === 0 && (
        <Sentences trial={trial} analysis={view.analysis} />
      )}
      <BesideVerdicts trial={trial} efficacy={view.efficacy} />
      <Gone view={view} />
      <CropEffects view={view} />
      {view.spent.length > 0 && view.by_crop.length === 0 && (
        <Spent trial={trial} view={view} />
      )}
      {view.analysis?.factors && (
        <Factors
          factors={view.analysis.factors}
          unit={view.measure.unit}
          decimals={view.measure.decimals}
        />
      )}
      {view.dose && trial.ask.seeks !== "dose" && (
        <Enough
          dose={view.dose}
          command={numbers ? (view.dose_command ?? "") : ""}
        />
      )}
      {view.trouble && view.gone.length === 0 && (
        <p className="trouble">{view.trouble}</p>
      )}
      {trial.sheet.treatments.length > 2 &&
        view.by_crop.length === 0 &&
        !view.analysis?.factors && (
          <label className="against">
            <span>{text.judge.against}</span>
            <Select
              size="small"
              value={
                against ?? trial.sheet.treatments.findIndex((t) => t.control)
              }
              onChange={setAgainst}
              id="against"
              popupMatchSelectWidth={false}
              options={trial.sheet.treatments.map((t, value) => ({
                value,
                label: t.name,
              }))}
            />
          </label>
        )}
      <Figures
        trial={trial}
        view={view}
        setMeasure={setMeasure}
        numbers={numbers}
        setNumbers={setNumbers}
      />
      <Courses trial={trial} view={view} />
      <Pictures trial={trial} view={view} />
      {view.analysis && (
        <Under
          trial={trial}
          analysis={view.analysis}
          unit={view.measure.unit}
        />
      )}
      <Looks trial={trial} />
      {numbers && view.command && <Same command={view.command} />}
      <Measures trial={trial} />
      <MoneyTold trial={trial} />
      <ScorecardTold trial={trial} />
      <Afterwards trial={trial} again={() => setMoment(true)} />
    </div>
  );
}

/** What follows from the verdict, and the reveal once more. */
function Afterwards({ trial, again }: { trial: TrialView; again: () => void }) {
  return (
    <>
      <WhyTold trial={trial} />
      <Next trial={trial} />
      <Guesses trial={trial} />
      <Guessers />
      <p>
        <button type="button" className="plain" onClick={again}>
          {text.moment.again}
        </button>
      </p>
      <SealCheck trial={trial} />
    </>
  );
}

/** What was spent on each unit, and for one unit of what it gained. */
function Spent({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  const currency = useQuery(pricesQuery).data?.currency ?? "";
  const line = (s: Schemas["Spent"]) =>
    text.judge.spent(
      shown(s.per_unit, s.per_unit < 10 ? 1 : 0),
      s.unit,
      s.name,
      trial.unit_word,
    ) +
    (typeof s.per_effect === "number"
      ? text.judge.perEffect(shown(s.per_effect, 2), s.unit, view.measure.unit)
      : "") +
    (typeof s.cost_per_effect === "number"
      ? text.judge.costPerEffect(money(currency, s.cost_per_effect))
      : "");
  return (
    <p className="soft spent">
      {view.spent.map((t) => (
        <span key={t.treatment}>
          {t.treatment.charAt(0).toUpperCase() + t.treatment.slice(1)}:{" "}
          {t.spent.map(line).join("; ")}.{" "}
        </span>
      ))}
    </p>
  );
}

/** The command that gives the same figures. */
function Same({ command }: { command: string }) {
  return (
    <p className="soft command">
      {text.judge.same} <code>{command}</code>
    </p>
  );
}

/** A ladder of doses: which is enough. */
function Enough({
  dose,
  command,
}: {
  dose: Schemas["DoseOut"];
  command: string;
}) {
  return (
    <section className="enough">
      <h2>{text.judge.enough}</h2>
      <p className="v">{dose.sentence}</p>
      {command && <Same command={command} />}
    </section>
  );
}

/** Crops that share a unit: the verdict on each, and whether they agree. */
function Crops({
  trial,
  view,
  setCrop,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
  setCrop: (crop: number) => void;
}) {
  return (
    <>
      <div className="by-crop">
        {view.by_crop.map((c, i) => (
          <section key={c.crop}>
            <h2>
              <button
                type="button"
                className="plain"
                aria-pressed={view.crop === i + 1}
                onClick={() => setCrop(i + 1)}
              >
                {c.crop}
              </button>
            </h2>
            {c.sentences.map((sentence) => (
              <p key={sentence}>{sentence}</p>
            ))}
          </section>
        ))}
      </div>
      <p className="soft">{text.judge.cropsWhy(view.by_crop.length)}</p>
      {view.agreement ? (
        <Factors
          factors={view.agreement}
          unit={view.measure.unit}
          decimals={view.measure.decimals}
          instead={{
            sentence: view.agree ?? "",
            heading: text.judge.agree,
            factor: "treatment",
          }}
        />
      ) : (
        <p className="soft">{text.judge.noAgreement}</p>
      )}
      <p>
        {inWords(
          trial,
          text.judge.cropShown(
            trial.ask.crops_inside?.[(view.crop ?? 1) - 1] ?? "",
          ),
        )}
      </p>
    </>
  );
}

function Sealed({
  trial,
  view,
  opened,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
  opened: () => void;
}) {
  const standing = trial.units.filter((u) => !u.lost).length;
  return (
    <div className="judge">
      <p className="v">
        {inWords(trial, text.judge.sealedTitle(view.weighed, standing))}
      </p>
      <p>{inWords(trial, text.judge.sealedText)}</p>
      {view.weighed < standing && (
        <p>
          <Link to={`/trials/${trial.id}/weigh`}>{text.judge.toWeigh}</Link>
        </p>
      )}
      {view.weighed > 0 && (
        <OpenKey trial={trial} early={view.early} opened={opened} />
      )}
      {view.dots.length > 0 ? (
        <Twins trial={trial} view={view} />
      ) : (
        <p className="soft">{text.judge.nothing}</p>
      )}
      <Looks trial={trial} />
      <Guesses trial={trial} />
    </div>
  );
}

/** Opens the key: the owner's, and before the end with a reason. */
function OpenKey({
  trial,
  early,
  opened,
}: {
  trial: TrialView;
  early: boolean;
  opened: () => void;
}) {
  const owner = useIsOwner();
  const [reason, setReason] = useState("");
  const reveal = useTrialWrite(trial.id, () =>
    answered(
      client.POST("/api/v1/trials/{id}/reveal", {
        params: { path: { id: trial.id } },
        body: { reason },
      }),
    ),
  );
  // Told before the trial is read anew, after which this button is no longer there.
  const open = async () => {
    opened();
    await reveal.mutateAsync(undefined).catch(() => null);
  };
  return (
    <>
      <p className="open-key">
        <Button
          type={early ? "default" : "primary"}
          size="large"
          disabled={!owner || (early && reason.trim() === "")}
          loading={reveal.isPending}
          onClick={() => void open()}
        >
          {early ? text.judge.openAnyway : text.judge.open}
        </Button>
        {early && owner && (
          <label className="field">
            <span>{text.seal.reason}</span>
            <Input
              name="reveal-reason"
              value={reason}
              maxLength={500}
              onChange={(e) => setReason(e.target.value)}
            />
          </label>
        )}
        {early && <span className="soft">{text.judge.early}</span>}
      </p>
      <Trouble error={reveal.error} />
    </>
  );
}

interface FiguresProps {
  trial: TrialView;
  view: Schemas["JudgeView"];
  setMeasure: (key: string) => void;
  /** Whether figures stand in place of the picture, with the command that gives them. */
  numbers: boolean;
  setNumbers: (numbers: boolean) => void;
}

function Figures({
  trial,
  view,
  setMeasure,
  numbers,
  setNumbers,
}: FiguresProps) {
  const catalogue = useQuery(catalogueQuery);
  const picture = useRef<HTMLDivElement>(null);
  // Of several days of what decides, the last one does.
  const last = Math.max(
    0,
    ...(trial.ask.judged_on?.[trial.ask.primary_measure] ?? []),
  );
  const deciding =
    last > 0
      ? `${trial.ask.primary_measure}@${last}`
      : trial.ask.primary_measure;
  const nameOf = (key: string) =>
    catalogue.data?.measures.find((m) => m.key === key)?.name ?? key;
  const download = () =>
    downloadSvg(
      picture.current,
      `${view.measure.key}${typeof view.day === "number" ? `-day-${view.day}` : ""}.svg`,
    );
  return (
    <>
      {view.measures.some(
        (m) => m.added_midway && m.measure === view.measure.key,
      ) && (
        <p className="soft">{text.judge.addedWhy(nameOf(view.measure.key))}</p>
      )}
      <div className="measures">
        <div role="tablist">
          {view.measures.map((m) => (
            <button
              key={m.id}
              type="button"
              role="tab"
              aria-selected={
                m.measure === view.measure.key &&
                (m.day ?? null) === (view.day ?? null)
              }
              onClick={() => setMeasure(m.id)}
            >
              {text.judge.onDay(nameOf(m.measure), m.day ?? null)}{" "}
              {m.id === deciding && <small>{text.judge.decides}</small>}
              {m.added_midway && (
                <small title={text.judge.addedMidway}>{text.judge.later}</small>
              )}
            </button>
          ))}
        </div>
        <button
          type="button"
          className="plain"
          onClick={() => setNumbers(!numbers)}
        >
          {numbers ? text.judge.picture : text.judge.numbers}
        </button>
        <button
          type="button"
          className="plain"
          onClick={download}
          disabled={numbers}
        >
          {text.judge.svg}
        </button>
        <a href={`/api/v1/trials/${trial.id}/export.csv`} download>
          {text.judge.csv}
        </a>
      </div>
      {numbers && view.analysis ? (
        <Numbers analysis={view.analysis} measure={view.measure} />
      ) : (
        <div ref={picture}>
          <Twins trial={trial} view={view} />
        </div>
      )}
    </>
  );
}

/** Times in a hundred, with more digits where it is rare. */
function inHundred(p: number): string {
  const share = 100 * p;
  return share >= 1
    ? shown(share, 0)
    : share >= 0.01
      ? shown(share, 2)
      : "less than 0.01";
}

/** How often each treatment would come out ahead if the same trial were run again. */
function Again({ analysis }: { analysis: Schemas["Analysis"] }) {
  const told = analysis.contrasts.flatMap((c) =>
    typeof c.ahead_next_time === "number"
      ? [[c.treatment, ofAHundred(c.ahead_next_time)] as const]
      : [],
  );
  return told.length === 0 ? null : (
    <p>{text.judge.again(analysis.contrasts[0]?.versus ?? "", told)}</p>
  );
}

function Under({
  trial,
  analysis,
  unit,
}: {
  trial: TrialView;
  analysis: Schemas["Analysis"];
  unit: string;
}) {
  const { residual } = analysis;
  return (
    <div className="under">
      <div>
        <b>{text.judge.luck}</b>
        {analysis.contrasts.map((c) => (
          <p key={c.treatment}>
            {c.randomisation
              ? text.judge.luckText(
                  c.treatment,
                  c.randomisation.assignments.toLocaleString(),
                  inHundred(c.randomisation.p),
                )
              : text.judge.luckNone}{" "}
            {analysis.kind !== "score" &&
              typeof (c.simultaneous?.p ?? c.p) === "number" &&
              text.judge.model(
                inHundred((c.simultaneous?.p ?? c.p) as number),
              )}{" "}
            {c.randomisation?.whole &&
              text.judge.whole(inHundred(c.randomisation.whole.mid_p))}{" "}
            {c.decided_by?.limits === "unequal_spread" &&
              inWords(trial, text.judge.ownSpread)}
          </p>
        ))}
      </div>
      <div>
        <b>{inWords(trial, text.judge.spread)}</b>
        <p>
          {inWords(
            trial,
            typeof residual.sd === "number" &&
              typeof residual.cv_percent === "number"
              ? text.judge.spreadText(
                  shown(residual.cv_percent, 1),
                  shown(residual.sd, 1),
                  unit,
                )
              : typeof analysis.dispersion === "number"
                ? text.judge.dispersionText(shown(analysis.dispersion, 1))
                : analysis.kind === "amount"
                  ? text.judge.spreadUnknown
                  : text.judge.spreadNone,
          )}
        </p>
        {analysis.design.error === "treatment x block" && (
          <p>{inWords(trial, text.judge.heldAgainstPlaces)}</p>
        )}
        {analysis.warnings.map((w) => (
          <p key={w.code}>{w.message}.</p>
        ))}
      </div>
      <div>
        <b>{text.judge.next}</b>
        <p>
          {typeof analysis.units_for_verdict === "number" && analysis.margin
            ? inWords(
                trial,
                text.judge.nextSettle(
                  analysis.units_for_verdict,
                  analysis.margin.given.endsWith("%")
                    ? analysis.margin.given.replace("%", " %")
                    : `${analysis.margin.given} ${unit}`,
                ),
              )
            : ""}{" "}
          {text.judge.nextRepeat}
        </p>
        <Again analysis={analysis} />
      </div>
    </div>
  );
}
