import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useSearchParams } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { Badge, colourOf } from "../../marks/Mark";
import { shown, typed } from "../../marks/number";
import { mixQuery, useJob, usePlan, useTrialWrite } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { useFields } from "../../marks/useFields";
import { text } from "../../text/en";
import { OnceMore } from "../../frame/OnceMore";
import { Materials } from "./Materials";
import { Filling } from "./Filling";
import { Measured } from "./Measured";
import { PhDose } from "./PhDose";
import { RecipeBench, spoons } from "./RecipeBench";
import { TopUp } from "./TopUp";
import { Uptake } from "./Uptake";
import "./mix.css";
import { colours } from "../../theme";

type Part = keyof typeof text.mix.parts;

export default function Mix() {
  const trial = useTrial();
  const bench = useQuery(mixQuery(trial.id));
  const [query, setQuery] = useSearchParams();
  const asked = query.get("part") ?? "";
  const part: Part = asked in text.mix.parts ? (asked as Part) : "tanks";
  const volume =
    bench.data?.treatments.find((t) => t.tank.measure_out.length > 0)?.tank
      .volume_l ??
    bench.data?.treatments[0]?.tank.volume_l ??
    0;
  return (
    <div className="mix">
      <nav className="mix-parts" aria-label={text.mix.partsNav}>
        {Object.entries(text.mix.parts).map(([key, name]) => (
          <a
            key={key}
            href={`?part=${key}`}
            aria-current={key === part ? "page" : undefined}
            onClick={(e) => {
              e.preventDefault();
              setQuery({ part: key });
            }}
          >
            {name}
          </a>
        ))}
      </nav>
      <Trouble error={bench.error} />
      {part === "tanks" && <Tanks bench={bench.data} />}
      {part === "recipe" && bench.data && (
        <RecipeBench
          trial={trial}
          volume={volume}
          target={bench.data.target ?? ""}
        />
      )}
      {part === "filling" && <Filling trial={trial} />}
      {part === "water" && <PhDose trial={trial} volume={volume || 1} />}
      {part === "uptake" && <Uptake trial={trial} />}
      {part === "topup" && bench.data && (
        <TopUp trial={trial} treatments={bench.data.treatments} />
      )}
    </div>
  );
}

function Tanks({ bench }: { bench: Schemas["MixBench"] | undefined }) {
  const trial = useTrial();
  return (
    <>
      <FeedFields
        byLabel={
          bench?.treatments.every((t) =>
            t.tank.measure_out.every((m) => m.in_stores),
          ) ?? true
        }
      />
      <div className="tanks">
        {bench?.treatments.map((t) => (
          <Tank
            key={t.treatment}
            mix={t}
            most={bench.treatments}
            bands={bench.bands}
          />
        ))}
      </div>
      {bench?.target && <p className="soft">{text.mix.target(bench.target)}</p>}
      <PouringSheet />
      <Materials trial={trial.id} />
      <p className="caution">{text.mix.caution}</p>
    </>
  );
}

function FeedFields({ byLabel }: { byLabel: boolean }) {
  const trial = useTrial();
  const plan = usePlan(trial.id);
  const { feed } = trial;
  const { draft, type, take } = useFields({
    dose: String(feed.label_per_litre),
    ml: String(feed.ml_a_unit),
    spare: String(feed.spare_percent),
  });
  const commit = (form: Schemas["FeedForm"] = feed.form) => {
    const next = {
      form,
      label_per_litre: typed(draft.dose) ?? Number.NaN,
      ml_a_unit: typed(draft.ml) ?? Number.NaN,
      spare_percent: typed(draft.spare) ?? Number.NaN,
    };
    const readable = [
      next.label_per_litre,
      next.ml_a_unit,
      next.spare_percent,
    ].every((v) => !Number.isNaN(v));
    const keys = Object.keys(next) as (keyof typeof next)[];
    if (readable && keys.some((key) => next[key] !== feed[key])) {
      take();
      plan.mutate({ part: "feed", feed: next });
    }
  };
  const field = (key: "dose" | "ml" | "spare", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`feed-${key}`}
        inputMode="decimal"
        value={draft[key]}
        onChange={(e) => type(key, e.target.value)}
        onBlur={() => commit()}
        onPressEnter={() => commit()}
      />
    </label>
  );
  return (
    <div className="feed-fields">
      {!byLabel && field("dose", text.mix.dose)}
      {!byLabel && (
        <label className="field">
          <span>{text.mix.label}</span>
          <Select
            value={feed.form}
            onChange={(form) => commit(form)}
            options={Object.entries(text.mix.forms).map(([value, label]) => ({
              value: value as Schemas["FeedForm"],
              label,
            }))}
          />
        </label>
      )}
      {field("ml", inWords(trial, text.mix.perUnit))}
      {field("spare", text.mix.spare)}
      <Trouble error={plan.error} />
    </div>
  );
}

