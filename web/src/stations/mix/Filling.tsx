import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Badge } from "../../marks/Mark";
import { shown, typed } from "../../marks/number";
import { inWords } from "../../marks/words";
import { mixQuery } from "../../queries/trial";
import { text } from "../../text/en";

type Batches = NonNullable<Schemas["MixBench"]["filling"]>;

/** Batches that all units share, what a slip of the scale does by each way of filling, and the order of giving. */
export function Filling({ trial }: { trial: TrialView }) {
  const [vessel, setVessel] = useState("10");
  const size = typed(vessel);
  const bench = useQuery(
    mixQuery(trial.id, size === null || Number.isNaN(size) ? null : size),
  );
  const name = (treatment: number) =>
    trial.sheet.treatments[treatment]?.name ?? "";
  const filling = bench.data?.filling;
  return (
    <div className="filling">
      <div className="bench-head">
        <label className="field short">
          <span>{text.filling.vessel}</span>
          <Input
            name="vessel"
            inputMode="decimal"
            value={vessel}
            status={bench.error || Number.isNaN(size) ? "error" : ""}
            onChange={(e) => setVessel(e.target.value)}
          />
        </label>
      </div>
      <Trouble error={bench.error} />
      {bench.data && <FirstToPh bench={bench.data} />}
      {filling?.series.length === 0 && <p>{text.filling.none}</p>}
      {filling?.series.map((series) => (
        <Series key={series.of} trial={trial} series={series} />
      ))}
      {filling && filling.water_l > 0 && (
        <p>{text.filling.plain(volume(filling.water_l))}</p>
      )}
      {filling && filling.effects.length > 0 && (
        <Slips trial={trial} filling={filling} />
      )}
      {bench.data && <Order steps={bench.data.order} name={name} />}
      <p className="caution">{text.filling.caution}</p>
    </div>
  );
}

/** One batch: what goes into it, and what each treatment takes of it. */
function Series({
  trial,
  series,
}: {
  trial: TrialView;
  series: Batches["series"][number];
}) {
  const words = (sentence: string) => inWords(trial, sentence);
  const name = (treatment: number) =>
    trial.sheet.treatments[treatment]?.name ?? "";
  return (
    <section className="series">
      <h2>
        {words(text.filling.batches(series.batches, volume(series.batch_l)))}
      </h2>
      <p>{text.filling.into(series.of, shown(100 * series.fraction, 0))}</p>
      <ul className="weighed">
        {series.measure_out.map((m) => (
          <li key={m.name}>
            <b>
              {shown(m.total, m.total < 10 ? 2 : 1)} {m.unit}
            </b>{" "}
            {m.name}
          </li>
        ))}
      </ul>
      <table className="shares">
        <tbody>
          {series.shares.map((s) => (
            <tr key={s.treatment}>
              <th scope="row">
                <Badge treatment={s.treatment} />
                {name(s.treatment)}
              </th>
              <td>{text.filling.take(volume(s.take_l))}</td>
              <td>
                {s.water_l > 0.0005
                  ? text.filling.water(volume(s.water_l))
                  : text.filling.asIs}
              </td>
              <td className="figure">
                {words(text.filling.each(shown(s.ml_a_unit, 0)))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What a slip of the scale does, by each way of filling. */
function Slips({ trial, filling }: { trial: TrialView; filling: Batches }) {
  const words = (sentence: string) => inWords(trial, sentence);
  return (
    <section className="slips">
      <h2>{text.filling.error(shown(filling.error_percent, 0))}</h2>
      <table>
        <thead>
          <tr>
            <td />
            <th scope="col">{text.filling.weighings}</th>
            <th scope="col">{text.filling.between}</th>
            <th scope="col">{text.filling.against}</th>
            <th scope="col">{text.filling.chance}</th>
          </tr>
        </thead>
        <tbody>
          {filling.effects.map((e) => (
            <tr key={e.way} className={e.way === "shared" ? "best" : ""}>
              <th scope="row">{words(text.filling.ways[e.way])}</th>
              <td>{e.weighings}</td>
              <td>
                <Slip percent={e.between_percent} of={filling.error_percent} />
              </td>
              <td>
                <Slip
                  percent={e.against_water_percent}
                  of={filling.error_percent}
                />
              </td>
              <td>{shown(e.between_by_chance_percent, 1)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft">{text.filling.sharedSaid}</p>
    </section>
  );
}

/** Where all tanks take the same water, it is brought to its pH before it is shared. */
function FirstToPh({ bench }: { bench: Schemas["MixBench"] }) {
  const each = bench.treatments.map((t) => t.tank.to_ph ?? null);
  const first = each[0];
  if (!first || each.some((to) => to?.ml_per_l !== first.ml_per_l)) {
    return null;
  }
  return (
    <p>
      {text.filling.firstToPh(
        shown(first.target_ph, 1),
        shown(first.ml_per_l, 3),
        `${first.name}, ${shown(first.percent, 0)} %`,
      )}
    </p>
  );
}

/** Below a litre a jug is read in mL. */
const volume = (litres: number) =>
  litres < 1 ? `${shown(1000 * litres, 0)} mL` : `${shown(litres, 2)} L`;

function Slip({ percent, of }: { percent: number; of: number }) {
  return (
    <span className="slip">
      <i style={{ width: `${Math.min(100, (60 * percent) / of)}px` }} />
      {shown(percent, percent > 0 && percent < 0.1 ? 2 : 1)} %
    </span>
  );
}

function Order({
  steps,
  name,
}: {
  steps: Schemas["RoundStep"][];
  name: (treatment: number) => string;
}) {
  return (
    <section className="order">
      <h2>{text.filling.orderTitle}</h2>
      <p className="soft">{text.filling.orderWhy}</p>
      <ol>
        {steps.map((step, i) =>
          step.step === "give" ? (
            <li key={i} className="give">
              <Badge treatment={step.treatment} />
              {name(step.treatment)}
            </li>
          ) : (
            <li key={i} className={`rinse ${step.how}`}>
              {text.filling.rinses[step.how]}
            </li>
          ),
        )}
      </ol>
    </section>
  );
}
