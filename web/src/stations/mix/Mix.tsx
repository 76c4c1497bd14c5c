import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { Badge, colourOf } from "../../marks/Mark";
import { shown, typed } from "../../marks/number";
import { mixQuery, useJob, usePlan, useTrialWrite } from "../../queries/trial";
import { text } from "../../text/en";
import { Materials } from "./Materials";
import "./mix.css";

export default function Mix() {
  const trial = useTrial();
  const bench = useQuery(mixQuery(trial.id));
  return (
    <div className="mix">
      <FeedFields />
      <Trouble error={bench.error} />
      <div className="tanks">
        {bench.data?.treatments.map((t) => (
          <Tank key={t.treatment} mix={t} form={bench.data.feed.form} most={bench.data.treatments} />
        ))}
      </div>
      <PouringSheet />
      <Materials trial={trial.id} />
      <p className="caution">{text.mix.caution}</p>
    </div>
  );
}

function FeedFields() {
  const trial = useTrial();
  const plan = usePlan(trial.id);
  const { feed } = trial;
  const asText = JSON.stringify(feed);
  const [draft, setDraft] = useState({ dose: "", ml: "", spare: "" });
  useEffect(() => {
    const f = JSON.parse(asText) as Schemas["FeedPlan"];
    setDraft({ dose: String(f.label_per_litre), ml: String(f.ml_a_unit), spare: String(f.spare_percent) });
  }, [asText]);
  const commit = (form: Schemas["FeedForm"] = feed.form) => {
    const next = {
      form,
      label_per_litre: typed(draft.dose) ?? Number.NaN,
      ml_a_unit: typed(draft.ml) ?? Number.NaN,
      spare_percent: typed(draft.spare) ?? Number.NaN,
    };
    const readable = [next.label_per_litre, next.ml_a_unit, next.spare_percent].every((v) => !Number.isNaN(v));
    if (readable && JSON.stringify(next) !== asText) {
      plan.mutate({ part: "feed", feed: next });
    }
  };
  const field = (key: "dose" | "ml" | "spare", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`feed-${key}`} inputMode="decimal" value={draft[key]} onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
        onBlur={() => commit()} onPressEnter={() => commit()}
      />
    </label>
  );
  return (
    <div className="feed-fields">
      {field("dose", text.mix.dose)}
      <label className="field">
        <span>{text.mix.label}</span>
        <Select
          value={feed.form} onChange={(form) => commit(form)}
          options={Object.entries(text.mix.forms).map(([value, label]) => ({ value: value as Schemas["FeedForm"], label }))}
        />
      </label>
      {field("ml", text.mix.perUnit)}
      {field("spare", text.mix.spare)}
      <Trouble error={plan.error} />
    </div>
  );
}

interface TankProps {
  mix: Schemas["TreatmentMix"];
  form: Schemas["FeedForm"];
  most: Schemas["TreatmentMix"][];
}

/** One treatment's jug: how full, how strong, what to measure out, what was measured. */
function Tank({ mix, form, most }: TankProps) {
  const d = mix.dilution;
  const unit = form === "liquid" ? "mL" : "g";
  const strongest = Math.max(...most.map((m) => m.dilution.fraction), 0.01);
  const decimals = d.feed_total < 10 ? 2 : 1;
  return (
    <article className="tank">
      <div>
        <h2>
          <Badge treatment={mix.treatment} />
          {mix.name}
        </h2>
        <svg viewBox="0 0 120 96" aria-hidden="true">
          <path d="M18 6 L24 90 L96 90 L102 6" fill="none" stroke="#2e3134" strokeWidth="3" />
          <path d="M20.6 36 L24.6 88.4 L95.4 88.4 L99.4 36 Z" fill={colourOf(mix.treatment)} opacity={0.1 + 0.55 * (d.fraction / strongest)} />
          <text x="60" y="68" textAnchor="middle" className="litres">
            {shown(d.volume_l, 2)} L
          </text>
        </svg>
        {d.fraction > 0 ? (
          <>
            <p className="measure-out">
              <b>
                {shown(d.feed_total, decimals)} {unit}
              </b>{" "}
              {mix.feed}
            </p>
            <p>{text.mix.into(shown(d.volume_l, 2))}</p>
            <p className="soft">
              {text.mix.ofLabel(shown(100 * d.fraction, 0))}: {text.mix.perLitre(shown(d.per_litre, 2), unit)}
              {typeof d.teaspoons_per_us_gallon === "number" && <>, {text.mix.teaspoons(shown(d.teaspoons_per_us_gallon, 2))}</>}
            </p>
          </>
        ) : (
          <p className="measure-out">
            <b>{text.mix.water}</b>
          </p>
        )}
      </div>
      <Measured mix={mix} />
    </article>
  );
}

