import type { Schemas, TrialView } from "../../api/client";
import { colourOf } from "../../marks/Mark";
import { useNarrow } from "../../marks/useNarrow";
import { text } from "../../text/en";
import { Axes } from "../tend/tracks/Axes";
import {
  type Frame,
  frameOf,
  pathOf,
  span,
  spread,
} from "../tend/tracks/frame";
import { colours } from "../../theme";

type Picture = Schemas["MeasurePicture"];

/** What of a measure runs over days or doses: growth, who had it by which day, what each dose gave. */
export function Pictures({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  return (
    <>
      {view.pictures.map((own) => (
        <section key={own.shown} className="courses">
          <h2>{text.judge.pictures[own.shown]}</h2>
          <Plot trial={trial} own={own} />
          {own.said.map((said) => (
            <p key={said} className="soft">
              {said}
            </p>
          ))}
        </section>
      ))}
    </>
  );
}

function Plot({ trial, own }: { trial: TrialView; own: Picture }) {
  const narrow = useNarrow();
  const days = span([
    ...own.lines.flatMap((l) => l.x),
    ...own.points.map((p) => p.x),
  ]);
  const values = span([
    ...own.lines.flatMap((l) => l.y),
    ...own.points.flatMap((p) => [p.y, ...(p.reach ?? [])]),
  ]);
  const frame = frameOf(narrow, days, own.shown === "steps" ? [4, 96] : values);
  const isControl = (of: number | null | undefined) =>
    typeof of === "number" && trial.sheet.treatments[of]?.control === true;
  return (
    <svg
      viewBox={`0 0 ${frame.width} ${frame.height}`}
      className="course-plot"
      role="img"
      aria-label={text.judge.pictures[own.shown]}
      data-shown={own.shown}
    >
      <Axes
        frame={frame}
        unit={own.up}
        ticks={[]}
        across={own.across === "days" ? null : own.across}
      />
      {own.enough && <Enough frame={frame} enough={own.enough} />}
      {own.lines.map((line) => (
        <path
          key={line.of ?? "all"}
          d={pathOf(frame, line.x, line.y)}
          fill="none"
          stroke={
            typeof line.of === "number" ? colourOf(line.of) : colours.iron2
          }
          strokeWidth={isControl(line.of) ? 2 : 2.8}
          strokeDasharray={isControl(line.of) ? "6 4" : undefined}
        />
      ))}
      {own.points.map((point, i) => (
        <g key={i} stroke={colourOf(point.of)}>
          {point.reach && (
            <line
              x1={frame.x(point.x)}
              x2={frame.x(point.x)}
              y1={frame.y(point.reach[0] ?? point.y)}
              y2={frame.y(point.reach[1] ?? point.y)}
              strokeWidth={1.2}
            />
          )}
          <circle
            cx={frame.x(point.x)}
            cy={frame.y(point.y)}
            r={3.4}
            fill={colourOf(point.of)}
            stroke={colours.sheet}
          />
        </g>
      ))}
      <Names trial={trial} own={own} frame={frame} />
    </svg>
  );
}

/** Each treatment at the end of its line; none where one line leads through all. */
function Names({
  trial,
  own,
  frame,
}: {
  trial: TrialView;
  own: Picture;
  frame: Frame;
}) {
  const lines = own.lines.flatMap((line) =>
    typeof line.of === "number"
      ? [{ of: line.of, y: frame.y(line.y.at(-1) ?? 0) }]
      : [],
  );
  return spread(lines, 17, [frame.top, frame.bottom]).map((label) => (
    <text
      key={label.of}
      x={frame.right + 8}
      y={label.y + 4}
      fontSize={13}
      fill={colourOf(label.of)}
    >
      {trial.sheet.treatments[label.of]?.name}
    </text>
  ));
}

/** The dose that is enough, and how far it is known. */
function Enough({
  frame,
  enough,
}: {
  frame: Frame;
  enough: Schemas["EnoughOut"];
}) {
  const [low, high] = [frame.x(enough.low), frame.x(enough.high)];
  // At the left end its word would stand on the unit of the axis.
  const near = frame.x(enough.dose) - frame.left < 40;
  return (
    <g className="enough-dose">
      <rect
        x={low}
        width={Math.max(1, high - low)}
        y={frame.top}
        height={frame.bottom - frame.top}
        fill={colours.greenPale}
      />
      <line
        x1={frame.x(enough.dose)}
        x2={frame.x(enough.dose)}
        y1={frame.top}
        y2={frame.bottom}
        stroke={colours.green}
        strokeWidth={2}
      />
      <text
        x={
          near
            ? Math.max(frame.x(enough.dose), frame.left + 6)
            : frame.x(enough.dose)
        }
        y={frame.top - 8}
        textAnchor={near ? "start" : "middle"}
        fontSize={13}
        fill={colours.green}
      >
        {text.judge.enoughAt}
      </text>
    </g>
  );
}
