import type { Schemas, TrialView } from "../../api/client";
import { colourOf } from "../../marks/Mark";
import { shown } from "../../marks/number";
import { useNarrow } from "../../marks/useNarrow";
import { text } from "../../text/en";
import { Axes } from "../tend/tracks/Axes";
import { frameOf, pathOf, span, spread } from "../tend/tracks/frame";

/** Days and grams of a line: nothing until the first cut, from cut to cut after it. */
function steps({ days, mean_g }: Schemas["Course"]): [number[], number[]] {
  const first = Math.max(
    1,
    mean_g.findIndex((g) => g > 0),
  );
  const day = days[first] ?? 0;
  return [
    [...days.slice(0, first), day, ...days.slice(first)],
    [...mean_g.slice(0, first), 0, ...mean_g.slice(first)],
  ];
}

/** A harvest in waves: what each treatment had cut by each day, and who was ahead. */
export function Courses({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  const narrow = useNarrow();
  const { courses } = view;
  if (courses.length === 0) {
    return null;
  }
  // The frame leaves a little room below the least; what was cut begins at nothing.
  const [, most] = span(courses.flatMap((c) => c.mean_g));
  const frame = frameOf(narrow, span(courses.flatMap((c) => c.days)), [
    0.04 * most,
    most,
  ]);
  const last = (c: Schemas["Course"]) => c.mean_g.at(-1) ?? 0;
  const labels = spread(
    courses.map((c) => ({ of: c.of, y: frame.y(last(c)), g: last(c) })),
    17,
    [frame.top, frame.bottom],
  );
  const nameOf = (of: number) => trial.sheet.treatments[of]?.name ?? "";
  const isControl = (of: number) =>
    trial.sheet.treatments[of]?.control === true;
  return (
    <section className="courses">
      <h2>{text.seal.courses}</h2>
      {view.ahead.map((said) => (
        <p key={said}>{said}</p>
      ))}
      <svg
        viewBox={`0 0 ${frame.width} ${frame.height}`}
        className="course-plot"
        role="img"
        aria-label={text.seal.courses}
      >
        <Axes frame={frame} unit="g" ticks={[]} />
        {courses.map((c) => (
          <g key={c.of}>
            <path
              d={pathOf(frame, ...steps(c))}
              fill="none"
              stroke={colourOf(c.of)}
              strokeWidth={isControl(c.of) ? 2 : 2.8}
              strokeDasharray={isControl(c.of) ? "6 4" : undefined}
            />
            {c.days.map((day, i) => (
              <circle
                key={day}
                cx={frame.x(day)}
                cy={frame.y(c.mean_g[i] ?? 0)}
                r={3.2}
                fill={colourOf(c.of)}
              />
            ))}
          </g>
        ))}
        {labels.map((label) => (
          <text
            key={label.of}
            x={frame.right + 8}
            y={label.y + 4}
            fontSize={13}
            fill={colourOf(label.of)}
          >
            {narrow
              ? nameOf(label.of)
              : `${nameOf(label.of)}, ${shown(label.g, 0)}`}
          </text>
        ))}
      </svg>
    </section>
  );
}
