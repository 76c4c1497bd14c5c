import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { shown, typed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { useWeather, weatherQuery } from "../../queries/ledger";
import { text } from "../../text/en";

type Field = "rain_mm" | "low_c" | "high_c";

const NOTHING: Record<Field, string> = { rain_mm: "", low_c: "", high_c: "" };

/** The weather outdoors, day by day. */
export function Weather({ trial, day }: { trial: TrialView; day: number }) {
  const words = text.weather;
  const found = useQuery(weatherQuery(trial.id));
  const [said, setSaid] = useState(NOTHING);
  const enter = useWeather(trial.id);
  const view = found.data;
  if (!view?.outdoors) {
    return <Trouble error={found.error} />;
  }
  const fields: [Field, string][] = [
    ["rain_mm", words.rain],
    ["low_c", words.low],
    ["high_c", words.high],
  ];
  const figures = Object.fromEntries(
    fields.map(([key]) => [key, typed(said[key])]),
  ) as Record<Field, number | null>;
  const empty = fields.every(([key]) => figures[key] === null);
  return (
    <section className="weather">
      <h2>{words.title}</h2>
      <p className="soft">{words.why}</p>
      {trial.reveal === null && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            // Cleared at once, so that what is typed next is not; back where it was refused.
            enter.mutate({ day, ...figures }, { onError: () => setSaid(said) });
            setSaid(NOTHING);
          }}
        >
          {fields.map(([key, label]) => (
            <label key={key} className="field">
              <span>{label}</span>
              <Input
                name={key}
                inputMode="decimal"
                value={said[key]}
                onChange={(e) => setSaid({ ...said, [key]: e.target.value })}
              />
            </label>
          ))}
          <Button htmlType="submit" disabled={empty} loading={enter.isPending}>
            {words.enter}, {text.tend.day(day).toLowerCase()}
          </Button>
        </form>
      )}
      <Trouble error={enter.error} />
      <Days days={view.days} />
    </section>
  );
}

function Days({ days }: { days: Schemas["WeatherDay"][] }) {
  const words = text.weather;
  if (days.length === 0) {
    return <p className="soft">{words.none}</p>;
  }
  return (
    <Wide className="weather-days" name={words.title}>
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
          {days.map((d) => (
            <tr key={d.day}>
              <th scope="row">{d.day}</th>
              {[d.rain_mm, d.low_c, d.high_c].map((figure, i) => (
                <td key={i}>
                  {typeof figure === "number"
                    ? shown(figure, 1).replace("-", "−")
                    : "–"}
                </td>
              ))}
              <td>{d.who}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}
