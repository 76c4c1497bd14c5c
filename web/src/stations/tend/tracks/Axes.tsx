import type { Schemas } from "../../../api/client";
import { text } from "../../../text/en";
import type { Frame } from "./frame";
import { colours } from "../../../theme";

interface AxesProps {
  frame: Frame;
  unit: string;
  ticks: Schemas["TrackTick"][];
  /** Unit of what runs to the right, where it is not days. */
  across?: string | null;
}

/** Days below, values on the left, and what happened on which day as ticks. */
export function Axes({ frame, unit, ticks, across = null }: AxesProps) {
  const { x, y, left, right, bottom, top } = frame;
  const [first, last] = x.domain() as [number, number];
  const days =
    across === null
      ? x
          .ticks(Math.min(12, Math.max(2, Math.round(last - first))))
          .filter(Number.isInteger)
      : x.ticks(8);
  const happened = [...new Set(ticks.map((t) => t.day))].filter(
    (day) => day >= first && day <= last,
  );
  return (
    <g fontSize={12.5} fill={colours.iron3}>
      {y.ticks(5).map((value) => (
        <g key={value}>
          <line
            x1={left}
            x2={right}
            y1={y(value)}
            y2={y(value)}
            stroke={colours.paper2}
          />
          <text x={left - 7} y={y(value) + 4} textAnchor="end">
            {y.tickFormat(5)(value)}
          </text>
        </g>
      ))}
      <text x={left - 7} y={top - 13} textAnchor="end">
        {unit}
      </text>
      <line
        x1={left}
        x2={right}
        y1={bottom}
        y2={bottom}
        stroke={colours.iron4}
      />
      {days.map((day) => (
        <text key={day} x={x(day)} y={bottom + 36} textAnchor="middle">
          {day}
        </text>
      ))}
      <text x={right} y={bottom + 54} textAnchor="end">
        {across ?? text.tracks.day}
      </text>
      {happened.map((day) => (
        <g key={day} className="happened">
          <title>{`${text.tend.day(day)}: ${ticks
            .filter((t) => t.day === day)
            .map((t) => t.what)
            .join("; ")}`}</title>
          <rect
            x={x(day) - 5}
            y={bottom}
            width={10}
            height={20}
            fill="transparent"
          />
          <line
            x1={x(day)}
            x2={x(day)}
            y1={bottom + 4}
            y2={bottom + 16}
            stroke={colours.rust}
            strokeWidth={2}
          />
        </g>
      ))}
    </g>
  );
}
