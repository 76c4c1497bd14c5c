import { Button, Input, Select } from "antd";
import { useState, type KeyboardEvent } from "react";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { ProbeBar } from "../../frame/ProbeBar";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { shown, typed } from "../../marks/number";
import { mayBeTaken, useProbe } from "../../queries/instruments";
import { useTrialWrite } from "../../queries/trial";
import { text } from "../../text/en";

type Mix = Schemas["TreatmentMix"];
type Scale = Schemas["EcScale"];

const SCALE_KEY = "iron-twin.ec-scale";

/** The scale of the meter at hand; it stays with the device. */
function useMeterScale(): [Scale, (scale: Scale) => void] {
  const [scale, setScale] = useState<Scale>(() => {
    const kept = localStorage.getItem(SCALE_KEY);
    return kept !== null && kept in text.mix.ecScales
      ? (kept as Scale)
      : "ms_per_cm";
  });
  return [
    scale,
    (next) => (localStorage.setItem(SCALE_KEY, next), setScale(next)),
  ];
}

/** What is typed of a mix, and recording it: a gap between meter and computation is asked about, and taken the second time. */
function useMeasured(trial: string, mix: Mix) {
  const [draft, setDraft] = useState({
    ec: "",
    ph: "",
    temperature: "",
    batch: "",
  });
  const [weighed, setWeighed] = useState<Weighed>({});
  const [scale, setScale] = useMeterScale();
  const [why, setWhy] = useState<Schemas["GapWhy"] | null>(null);
  const [note, setNote] = useState("");
  const record = useTrialWrite(trial, (body: Schemas["MixSent"]) =>
    answered(
      client.POST("/api/v1/trials/{id}/mixes", {
        params: { path: { id: trial } },
        body,
      }),
    ),
  );
  const unlikely =
    record.error instanceof ProblemError &&
    record.error.problem.code === "unlikely";
  const portions = mix.tank.measure_out.map((m) => ({
    name: m.name,
    unit: m.unit,
    planned: m.total,
    measured: typed(weighed[m.name]?.measured ?? "") ?? m.total,
    lot: weighed[m.name]?.lot ?? "",
  }));
  const send = (confirmed: boolean) =>
    record.mutate(
      {
        treatment: mix.treatment,
        volume_l: mix.tank.volume_l,
        feed_total: portions.reduce((sum, p) => sum + p.measured, 0),
        ec: typed(draft.ec),
        ec_scale: scale,
        ph: typed(draft.ph),
        temperature_c: typed(draft.temperature),
        batch: draft.batch,
        gap_why: confirmed ? why : null,
        gap_note: confirmed ? note : "",
        portions,
        confirmed,
      },
      {
        onSuccess: () => {
          setDraft({ ec: "", ph: "", temperature: "", batch: "" });
          setWeighed({});
          setWhy(null);
          setNote("");
        },
      },
    );
  const unreadable =
    [draft.ec, draft.ph, draft.temperature].some((v) =>
      Number.isNaN(typed(v)),
    ) || portions.some((p) => Number.isNaN(p.measured));
  return {
    draft,
    setDraft,
    weighed,
    setWeighed,
    scale,
    setScale,
    why,
    setWhy,
    note,
    setNote,
    record,
    unlikely,
    send,
    unreadable,
  };
}

type Draft = ReturnType<typeof useMeasured>["draft"];

/** What the probe shows, and putting it into the fields: it tells mS/cm at 25 °C, whatever the scale of the meter at hand. */
function useMixProbe(
  draft: Draft,
  setDraft: (draft: Draft) => void,
  setScale: (scale: Scale) => void,
) {
  const values = useProbe();
  const [ph, ec, temperature] = (["ph", "ec", "temperature"] as const).map(
    (key) => values?.get(key),
  );
  const of = (
    value: Schemas["MeterValue"] | undefined,
    decimals: number,
    before: string,
  ) => (mayBeTaken(value) ? shown(value.value, decimals) : before);
  const take = () => {
    if (mayBeTaken(ec)) {
      setScale("ms_per_cm");
    }
    setDraft({
      ...draft,
      ec: of(ec, 2, draft.ec),
      ph: of(ph, 2, draft.ph),
      temperature: of(temperature, 1, draft.temperature),
    });
  };
  return { values, take, any: [ph, ec, temperature].some(mayBeTaken) };
}

/** The probe over the solution that was mixed. */
function FromProbe({ probe }: { probe: ReturnType<typeof useMixProbe> }) {
  return probe.values === null ? null : (
    <>
      <ProbeBar values={probe.values} />
      <Button disabled={!probe.any} onClick={probe.take}>
        {text.instruments.fromProbe}
      </Button>
    </>
  );
}

