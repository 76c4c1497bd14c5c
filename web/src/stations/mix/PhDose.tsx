import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { phQuery, usePlan } from "../../queries/trial";
import { cellOf } from "../../marks/cell";
import { text } from "../../text/en";

/** Acid or base for the trial's water, by what stands on the bottle. */
export function PhDose({
  trial,
  volume,
}: {
  trial: TrialView;
  volume: number;
}) {
  const waters = [
    ...new Set(
      trial.sheet.treatments.map((t) => cellOf(t, "water")).filter(Boolean),
    ),
  ];
  const plan = usePlan(trial.id);
  const counted = trial.feed.ph ?? null;
  const [product, setProduct] = useState<Schemas["PhProduct"]>(
    counted?.bottle.product ?? "nitric",
  );
  const [draft, setDraft] = useState({
    percent: String(counted?.bottle.percent ?? 38),
    density: String(counted?.bottle.density_kg_per_l ?? 1.23),
    target: String(counted?.target_ph ?? 5.8),
  });
  const [percent, density, target] = [
    typed(draft.percent),
    typed(draft.density),
    typed(draft.target),
  ];
  const ready = [percent, density, target].every(
    (v) => v !== null && !Number.isNaN(v),
  );
  const bottle = {
    product,
    percent: percent ?? 0,
    density_kg_per_l: density ?? 0,
  };
  const wanted = { bottle, target_ph: target ?? 0 };
  const set = (ph: Schemas["PhPlan"] | null) =>
    plan.mutate({ part: "feed", feed: { ph } });
  const field = (key: keyof typeof draft, label: string) => (
    <label className="field">
      <span>{label}</span>
      <Input
        name={`ph-${key}`}
        inputMode="decimal"
        value={draft[key]}
        onChange={(e) => setDraft({ ...draft, [key]: e.target.value })}
      />
    </label>
  );
  return (
    <section className="ph-dose">
      <div className="feed-fields">
        <label className="field">
          <span>{text.mix.phBottle}</span>
          <Select
            value={product}
            onChange={setProduct}
            id="ph-product"
            options={Object.entries(text.mix.phProducts).map(
              ([value, label]) => ({
                value: value as Schemas["PhProduct"],
                label,
              }),
            )}
          />
        </label>
        {field("percent", text.mix.phPercent)}
        {field("density", text.mix.phDensity)}
        {field("target", text.mix.phTarget)}
      </div>
      {waters.length === 0 && <p className="soft">{text.mix.phNoWater}</p>}
      {ready &&
        waters.map((water) => (
          <Dose
            key={water}
            water={water}
            volume={volume}
            body={{ water, ...wanted }}
          />
        ))}
      {waters.length > 0 && trial.reveal === null && (
        <Counted
          counted={counted}
          wanted={ready ? wanted : null}
          busy={plan.isPending}
          set={set}
        />
      )}
      <Trouble error={plan.error} />
      <p className="caution">{text.mix.phCaution}</p>
    </section>
  );
}

interface CountedProps {
  counted: Schemas["PhPlan"] | null;
  /** What is typed; null while a number cannot be read. */
  wanted: Schemas["PhPlan"] | null;
  busy: boolean;
  set: (ph: Schemas["PhPlan"] | null) => void;
}

/** Whether it is counted in every tank, and counting it or not. */
function Counted({ counted, wanted, busy, set }: CountedProps) {
  return (
    <p className="row">
      {counted && (
        <span>
          {text.mix.phCounted(
            text.mix.phProducts[counted.bottle.product],
            shown(counted.bottle.percent, 0),
            shown(counted.target_ph, 1),
          )}
        </span>
      )}
      {wanted && !same(counted, wanted) && (
        <Button loading={busy} onClick={() => set(wanted)}>
          {counted ? text.mix.phCountThis : text.mix.phCount}
        </Button>
      )}
      {counted && (
        <button type="button" className="plain" onClick={() => set(null)}>
          {text.mix.phTakeOut}
        </button>
      )}
    </p>
  );
}

const same = (a: Schemas["PhPlan"] | null, b: Schemas["PhPlan"]) =>
  a !== null &&
  a.target_ph === b.target_ph &&
  a.bottle.product === b.bottle.product &&
  a.bottle.percent === b.bottle.percent &&
  a.bottle.density_kg_per_l === b.bottle.density_kg_per_l;

function Dose({
  water,
  volume,
  body,
}: {
  water: string;
  volume: number;
  body: Schemas["PhSent"];
}) {
  const dose = useQuery(phQuery(body));
  const d = dose.data;
  return (
    <>
      {d && !dose.error && (
        <p className="ph-said">
          <b>{shown(d.ml_per_l * volume, 2)} mL</b>{" "}
          {text.mix.phSaid(shown(volume, 2), water, shown(d.ml_per_l, 3))}
          {d.element && (
            <>
              {" "}
              {text.mix.phBrings(
                shown(d.element_mg_per_l, 1),
                d.element.replace("N_NO3", "N"),
              )}
            </>
          )}{" "}
          {text.mix.phLeaves(shown(d.alkalinity_left_mg_per_l_caco3, 0))}
          {d.warnings.map((w) => (
            <small key={w}>{w}</small>
          ))}
        </p>
      )}
      <Trouble error={dose.error} />
    </>
  );
}
