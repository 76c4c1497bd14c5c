import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { text } from "../../text/en";
import { colours } from "../../theme";

const [WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM] = [380, 246, 40, 12, 30, 38];

/** Smallest difference seen, against the number of trays a side, with the margin as a band. */
export function PowerPicture({
  picture,
  axis,
}: {
  picture: Schemas["Picture"];
  axis: string;
}) {
  const { sights, planned, margin_percent } = picture;
  const third = sights[1]?.smallest_percent ?? 0;
  const most = Math.max(
    3 * margin_percent,
    Math.min(third, 6 * margin_percent),
  );
  // What lies off the scale is left off, not flattened onto its edge.
  const shownSights = sights.filter((s) => s.smallest_percent <= most);
  const last = sights[sights.length - 1]?.units ?? 16;
  const x = scaleLinear([2, last], [LEFT + 10, WIDTH - RIGHT - 8]);
  const y = scaleLinear([0, most], [HEIGHT - BOTTOM, TOP]).clamp(true);
  const line = shownSights
    .map((s) => `${x(s.units)},${y(s.smallest_percent)}`)
    .join(" ");
  const at = typeof planned === "number" ? sights[planned] : undefined;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="plot"
      role="img"
      aria-label={text.ask.pictureTitle}
    >
      <rect
        x={LEFT}
        y={y(margin_percent)}
        width={WIDTH - LEFT - RIGHT}
        height={y(0) - y(margin_percent)}
        fill={colours.paper2}
      />
      <text
        x={WIDTH - RIGHT - 4}
        y={y(0) - 6}
        textAnchor="end"
        className="tick"
      >
        {text.ask.yourMargin}
      </text>
      {y.ticks(5).map((tick) => (
        <g key={tick}>
          <line
            x1={LEFT}
            x2={WIDTH - RIGHT}
            y1={y(tick)}
            y2={y(tick)}
            stroke={colours.rule}
          />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="tick">
            {tick}
          </text>
        </g>
      ))}
      {x.ticks(7).map((tick) => (
        <text
          key={tick}
          x={x(tick)}
          y={HEIGHT - BOTTOM + 16}
          textAnchor="middle"
          className="tick"
        >
          {tick}
        </text>
      ))}
      <text x={LEFT} y={HEIGHT - 5} className="tick">
        {axis}
      </text>
      <text x={LEFT - 26} y={14} className="tick">
        {text.ask.axisSees}
      </text>
      <polyline
        points={line}
        fill="none"
        stroke={colours.iron}
        strokeWidth={2}
      />
      {shownSights.map((s) => (
        <circle
          key={s.units}
          cx={x(s.units)}
          cy={y(s.smallest_percent)}
          r={2.6}
          fill={colours.iron}
        />
      ))}
      {at && at.smallest_percent <= most && (
        <g>
          <line
            x1={x(at.units)}
            x2={x(at.units)}
            y1={y(0)}
            y2={y(at.smallest_percent)}
            stroke={colours.rust}
            strokeDasharray="3 3"
          />
          <circle
            cx={x(at.units)}
            cy={y(at.smallest_percent)}
            r={7}
            fill={colours.rust}
          />
        </g>
      )}
    </svg>
  );
}