interface TankProps {
  mix: Schemas["TreatmentMix"];
  most: Schemas["TreatmentMix"][];
  bands: Schemas["Band"][];
}

/** Elements in the order of a label, each drawn on one scale over all treatments. */
const ELEMENTS = ["N", "P", "K", "Ca", "Mg", "S"] as const;

const held = (mix: Schemas["TreatmentMix"], element: string) =>
  mix.tank.solution?.mg_per_l[element] ?? 0;

/** One treatment's tank: how full, how strong, what to measure out, what it then holds, what was measured. */
function Tank({ mix, most, bands }: TankProps) {
  const { tank } = mix;
  const ec = tank.solution?.conductivity_ms_per_cm.at_25c;
  const strongest = Math.max(
    ...most.map((m) => m.tank.solution?.conductivity_ms_per_cm.at_25c ?? 0),
    0.01,
  );
  return (
    <article className="tank">
      <div>
        <h2>
          <Badge treatment={mix.treatment} />
          {mix.name}
        </h2>
        <svg viewBox="0 0 120 96" aria-hidden="true">
          <path
            d="M18 6 L24 90 L96 90 L102 6"
            fill="none"
            stroke={colours.iron}
            strokeWidth="3"
          />
          <path
            d="M20.6 36 L24.6 88.4 L95.4 88.4 L99.4 36 Z"
            fill={colourOf(mix.treatment)}
            opacity={0.1 + 0.55 * ((ec ?? 0) / strongest)}
          />
          <text x="60" y="68" textAnchor="middle" className="litres">
            {shown(tank.volume_l, 2)} L
          </text>
        </svg>
        {tank.to_ph && (
          <div>
            <p className="measure-out">
              <b>
                {shown(tank.to_ph.total_ml, tank.to_ph.total_ml < 10 ? 2 : 1)}{" "}
                mL
              </b>{" "}
              {tank.to_ph.name}, {shown(tank.to_ph.percent, 0)} %
            </p>
            <p className="soft">
              {text.mix.firstToPh(
                shown(tank.to_ph.target_ph, 1),
                shown(tank.to_ph.ml_per_l, 3),
              )}
            </p>
          </div>
        )}
        {tank.measure_out.length === 0 && (
          <p className="measure-out">
            <b>{text.mix.water}</b>
          </p>
        )}
        {tank.measure_out.map((m) => (
          <MeasureOut key={m.name} m={m} />
        ))}
        {tank.measure_out.length > 0 && (
          <p>{text.mix.into(shown(tank.volume_l, 2))}</p>
        )}
        {mix.beside.map((given, i) => (
          <BesideTank key={i} given={given} />
        ))}
        {tank.solution ? (
          <Holds mix={mix} most={most} bands={bands} solution={tank.solution} />
        ) : (
          <p className="soft">{text.mix.unknown(tank.unknown.join(", "))}</p>
        )}
        {tank.warnings.map((w) => (
          <p key={w.code} className={`mix-warning ${w.severity}`}>
            {w.message}
          </p>
        ))}
      </div>
      <Measured mix={mix} />
    </article>
  );
}

/** What to measure out of one part, by weight, spoon and drop. */
function MeasureOut({ m }: { m: Schemas["Tank"]["measure_out"][number] }) {
  return (
    <div>
      <p className="measure-out">
        <b>
          {shown(m.total, m.total < 10 ? 2 : 1)} {m.unit}
        </b>{" "}
        {m.name}
      </p>
      <p className="soft">
        {m.in_stores
          ? (m.of_recipe ? text.mix.ofRecipe : text.mix.ofLabel)(
              shown(100 * m.fraction, 0),
            )
          : text.mix.typedDose}
        : {text.mix.perLitre(shown(m.per_litre, 2), m.unit)}
        {(m.measures || typeof m.own_spoons === "number") && (
          <>, {spoons(m.measures, m.own_spoons)}</>
        )}
        {m.measures && (
          <>
            ;{" "}
            {text.mix.gallons(
              shown(m.measures.teaspoons_per_us_gallon, 2),
              shown(m.measures.ml_per_us_gallon, 1),
              shown(m.measures.ml_per_imperial_gallon, 1),
            )}
          </>
        )}
        {typeof m.cost === "number" && <>, {text.mix.cost(shown(m.cost, 2))}</>}
      </p>
    </div>
  );
}

/** What is given to a treatment without going through its tank. */
function BesideTank({ given }: { given: Schemas["Beside"] }) {
  return (
    <div className="beside-tank">
      <p>
        {text.mix.pourBeside(given.how, given.what, given.dose, given.when)}
      </p>
      <p className="soft">
        {given.measure_out
          .map((part) =>
            text.mix.beside(
              part.name,
              part.per_unit == null
                ? null
                : shown(part.per_unit, part.per_unit < 10 ? 2 : 1),
              part.total == null
                ? null
                : shown(part.total, part.total < 10 ? 2 : 1),
              part.unit,
            ),
          )
          .join("; ")}
        {typeof given.solution_l === "number" && (
          <>; {text.mix.besideInto(shown(given.solution_l, 2))}</>
        )}
      </p>
    </div>
  );
}

