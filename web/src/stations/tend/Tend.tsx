import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { TrialView } from "../../api/client";
import { TakeBack } from "../../frame/TakeBack";
import { Trouble } from "../../frame/Trouble";
import { useTrial } from "../../frame/TrialFrame";
import { useFields } from "../../marks/useFields";
import { farmQuery, tendQuery, useJob, usePlan } from "../../queries/trial";
import { onlyColumns } from "../../marks/columns";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import { longDate } from "../../marks/date";
import { typed } from "../../marks/number";
import { Diary } from "./Diary";
import { Giving } from "./Giving";
import { Grid } from "./Grid";
import { Notes } from "./Notes";
import { Photos } from "./Photos";
import { SamplesGone } from "./SamplesGone";
import { Weather } from "./Weather";
import { Work } from "./Work";
import "./tend.css";

export default function Tend() {
  const trial = useTrial();
  const [query] = useSearchParams();
  const asked = query.get("day");
  const [day, setDay] = useState<number | null>(
    asked === null ? null : Number(asked),
  );
  const tend = useQuery(tendQuery(trial.id, day));
  if (trial.commitment === null) {
    return (
      <p>
        {inWords(trial, text.tend.notDealt)}{" "}
        <Link to={`/trials/${trial.id}/place`}>{text.stations.place}</Link>
      </p>
    );
  }
  const view = tend.data;
  return (
    <div className="tend">
      <Trouble error={tend.error} />
      {trial.sown_on === null && (
        <>
          <Sowing trial={trial} />
          <Care trial={trial} open />
        </>
      )}
      {trial.reveal !== null && <p className="soft">{text.tend.closed}</p>}
      {view && trial.sown_on !== null && (
        <>
          {trial.reveal === null && <Work trial={trial} due={view.due} />}
          {typeof view.day === "number" && (
            <>
              <DayBar
                trial={trial}
                day={view.day}
                today={view.today ?? view.day}
                setDay={setDay}
              />
              <p className="tend-ways">
                <Link to={`/trials/${trial.id}/tend/tracks`}>
                  {text.tend.ways.tracks}
                </Link>
                <Link to={`/trials/${trial.id}/tend/line-up`}>
                  {text.tend.ways.lineUp}
                </Link>
              </p>
              {view.solution_kept && (
                <p className="soft">{inWords(trial, text.tend.keptWhy)}</p>
              )}
              <Grid
                trial={trial}
                day={view.day}
                {...onlyColumns(view, (c) => !c.after_cut)}
              />
              {trial.reveal === null && view.rows.some((r) => r.sample) && (
                <SamplesGone trial={trial} rows={view.rows} />
              )}
              <Notes trial={trial} day={view.day} notes={view.notes} />
              <Weather trial={trial} day={view.day} />
              <Photos trial={trial} />
              <Giving trial={trial} />
              <Diary trial={trial} />
              {trial.reveal === null && <Care trial={trial} open={false} />}
            </>
          )}
        </>
      )}
    </div>
  );
}

function Sowing({ trial }: { trial: TrialView }) {
  const farm = useQuery(farmQuery);
  const job = useJob(trial.id);
  const plan = usePlan(trial.id);
  const [date, setDate] = useState("");
  const on = date || farm.data?.today || "";
  return (
    <div className="sowing">
      <p>{inWords(trial, text.tend.notSown)}</p>
      <label className="field meant">
        <span>{text.tend.sowMeant}</span>
        <Input
          type="date"
          name="sow_planned"
          value={trial.sow_planned ?? ""}
          min={farm.data?.today}
          onChange={(e) =>
            plan.mutate({ part: "sowing", on: e.target.value || null })
          }
        />
      </label>
      <Trouble error={plan.error} />
      <div className="row">
        <label className="field">
          <span>{text.tend.sownOn}</span>
          <Input
            type="date"
            name="sown_on"
            value={on}
            max={farm.data?.today}
            onChange={(e) => setDate(e.target.value)}
          />
        </label>
        <Button
          type="primary"
          loading={job.isPending}
          onClick={() => job.mutate({ job: "sow", date: on })}
        >
          {on === farm.data?.today
            ? text.tend.sowToday
            : text.tend.sowOn(longDate(on))}
        </Button>
      </div>
      <Trouble error={job.error} />
    </div>
  );
}

const careKeys = [
  "blackout_days",
  "first_feed_day",
  "feed_every",
  "read_every",
  "water_every",
  "rotate_every",
  "observe_every",
  "photograph_every",
  "thin_day",
] as const;

/** When the recurring work falls; it may change while the trial runs. */
function Care({ trial, open }: { trial: TrialView; open: boolean }) {
  const plan = usePlan(trial.id);
  const { draft, type, take } = useFields(
    Object.fromEntries(
      careKeys.map((key) => [key, String(trial.care[key])]),
    ) as Record<(typeof careKeys)[number], string>,
  );
  const commit = () => {
    const values = careKeys.map((key) => typed(draft[key]));
    if (values.every((v) => v !== null && Number.isInteger(v) && v >= 0)) {
      const changed = careKeys
        .map((key, i) => [key, values[i]] as const)
        .filter(([key, value]) => value !== trial.care[key]);
      if (changed.length > 0) {
        take();
        plan.mutate({ part: "care", care: Object.fromEntries(changed) });
      }
    }
  };
  return (
    <details className="care" open={open}>
      <summary>{text.tend.care}</summary>
      <div>
        {careKeys.map((key) => (
          <label className="field" key={key}>
            <span>{text.tend.careFields[key]}</span>
            <Input
              name={key}
              inputMode="numeric"
              value={draft[key]}
              onBlur={commit}
              onPressEnter={commit}
              onChange={(e) => type(key, e.target.value)}
            />
          </label>
        ))}
      </div>
      <p className="soft">{text.tend.careHint}</p>
      {trial.rotation?.uneven && (
        <p className="wrong-rhythm">
          {text.tend.unevenRhythm(
            trial.rotation.moves_in_round,
            trial.rotation.even_every ?? null,
          )}
        </p>
      )}
      <Trouble error={plan.error} />
    </details>
  );
}

interface DayBarProps {
  trial: TrialView;
  day: number;
  today: number;
  setDay: (day: number) => void;
}

function DayBar({ trial, day, today, setDay }: DayBarProps) {
  return (
    <div className="daybar">
      <button
        type="button"
        aria-label={text.tend.earlier}
        disabled={day <= 0}
        onClick={() => setDay(day - 1)}
      >
        ‹
      </button>
      <h2>{text.tend.day(day)}</h2>
      <button
        type="button"
        aria-label={text.tend.later}
        disabled={day >= today}
        onClick={() => setDay(day + 1)}
      >
        ›
      </button>
      <TakeBack trial={trial} inFields />
    </div>
  );
}
