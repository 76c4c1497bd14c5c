import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import { downloadCsv, downloadSvg } from "../../../marks/download";
import { shown } from "../../../marks/number";
import { useNarrow } from "../../../marks/useNarrow";
import { Wide } from "../../../marks/Wide";
import { loggedQuery } from "../../../queries/tracks";
import { text } from "../../../text/en";
import { Axes } from "./Axes";
import { type Frame, frameOf, pathOf, span, spread } from "./frame";
import { loggerColours } from "../../../theme";

/** What is drawn: recorded by loggers, or computed from that. */
export type SeriesKey =
  | (Schemas["LoggedKey"] & { computed: false })
  | (Schemas["ComputedKey"] & { computed: true });
type View = Schemas["LoggedView"];

/** Places are told apart by grey and by dashes: they are no treatments. */
const DASHES = ["", "7 4", "2 3", "9 3 2 3", "1 5"];

/** What loggers recorded of one quantity, by place. */
export function Logged({
  trial,
  of,
  ticks,
}: {
  trial: TrialView;
  of: SeriesKey;
  ticks: Schemas["TrackTick"][];
}) {
  const words = text.tracks;
  const today = trial.day ?? 0;
  const [week, setWeek] = useState(false);
  const [numbers, setNumbers] = useState(false);
  const picture = useRef<HTMLDivElement>(null);
  const found = useQuery(
    loggedQuery(trial.id, of, week ? Math.max(0, today - 7) : null),
  );
  const view = found.data;
  const nameOf = (n: number) => trial.sheet.treatments[n]?.name ?? "";
  const control = trial.sheet.treatments.findIndex((t) => t.control);
  const rows = () =>
    view?.tracks.flatMap((t) =>
      t.days.map((day, i) => [
        t.place,
        Number(day.toFixed(4)),
        t.least[i] ?? "",
        t.mean[i] ?? "",
        t.most[i] ?? "",
      ]),
    ) ?? [];
  return (
    <section className="track" aria-label={of.name}>
      <p className="links">
        {(["all", "week"] as const).map((range) => (
          <button
            key={range}
            type="button"
            className="plain"
            aria-pressed={week === (range === "week")}
            onClick={() => setWeek(range === "week")}
          >
            {words.loggedRange[range]}
          </button>
        ))}{" "}
        <button
          type="button"
          className="plain"
          aria-expanded={numbers}
          onClick={() => setNumbers(!numbers)}
        >
          {words.numbers}
        </button>{" "}
        <button
          type="button"
          className="plain"
          onClick={() =>
            downloadSvg(picture.current, `${of.quantity}-logged.svg`)
          }
        >
          {words.svg}
        </button>{" "}
        <button
          type="button"
          className="plain"
          onClick={() =>
            downloadCsv(
              [["place", "day", "least", "mean", "most"], ...rows()],
              `${of.quantity}-logged.csv`,
            )
          }
        >
          {words.csv}
        </button>
      </p>
      <Trouble error={found.error} />
      {view && (
        <>
          <div ref={picture}>
            <Plot of={of} view={view} ticks={ticks} />
          </div>
          {view.apart.length > 0 && (
            <ul className="standing">
              {view.apart.map((a) => (
                <li key={a.treatment}>
                  {words.apart(
                    nameOf(a.treatment),
                    nameOf(control),
                    words.beside(
                      `${shown(Math.abs(a.by), Math.max(1, of.decimals))} ${of.unit}`,
                      a.by > 0,
                    ),
                    a.from,
                    a.until,
                  )}
                </li>
              ))}
            </ul>
          )}
          <p className="soft">
            {of.computed
              ? words.computedWhy[of.quantity]
              : words.loggedBand(view.hours)}
          </p>
          {numbers && <Numbers of={of} view={view} />}
        </>
      )}
    </section>
  );
}

function Plot({
  of,
  view,
  ticks,
}: {
  of: SeriesKey;
  view: View;
  ticks: Schemas["TrackTick"][];
}) {
  const narrow = useNarrow();
  const days = span(view.tracks.flatMap((t) => t.days));
  const values = span(view.tracks.flatMap((t) => [...t.least, ...t.most]));
  const frame = frameOf(
    narrow,
    [Math.floor(days[0]), Math.ceil(days[1])],
    values,
  );
  const ends = view.tracks.map((t, i) => ({
    y: frame.y(t.mean.at(-1) ?? 0),
    name: t.place,
    colour: loggerColours[i % loggerColours.length],
  }));
  return (
    <svg
      viewBox={`0 0 ${frame.width} ${frame.height}`}
      className="track-plot"
      role="img"
      aria-label={text.tracks.picture(of.name)}
      fontFamily="Atkinson Hyperlegible Next Variable, sans-serif"
    >
      <Axes frame={frame} unit={of.unit} ticks={ticks} />
      {view.tracks.map((track, i) => (
        <g key={track.place}>
          <Band
            track={track}
            frame={frame}
            colour={loggerColours[i % loggerColours.length] ?? ""}
          />
          <path
            d={pathOf(frame, track.days, track.mean)}
            fill="none"
            stroke={loggerColours[i % loggerColours.length]}
            strokeWidth={1.8}
            strokeDasharray={DASHES[i % DASHES.length]}
          />
        </g>
      ))}
      <g fontSize={13} fontWeight={600}>
        {spread(ends, 15, [frame.top, frame.bottom]).map((label) => (
          <text
            key={label.name}
            x={frame.right + 8}
            y={label.y + 4}
            fill={label.colour}
          >
            {label.name}
          </text>
        ))}
      </g>
    </svg>
  );
}

/** From the least to the greatest of each stretch. */
function Band({
  track,
  frame,
  colour,
}: {
  track: View["tracks"][number];
  frame: Frame;
  colour: string;
}) {
  const back = [...track.days].reverse();
  const d = `${pathOf(frame, track.days, track.most)}${pathOf(frame, back, [...track.least].reverse()).replace("M", "L")}Z`;
  return track.days.length > 1 ? (
    <path d={d} fill={colour} opacity={0.1} />
  ) : null;
}

function Numbers({ of, view }: { of: SeriesKey; view: View }) {
  const { columns } = text.tracks;
  return (
    <Wide className="numbers" name={text.tracks.numbers}>
      <table>
        <thead>
          <tr>
            {[
              columns.place,
              columns.day,
              columns.least,
              columns.mean,
              columns.most,
            ].map((c) => (
              <th key={c} scope="col">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.tracks.flatMap((t) =>
            t.days.map((day, i) => (
              <tr key={`${t.place} ${day}`}>
                <th scope="row">{t.place}</th>
                <td>{day.toFixed(2)}</td>
                {[t.least, t.mean, t.most].map((list, k) => (
                  <td key={k}>{shown(list[i], of.decimals)}</td>
                ))}
              </tr>
            )),
          )}
        </tbody>
      </table>
    </Wide>
  );
}