/** What went in and what the meters say, beside what was computed. */
export function Measured({ mix }: { mix: Mix }) {
  const trial = useTrial();
  const {
    draft,
    setDraft,
    weighed,
    setWeighed,
    scale,
    setScale,
    why,
    setWhy,
    note,
    setNote,
    record,
    unlikely,
    send,
    unreadable,
  } = useMeasured(trial.id, mix);
  const parts = mix.tank.measure_out;
  const probe = useMixProbe(draft, setDraft, setScale);
  const onKey = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "=") {
      event.preventDefault();
      probe.take();
    }
  };
  const field = (key: "ec" | "ph" | "temperature", label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`mix-${key}-${mix.treatment}`}
        inputMode="decimal"
        value={draft[key]}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
        onKeyDown={onKey}
        status={Number.isNaN(typed(draft[key])) ? "error" : ""}
      />
    </label>
  );
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
        {field("ec", text.mix.ecOn)}
        <label className="field">
          <span>{text.mix.ecScale}</span>
          <Select
            id={`ec-scale-${mix.treatment}`}
            value={scale}
            onChange={setScale}
            popupMatchSelectWidth={false}
            options={Object.entries(text.mix.ecScales).map(
              ([value, label]) => ({ value: value as Scale, label }),
            )}
          />
        </label>
        {field("ph", "pH")}
        {field("temperature", text.mix.temperature)}
        <label className="field">
          <span>{text.mix.batch}</span>
          <Input
            name={`mix-batch-${mix.treatment}`}
            value={draft.batch}
            onChange={(e) => setDraft({ ...draft, batch: e.target.value })}
          />
        </label>
      </div>
      <FromProbe probe={probe} />
      <WentIn parts={parts} weighed={weighed} setWeighed={setWeighed} />
      <Trouble error={record.error} />
      {unlikely && (
        <Gap
          treatment={mix.treatment}
          why={why}
          setWhy={setWhy}
          note={note}
          setNote={setNote}
        />
      )}
      <Button
        htmlType="submit"
        disabled={unreadable}
        loading={record.isPending}
      >
        {unlikely ? text.mix.unlikely : text.mix.record}
      </Button>
      <ul className="mixes">
        {mix.recorded.slice(-3).map((m) => (
          <li key={m.at}>{said(m)}</li>
        ))}
      </ul>
    </form>
  );
}

/** What was really weighed of each part, with its lot. */
type Weighed = Record<string, { measured: string; lot: string }>;

interface WentInProps {
  parts: Mix["tank"]["measure_out"];
  weighed: Weighed;
  setWeighed: (weighed: Weighed) => void;
}

function WentIn({ parts, weighed, setWeighed }: WentInProps) {
  if (parts.length === 0) {
    return null;
  }
  return (
    <details className="went-in">
      <summary>{text.mix.wentIn}</summary>
      <p className="soft">{text.mix.wentInHint}</p>
      {parts.map((m) => {
        const own = weighed[m.name] ?? { measured: "", lot: "" };
        const change = (part: Partial<typeof own>) =>
          setWeighed({ ...weighed, [m.name]: { ...own, ...part } });
        return (
          <div key={m.name}>
            <label className="field">
              <span>{text.mix.measuredOf(m.name, m.unit)}</span>
              <Input
                inputMode="decimal"
                value={own.measured}
                placeholder={shown(m.total, 2)}
                status={Number.isNaN(typed(own.measured)) ? "error" : ""}
                onChange={(e) => change({ measured: e.target.value })}
              />
            </label>
            <label className="field">
              <span>{text.mix.lot}</span>
              <Input
                value={own.lot}
                onChange={(e) => change({ lot: e.target.value })}
              />
            </label>
          </div>
        );
      })}
    </details>
  );
}

interface GapProps {
  treatment: number;
  why: Schemas["GapWhy"] | null;
  setWhy: (why: Schemas["GapWhy"]) => void;
  note: string;
  setNote: (note: string) => void;
}

/** Why meter and computation part. */
function Gap({ treatment, why, setWhy, note, setNote }: GapProps) {
  return (
    <>
      <label className="field">
        <span>{text.mix.gapWhy}</span>
        <Select
          id={`gap-${treatment}`}
          value={why}
          onChange={setWhy}
          placeholder={text.stores.choose}
          options={Object.entries(text.mix.gapReasons).map(
            ([value, label]) => ({ value: value as Schemas["GapWhy"], label }),
          )}
        />
      </label>
      <label className="field">
        <span>{text.mix.gapNote}</span>
        <Input
          name={`gap-note-${treatment}`}
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
      </label>
    </>
  );
}

/** A recorded mix in one line: what was made, what the meters said beside what was computed, and why they parted. */
function said(m: Schemas["MixView"]): string {
  const parts = [text.mix.lastMix(m.day, shown(m.volume_l, 2))];
  if (m.batch) {
    parts.push(`${text.mix.batch.toLowerCase()} ${m.batch}`);
  }
  if (typeof m.ec_ms_per_cm === "number") {
    parts.push(
      `EC ${shown(m.ec_ms_per_cm, 2)}${typeof m.computed_ec_ms_per_cm === "number" ? text.mix.computed(shown(m.computed_ec_ms_per_cm, 2)) : ""}`,
    );
  }
  if (typeof m.ph === "number") {
    parts.push(`pH ${shown(m.ph, 1)}`);
  }
  if (typeof m.temperature_c === "number") {
    parts.push(`${shown(m.temperature_c, 1)} °C`);
  }
  const why = gapSaid(m);
  return parts.join(", ") + (why ? text.mix.because(why) : "");
}

/** Why meter and computation parted: what was chosen, and what was found in own words. */
export const gapSaid = (m: Schemas["MixView"]): string =>
  [m.gap_why ? text.mix.gapReasons[m.gap_why] : "", m.gap_note]
    .filter(Boolean)
    .join(": ");
