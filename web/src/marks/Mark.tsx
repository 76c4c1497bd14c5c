import { colours, treatmentColours } from "../theme";
/** Treatments carry a colour and a shape, safe for colour-blind eyes and in print; the control is an open ring. */
const SHAPES = [
  "ring",
  "triangle",
  "square",
  "diamond",
  "pentagon",
  "cross",
  "bar",
  "drop",
] as const;

export function colourOf(treatment: number): string {
  return treatmentColours[treatment % treatmentColours.length] ?? colours.iron;
}

/** A treatment's shape, centred on x, y. Without a treatment: a grey dot, as under the blind. */
export function Mark({
  treatment,
  x,
  y,
  size = 7,
}: {
  treatment: number | null;
  x: number;
  y: number;
  size?: number;
}) {
  if (treatment === null) {
    return <circle cx={x} cy={y} r={size * 0.8} fill={colours.iron4} />;
  }
  const colour = colourOf(treatment);
  const shape = SHAPES[treatment % SHAPES.length];
  const polygon = (corners: number, turn: number, grow: number) =>
    Array.from({ length: corners }, (_, i) => {
      const angle = turn + (2 * Math.PI * i) / corners;
      return `${x + size * grow * Math.cos(angle)},${y + size * grow * Math.sin(angle)}`;
    }).join(" ");
  switch (shape) {
    case "ring":
      return (
        <circle
          cx={x}
          cy={y}
          r={size * 0.9}
          fill={colours.sheet}
          stroke={colour}
          strokeWidth={2.2}
        />
      );
    case "triangle":
      return <polygon points={polygon(3, -Math.PI / 2, 1.25)} fill={colour} />;
    case "square":
      return (
        <rect
          x={x - size * 0.9}
          y={y - size * 0.9}
          width={size * 1.8}
          height={size * 1.8}
          fill={colour}
        />
      );
    case "diamond":
      return <polygon points={polygon(4, 0, 1.2)} fill={colour} />;
    case "pentagon":
      return <polygon points={polygon(5, -Math.PI / 2, 1.1)} fill={colour} />;
    case "cross":
      return (
        <path
          d={`M${x - size} ${y - size}L${x + size} ${y + size}M${x + size} ${y - size}L${x - size} ${y + size}`}
          stroke={colour}
          strokeWidth={3}
        />
      );
    case "bar":
      return (
        <rect
          x={x - size * 0.4}
          y={y - size * 1.2}
          width={size * 0.8}
          height={size * 2.4}
          fill={colour}
        />
      );
    default:
      return <polygon points={polygon(3, Math.PI / 2, 1.25)} fill={colour} />;
  }
}

/** The mark beside a name in running text. */
export function Badge({ treatment }: { treatment: number }) {
  return (
    <svg width={16} height={16} className="badge" aria-hidden="true">
      <Mark treatment={treatment} x={8} y={8} size={6} />
    </svg>
  );
}
