import { useQuery } from "@tanstack/react-query";
import { memo, type MouseEvent, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas, TrialView } from "../../../api/client";
import { Trouble } from "../../../frame/Trouble";
import { downloadCsv, downloadSvg } from "../../../marks/download";
import { colourOf } from "../../../marks/Mark";
import { shown } from "../../../marks/number";
import { useNarrow } from "../../../marks/useNarrow";
import { Wide } from "../../../marks/Wide";
import { inWords } from "../../../marks/words";
import { trackQuery } from "../../../queries/tracks";
import { text } from "../../../text/en";
import { Axes } from "./Axes";
import { type Frame, frameOf, pathOf, span, spread } from "./frame";
import { colours } from "../../../theme";

type Key = Schemas["TrackKey"];
type View = Schemas["TrackView"];

interface Props {
  trial: TrialView;
  of: Key;
  ticks: Schemas["TrackTick"][];
}

/** One reading over the days: what stands out in words, the picture, the numbers. */
export function Readings({ trial, of, ticks }: Props) {
  const words = text.tracks;
  const found = useQuery(trackQuery(trial.id, of.key));
  const picture = useRef<HTMLDivElement>(null);
  const [numbers, setNumbers] = useState(false);
  const view = found.data;
  if (!view) {
    return <Trouble error={found.error} />;
  }
  const csv = () =>
    downloadCsv(
      [
        ["code", "day", of.key],
        ...view.units.flatMap((u) =>
          u.days.map((day, i) => [u.code, day, u.values[i] ?? ""]),
        ),
      ],
      `${of.key}-tracks.csv`,
    );
  return (
    <section className="track" aria-label={of.name}>
      <Standing trial={trial} of={of} view={view} />
      <p className="links">
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
          onClick={() => downloadSvg(picture.current, `${of.key}-tracks.svg`)}
        >
          {words.svg}
        </button>{" "}
        <button type="button" className="plain" onClick={csv}>
          {words.csv}
        </button>
      </p>
      <div ref={picture}>
        <Plot trial={trial} of={of} view={view} ticks={ticks} />
      </div>
      {view.control === null && <p className="soft">{words.sealed}</p>}
      {numbers && <Numbers trial={trial} of={of} view={view} />}
    </section>
  );
}

/** What stands out, in sentences. */
function Standing({
  trial,
  of,
  view,
}: {
  trial: TrialView;
  of: Key;
  view: View;
}) {
  const words = text.tracks;
  const by = (value: number) =>
    words.beside(
      `${shown(Math.abs(value), Math.max(1, of.decimals))} ${of.unit}`.trim(),
      value > 0,
    );
  const nameOf = (t: number | null | undefined) =>
    trial.sheet.treatments[t ?? 0]?.name ?? "";
  if (view.drifts.length + view.apart.length === 0) {
    return null;
  }
  return (
    <ul className="standing">
      {view.apart.map((a) => (
        <li key={a.treatment}>
          {words.apart(
            nameOf(a.treatment),
            nameOf(view.control),
            by(a.by),
            a.from,
            a.until,
          )}
        </li>
      ))}
      {view.drifts.map((d) => (
        <li key={d.code}>
          {inWords(
            trial,
            words.drift(
              d.code,
              by(d.by),
              d.from,
              d.until,
              view.control !== null,
            ),
          )}{" "}
          <Link to={`/trials/${trial.id}/units/${d.code}`}>
            {words.open(d.code)}
          </Link>
        </li>
      ))}
    </ul>
  );
}

interface PlotProps extends Props {
  view: View;
}

/** A track and the day on it that is nearest to the pointer. */
interface Held {
  code: string;
  day: number;
  value: number;
}