/** Elements as bars, on one scale over all treatments, with the target's band, the control's tick, and the strength. */
function Holds({
  mix,
  most,
  bands,
  solution,
}: TankProps & { solution: Schemas["Solution"] }) {
  const control = most[0];
  return (
    <>
      <dl className="holds" aria-label={text.mix.holds}>
        {ELEMENTS.map((element) => {
          const own = held(mix, element);
          const band = bands.find((b) => b.element === element);
          const greatest = Math.max(
            ...most.map((m) => held(m, element)),
            band?.most_mg_per_l ?? 0,
            0.001,
          );
          const share = (mg: number) => `${(100 * mg) / greatest}%`;
          const differs = mix.tank.unlike.includes(element);
          return (
            <div key={element} className={differs ? "unlike" : ""}>
              <dt>{element}</dt>
              <dd>
                {band && (
                  <u
                    style={{
                      left: share(band.least_mg_per_l),
                      width: share(band.most_mg_per_l - band.least_mg_per_l),
                    }}
                  />
                )}
                <i
                  style={{
                    width: share(own),
                    background: colourOf(mix.treatment),
                  }}
                />
                {control && control !== mix && (
                  <em style={{ left: share(held(control, element)) }} />
                )}
              </dd>
              <dd className="mg">{shown(own, own < 10 ? 1 : 0)}</dd>
            </div>
          );
        })}
      </dl>
      {mix.tank.unlike.length > 0 && (
        <p className="sr">{text.mix.unlike(mix.tank.unlike.join(", "))}</p>
      )}
      <p className="strength">
        EC <b>{shown(solution.conductivity_ms_per_cm.at_25c, 2)}</b> mS/cm
        <small>
          {text.mix.ppm(
            ["500", "640", "700"]
              .map((scale) => `${shown(solution.ppm[scale], 0)}`)
              .join(" / "),
          )}
        </small>
      </p>
    </>
  );
}

function PouringSheet() {
  const trial = useTrial();
  const job = useJob(trial.id);
  const sheet = useTrialWrite(trial.id, () =>
    answered(
      client.POST("/api/v1/trials/{id}/pouring-sheet", {
        params: { path: { id: trial.id } },
      }),
    ),
  );
  const beside = (sheet.data ?? []).some((pour) => pour.beside.length > 0);
  return (
    <section className="pouring">
      <h2>{text.mix.pourTitle}</h2>
      <p>{text.mix.pourWhy}</p>
      {trial.commitment === null ? (
        <p className="soft">{text.mix.needsDeal}</p>
      ) : sheet.data ? (
        <>
          <table>
            <tbody>
              {[...sheet.data]
                .sort((a, b) => a.turn - b.turn)
                .map((pour) => (
                  <tr key={pour.treatment}>
                    <th scope="row">
                      {pour.treatment}{" "}
                      {pour.jug ? (
                        <em className="jug">{text.tend.given.jug(pour.jug)}</em>
                      ) : null}
                      <small>{pour.differs.join(" · ")}</small>
                      {pour.beside.map((given, i) => (
                        <small key={i}>
                          {text.mix.pourBeside(
                            given.how,
                            given.what,
                            given.dose,
                            given.when,
                          )}
                        </small>
                      ))}
                    </th>
                    <td>
                      {pour.today
                        ? text.mix.pour(shown(pour.ml_a_unit, 0))
                        : text.mix.notToday}
                    </td>
                    <td className="codes">{pour.codes.join("  ")}</td>
                  </tr>
                ))}
            </tbody>
          </table>
          <p className="row">
            {trial.day !== null && trial.reveal === null && (
              <Button
                loading={job.isPending}
                onClick={() =>
                  job.mutate(
                    { job: "feed" },
                    { onSuccess: () => sheet.reset() },
                  )
                }
              >
                {beside ? text.mix.poured : text.tend.work.done}
              </Button>
            )}
            {trial.day !== null && trial.reveal === null && beside && (
              <Button
                loading={job.isPending}
                onClick={() =>
                  job.mutate(
                    { job: "apply" },
                    { onSuccess: () => sheet.reset() },
                  )
                }
              >
                {text.mix.applied}
              </Button>
            )}
            <Button onClick={() => sheet.reset()}>{text.mix.pourClose}</Button>
          </p>
        </>
      ) : (
        <Button
          loading={sheet.isPending}
          onClick={() => sheet.mutate(undefined)}
        >
          {text.mix.pourOpen}
        </Button>
      )}
      <Trouble error={sheet.error} />
      {job.variables && (
        <OnceMore
          error={job.error}
          confirm={() =>
            job.variables &&
            job.mutate(
              { ...job.variables, confirmed: true },
              { onSuccess: () => sheet.reset() },
            )
          }
        />
      )}
    </section>
  );
}