function Measured({ mix }: { mix: Schemas["TreatmentMix"] }) {
  const trial = useTrial();
  const [ec, setEc] = useState("");
  const [ph, setPh] = useState("");
  const record = useTrialWrite(trial.id, (body: Schemas["MixSent"]) =>
    answered(client.POST("/api/v1/trials/{id}/mixes", { params: { path: { id: trial.id } }, body })),
  );
  const unlikely = record.error instanceof ProblemError && record.error.problem.code === "unlikely";
  const send = (confirmed: boolean) =>
    record.mutate(
      {
        treatment: mix.treatment,
        volume_l: mix.dilution.volume_l,
        feed_total: mix.dilution.feed_total,
        ec_ms_per_cm: typed(ec),
        ph: typed(ph),
        confirmed,
      },
      {
        onSuccess: () => {
          setEc("");
          setPh("");
        },
      },
    );
  const unreadable = [ec, ph].some((v) => Number.isNaN(typed(v)));
  return (
    <form
      className="measured"
      onSubmit={(event) => {
        event.preventDefault();
        send(unlikely);
      }}
    >
      <span className="soft">{text.mix.measured}</span>
      <div>
        <label className="field">
          <span>EC, mS/cm</span>
          <Input name={`mix-ec-${mix.treatment}`} inputMode="decimal" value={ec} onChange={(e) => setEc(e.target.value)} status={Number.isNaN(typed(ec)) ? "error" : ""} />
        </label>
        <label className="field">
          <span>pH</span>
          <Input name={`mix-ph-${mix.treatment}`} inputMode="decimal" value={ph} onChange={(e) => setPh(e.target.value)} status={Number.isNaN(typed(ph)) ? "error" : ""} />
        </label>
      </div>
      <Button htmlType="submit" disabled={unreadable} loading={record.isPending}>
        {unlikely ? text.mix.unlikely : text.mix.record}
      </Button>
      <Trouble error={record.error} />
      <ul className="mixes">
        {mix.recorded.slice(-3).map((m) => (
          <li key={m.at}>
            {text.mix.lastMix(m.day, shown(m.volume_l, 2))}
            {typeof m.ec_ms_per_cm === "number" && `, EC ${shown(m.ec_ms_per_cm, 2)}`}
            {typeof m.ph === "number" && `, pH ${shown(m.ph, 1)}`}
          </li>
        ))}
      </ul>
    </form>
  );
}

function PouringSheet() {
  const trial = useTrial();
  const job = useJob(trial.id);
  const sheet = useTrialWrite(trial.id, () =>
    answered(client.POST("/api/v1/trials/{id}/pouring-sheet", { params: { path: { id: trial.id } } })),
  );
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
              {sheet.data.map((pour) => (
                <tr key={pour.treatment}>
                  <th scope="row">
                    {pour.treatment}
                    <small>{pour.differs.join(" · ")}</small>
                  </th>
                  <td>{pour.today ? text.mix.pour(shown(pour.ml_a_unit, 0)) : text.mix.notToday}</td>
                  <td className="codes">{pour.codes.join("  ")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="row">
            {trial.day !== null && trial.reveal === null && (
              <Button loading={job.isPending} onClick={() => job.mutate({ job: "feed" }, { onSuccess: () => sheet.reset() })}>
                {text.tend.done}
              </Button>
            )}
            <Button onClick={() => sheet.reset()}>
              {text.mix.pourClose}
            </Button>
          </p>
        </>
      ) : (
        <Button loading={sheet.isPending} onClick={() => sheet.mutate(undefined)}>
          {text.mix.pourOpen}
        </Button>
      )}
      <Trouble error={sheet.error ?? job.error} />
    </section>
  );
}