function Plot({ trial, of, view, ticks }: PlotProps) {
  const narrow = useNarrow();
  const navigate = useNavigate();
  const [held, setHeld] = useState<Held | null>(null);
  const frame = useMemo(() => {
    const days = span([0, ...view.units.flatMap((u) => u.days)]);
    return frameOf(narrow, days, span(view.units.flatMap((u) => u.values)));
  }, [view, narrow]);
  const near = (e: MouseEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const [px, py] = [
      ((e.clientX - box.left) / box.width) * frame.width,
      ((e.clientY - box.top) / box.height) * frame.height,
    ];
    setHeld(nearest(view, frame, px, py));
  };
  const value = held && `${shown(held.value, of.decimals)} ${of.unit}`.trim();
  const size = `0 0 ${frame.width} ${frame.height}`;
  const font = "Atkinson Hyperlegible Next Variable, sans-serif";
  // What follows the pointer lies on a sheet of its own: two hundred lines below it are not drawn again at every move.
  return (
    <div
      className={held ? "track-sheets held" : "track-sheets"}
      onMouseMove={near}
      onMouseLeave={() => setHeld(null)}
      onClick={() =>
        held && void navigate(`/trials/${trial.id}/units/${held.code}`)
      }
    >
      <svg
        viewBox={size}
        className="track-plot"
        role="img"
        aria-label={text.tracks.picture(of.name)}
        fontFamily={font}
      >
        <Ground trial={trial} of={of} view={view} frame={frame} ticks={ticks} />
      </svg>
      <svg
        viewBox={size}
        className="track-over"
        aria-hidden="true"
        fontFamily={font}
      >
        {held && (
          <>
            <UnitLine
              unit={view.units.find((u) => u.code === held.code)}
              frame={frame}
              stroke={colours.rust}
              width={2.4}
            />
            <circle
              cx={frame.x(held.day)}
              cy={frame.y(held.value)}
              r={4.5}
              fill={colours.rust}
            />
            <text
              x={frame.left + 8}
              y={frame.top + 12}
              fontSize={14}
              fontWeight={600}
              fill={colours.rust}
            >
              {text.tracks.at(held.code, value ?? "", held.day)}
            </text>
          </>
        )}
      </svg>
    </div>
  );
}

/** The point of any track that lies nearest to a place in the drawing, if one is near. */
function nearest(
  view: View,
  frame: Frame,
  px: number,
  py: number,
): Held | null {
  let [best, distance]: [Held | null, number] = [null, 30 * 30];
  for (const unit of view.units) {
    unit.days.forEach((day, i) => {
      const value = unit.values[i] ?? 0;
      const own = (frame.x(day) - px) ** 2 + (frame.y(value) - py) ** 2;
      if (own < distance) {
        [best, distance] = [{ code: unit.code, day, value }, own];
      }
    });
  }
  return best;
}

interface LineProps {
  unit: Schemas["UnitTrackView"] | undefined;
  frame: Frame;
  stroke: string;
  width: number;
  opacity?: number;
}

function UnitLine({ unit, frame, stroke, width, opacity = 1 }: LineProps) {
  if (!unit) {
    return null;
  }
  if (unit.days.length === 1) {
    return (
      <circle
        cx={frame.x(unit.days[0] ?? 0)}
        cy={frame.y(unit.values[0] ?? 0)}
        r={2.5}
        fill={stroke}
        opacity={opacity}
      />
    );
  }
  return (
    <path
      d={pathOf(frame, unit.days, unit.values)}
      fill="none"
      stroke={stroke}
      strokeWidth={width}
      opacity={opacity}
    />
  );
}

interface GroundProps {
  trial: TrialView;
  of: Key;
  view: View;
  frame: Frame;
  ticks: Schemas["TrackTick"][];
}

