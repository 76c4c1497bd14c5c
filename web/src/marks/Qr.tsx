import { colours } from "../theme";
interface Props {
  /** One word a row, 1 for a dark module. */
  rows: string[];
  label: string;
}

/** Light modules around a code, without which phones do not find it. */
const QUIET = 4;

/** A QR code: every run of dark modules in a row is one stroke. */
export function Qr({ rows, label }: Props) {
  const side = rows.length + 2 * QUIET;
  const runs = rows.flatMap((row, y) =>
    [...row.matchAll(/1+/g)].map(
      (run) => `M${run.index + QUIET} ${y + QUIET + 0.5}h${run[0].length}`,
    ),
  );
  return (
    <svg
      className="qr"
      viewBox={`0 0 ${side} ${side}`}
      role="img"
      aria-label={label}
      shapeRendering="crispEdges"
    >
      <rect width={side} height={side} fill={colours.white} />
      <path d={runs.join("")} stroke={colours.black} />
    </svg>
  );
}
