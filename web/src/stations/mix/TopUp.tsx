import { Button, Input, Select } from "antd";
import { useState } from "react";
import { ProblemError, type Schemas, type TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { useTopUp } from "../../queries/bench";
import { text } from "../../text/en";

interface Draft {
  start: string;
  now: string;
  nowEc: string;
  /** Null until it is typed: the tank as it was mixed. */
  wanted: string | null;
  wantedEc: string | null;
}

/** From level and EC now to those wanted: how much water, how much feed. */
export function TopUp({
  trial,
  treatments,
}: {
  trial: TrialView;
  treatments: Schemas["TreatmentMix"][];
}) {
  const fed = treatments.filter(
    (t) => t.tank.measure_out.length > 0 && t.tank.solution,
  );
  const [treatment, setTreatment] = useState(fed[0]?.treatment ?? 0);
  const tank = treatments.find((t) => t.treatment === treatment)?.tank;
  const full = tank?.volume_l ?? 1;
  const [draft, setDraft] = useState<Draft>({
    start: "",
    now: "",
    nowEc: "",
    wanted: null,
    wantedEc: null,
  });
  const work = useTopUp(trial.id);
  const wanted = draft.wanted ?? String(Number(full.toFixed(2)));
  const wantedEc =
    draft.wantedEc ?? shown(tank?.solution?.conductivity_ms_per_cm.at_25c, 2);
  const values = [draft.now, draft.nowEc, wanted, wantedEc].map(typed);
  const start = typed(draft.start);
  const ready =
    values.every((v) => v !== null && !Number.isNaN(v)) && !Number.isNaN(start);
  const bad =
    work.error instanceof ProblemError ? work.error.problem.field : null;
  const field = (
    key: keyof Draft,
    name: string,
    label: string,
    shownValue = draft[key] ?? "",
  ) => (
    <label className="field short">
      <span>{label}</span>
      <Input
        name={`top-${key}`}
        inputMode="decimal"
        value={shownValue}
        status={Number.isNaN(typed(shownValue)) || bad === name ? "error" : ""}
        onChange={(e) => {
          setDraft({ ...draft, [key]: e.target.value });
          // An answer to other figures must not stand beside these.
          work.reset();
        }}
      />
    </label>
  );
  return (
    <form
      className="top-up"
      onSubmit={(event) => {
        event.preventDefault();
        const [now = 0, nowEc = 0, to = 0, toEc = 0] = values.map(
          (v) => v ?? 0,
        );
        work.mutate({
          treatment,
          level: {
            now_l: now,
            now_ec_ms_per_cm: nowEc,
            wanted_l: to,
            wanted_ec_ms_per_cm: toEc,
            start_l: start,
          },
        });
      }}
    >
      <p className="soft">{text.topup.why}</p>
      <div className="bench-head">
        <label className="field">
          <span>{text.topup.treatment}</span>
          <Select
            id="top-treatment"
            value={treatment}
            onChange={(t) => (setTreatment(t), work.reset())}
            options={fed.map((t) => ({ value: t.treatment, label: t.name }))}
          />
        </label>
        {field("now", "now_l", text.topup.now)}
        {field("nowEc", "now_ec_ms_per_cm", text.topup.nowEc)}
        {field("wanted", "wanted_l", text.topup.wanted, wanted)}
        {field(
          "wantedEc",
          "wanted_ec_ms_per_cm",
          text.topup.wantedEc,
          wantedEc,
        )}
        {field("start", "start_l", text.topup.start)}
        <Button
          htmlType="submit"
          type="primary"
          disabled={!ready}
          loading={work.isPending}
        >
          {text.topup.work}
        </Button>
      </div>
      <Trouble error={work.error} />
      {work.data && <Said view={work.data} />}
      <p className="caution">{text.mix.caution}</p>
    </form>
  );
}

function Said({ view: { top_up: t, add } }: { view: Schemas["TopUpView"] }) {
  const amounts = add.filter((a) => a.amount > 0.005);
  const idle = t.drain_l < 0.005 && t.water_l < 0.005 && amounts.length === 0;
  return (
    <div className="top-said" role="status">
      {idle && <p>{text.topup.nothing}</p>}
      {t.drain_l >= 0.005 && <p>{text.topup.drain(shown(t.drain_l, 2))}</p>}
      {t.water_l >= 0.005 && (
        <p className="measure-out">
          <b>{text.topup.water(shown(t.water_l, 2))}</b>
        </p>
      )}
      {amounts.map((a) => (
        <p key={a.name} className="measure-out">
          <b>
            {shown(a.amount, a.amount < 10 ? 2 : 1)} {a.unit}
          </b>{" "}
          {a.name}
        </p>
      ))}
      <p className="soft">
        {text.topup.share(
          shown(100 * t.share_now, 0),
          shown(100 * t.share_wanted, 0),
        )}
      </p>
      {typeof t.water_used_l === "number" && (
        <p className="soft">
          {text.topup.used(
            shown(t.water_used_l, 2),
            shown(t.feed_used_percent, 0),
          )}
        </p>
      )}
    </div>
  );
}