/** All that stays as it is while the pointer moves: the crop's band, each tray's line, the means with the control as ground. */
const Ground = memo(function Ground({
  trial,
  of,
  view,
  frame,
  ticks,
}: GroundProps) {
  const drifts = new Set(view.drifts.map((d) => d.code));
  const [low, high] = frame.y.domain() as [number, number];
  const band =
    view.band &&
    ([Math.max(view.band.least, low), Math.min(view.band.most, high)] as const);
  const many = view.units.length > 40;
  return (
    <>
      {band && band[0] < band[1] && (
        <g>
          <rect
            x={frame.left}
            width={frame.right - frame.left}
            y={frame.y(band[1])}
            height={frame.y(band[0]) - frame.y(band[1])}
            fill={colours.paper2}
          />
          <text
            x={frame.left + 6}
            y={frame.y(band[0]) - 5}
            fontSize={12}
            fill={colours.earth}
          >
            {text.tracks.usual}
          </text>
        </g>
      )}
      <Axes frame={frame} unit={of.unit} ticks={ticks} />
      {view.units.map((unit) => {
        const own = unit.treatment ?? null;
        const stroke = drifts.has(unit.code)
          ? colours.rust
          : own === null
            ? colours.iron4
            : colourOf(own);
        const width = drifts.has(unit.code) ? 2 : 1.1;
        return (
          <UnitLine
            key={unit.code}
            unit={unit}
            frame={frame}
            stroke={stroke}
            width={width}
            opacity={drifts.has(unit.code) ? 1 : many ? 0.25 : 0.42}
          />
        );
      })}
      {view.means.map((mean) => (
        <path
          key={mean.treatment}
          d={pathOf(frame, mean.days, mean.values)}
          fill="none"
          stroke={colourOf(mean.treatment)}
          strokeWidth={mean.treatment === view.control ? 4.5 : 3}
        />
      ))}
      <Ends trial={trial} view={view} frame={frame} />
    </>
  );
});

/** Names at the right end of the lines that stand for something: the means, and what stands out. */
function Ends({
  trial,
  view,
  frame,
}: {
  trial: TrialView;
  view: View;
  frame: Frame;
}) {
  const end = (days: number[], values: number[]) => ({
    x: frame.x(days.at(-1) ?? 0),
    y: frame.y(values.at(-1) ?? 0),
  });
  const means = view.means.map((m) => ({
    ...end(m.days, m.values),
    name: trial.sheet.treatments[m.treatment]?.name ?? "",
    colour: colourOf(m.treatment),
  }));
  const drifts = view.units
    .filter((u) => view.drifts.some((d) => d.code === u.code))
    .map((u) => ({
      ...end(u.days, u.values),
      name: u.code,
      colour: colours.rust,
    }));
  const most = Math.floor((frame.width - frame.right) / 7);
  return (
    <g fontSize={13} fontWeight={600}>
      {spread([...means, ...drifts], 15, [frame.top, frame.bottom]).map(
        (label) => (
          <text
            key={label.name}
            x={frame.right + 8}
            y={label.y + 4}
            fill={label.colour}
          >
            {label.name.length > most
              ? `${label.name.slice(0, most - 1)}…`
              : label.name}
          </text>
        ),
      )}
    </g>
  );
}

/** Every value in a table, tray by tray; each leads to its tray. */
function Numbers({
  trial,
  of,
  view,
}: {
  trial: TrialView;
  of: Key;
  view: View;
}) {
  const days = [...new Set(view.units.flatMap((u) => u.days))].sort(
    (a, b) => a - b,
  );
  return (
    <Wide className="numbers" name={text.tracks.numbers}>
      <table>
        <thead>
          <tr>
            <th scope="col">{inWords(trial, text.tracks.columns.code)}</th>
            {days.map((day) => (
              <th key={day} scope="col">
                {text.tend.day(day)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.units.map((unit) => {
            const on = new Map(
              unit.days.map((day, i) => [day, unit.values[i]]),
            );
            return (
              <tr key={unit.code}>
                <th scope="row">
                  <Link to={`/trials/${trial.id}/units/${unit.code}`}>
                    {unit.code}
                  </Link>
                </th>
                {days.map((day) => (
                  <td key={day}>{shown(on.get(day), of.decimals)}</td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
    </Wide>
  );
}
