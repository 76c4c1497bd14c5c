import type { ReactNode } from "react";
import { colours, pigments } from "../theme";

/** Side of a drawing. */
const SIDE = 48;

/** Between two colours, channel by channel. */
function between(from: string, to: string, share: number): string {
  const channel = (colour: string, i: number) =>
    parseInt(colour.slice(1 + 2 * i, 3 + 2 * i), 16);
  const mixed = [0, 1, 2].map((i) =>
    Math.round(channel(from, i) + share * (channel(to, i) - channel(from, i))),
  );
  return `#${mixed.map((c) => c.toString(16).padStart(2, "0")).join("")}`;
}

const [LEAF, SOIL, INK] = [pigments.leaf, pigments.soil, colours.iron];
const line = {
  stroke: INK,
  strokeWidth: 1.4,
  fill: "none",
  strokeLinecap: "round" as const,
};

/** Places that look strewn and are the same at every drawing. */
const strewn = (
  n: number,
  width = SIDE - 10,
  height = SIDE - 10,
): [number, number][] =>
  Array.from({ length: n }, (_, i) => [
    5 + ((i * 0.618034) % 1) * width,
    5 + ((i * 0.754878) % 1) * height,
  ]);

function leaf(fill: string, x = 24, y = 24, size = 1): ReactNode {
  return (
    <path
      key={`${x} ${y}`}
      d={`M${x - 14 * size} ${y} Q${x} ${y - 13 * size} ${x + 14 * size} ${y} Q${x} ${y + 13 * size} ${x - 14 * size} ${y}Z`}
      fill={fill}
      stroke={INK}
      strokeWidth={1}
    />
  );
}

function roots(n: number, colour: string, width = 1.6): ReactNode {
  return Array.from({ length: n }, (_, i) => {
    const x = 24 + (n === 1 ? 0 : (i / (n - 1) - 0.5) * 32);
    return (
      <path
        key={i}
        d={`M24 8 Q${(24 + x) / 2} 24 ${x} ${40 - (i % 3) * 4}`}
        stroke={colour}
        strokeWidth={width}
        fill="none"
      />
    );
  });
}

function stalk(tilt: number, width: number): ReactNode {
  return (
    <g transform={`rotate(${tilt} 24 42)`}>
      <path d="M24 42 V14" stroke={LEAF} strokeWidth={width} />
      {leaf(LEAF, 17, 14, 0.5)}
      {leaf(LEAF, 31, 12, 0.5)}
    </g>
  );
}

function stand(heights: number[]): ReactNode {
  return heights.map((h, i) => (
    <path
      key={i}
      d={`M${5 + i * 5.4} 42 V${42 - h}`}
      stroke={LEAF}
      strokeWidth={3}
      strokeLinecap="round"
    />
  ));
}

function jar(colour: string, layer: number): ReactNode {
  return (
    <>
      <path
        d="M14 8 H34 V14 H38 V42 H10 V14 H14Z"
        stroke={INK}
        strokeWidth={1.2}
        fill={colour}
      />
      {layer > 0 && (
        <rect
          x={10.6}
          y={41.4 - layer}
          width={26.8}
          height={layer}
          fill={pigments.stem}
        />
      )}
    </>
  );
}

/** One drawing of each graded reading, from its lowest grade (0) to its highest (1). */
const drawings: Record<string, (share: number) => ReactNode> = {
  root_colour: (s) =>
    roots(5, between(pigments.rootBrown, pigments.rootWhite, s), 3),
  root_density: (s) => roots(1 + Math.round(12 * s), pigments.root),
  slime: (s) => (
    <>
      {roots(5, pigments.root, 1.6)}
      {s > 0 && roots(Math.round(1 + 4 * s), pigments.rootAlga, 3 + 6 * s)}
    </>
  ),
  swelling: (s) => (
    <>
      <path d="M24 6 V42" stroke={LEAF} strokeWidth={5} />
      {[18, 27, 36].map((y) => (
        <circle
          key={y}
          cx={27}
          cy={y}
          r={5 * s}
          fill={pigments.seed}
          stroke={INK}
          strokeWidth={s > 0 ? 0.8 : 0}
        />
      ))}
    </>
  ),
  sturdiness: (s) => stalk(26 * (1 - s), 1.4 + 4.6 * s),
  lean: (s) => stalk(78 * s, 3),
  canopy_density: (s) =>
    strewn(2 + Math.round(46 * s)).map(([x, y], i) => (
      <circle key={i} cx={x} cy={y} r={4} fill={LEAF} />
    )),
  evenness: (s) =>
    stand([30, 14, 26, 8, 32, 18, 12, 28].map((h) => h * (1 - s) + 24 * s)),
  hulls_left: (s) => (
    <>
      {stand([24, 26, 22, 25, 24, 26, 23, 25])}
      {Array.from({ length: Math.round(8 * s) }, (_, i) => (
        <ellipse
          key={i}
          cx={5 + i * 5.4}
          cy={17 + (i % 2) * 2}
          rx={2.8}
          ry={2}
          fill={pigments.rootBrown}
        />
      ))}
    </>
  ),
  yellowing: (s) => leaf(between(pigments.leaf, pigments.yellowLeaf, s)),
  red_colour: (s) => leaf(between(pigments.leaf, pigments.redLeaf, s)),
  curl: (s) => (
    <path
      d={`M6 ${30 - 12 * s} Q${12 + 6 * s} ${34 + 6 * s} 24 ${32 + 4 * s} Q${36 - 6 * s} ${34 + 6 * s} 42 ${30 - 12 * s} ${s > 0.8 ? "Q34 8 26 20" : ""}`}
      stroke={LEAF}
      strokeWidth={5}
      fill="none"
      strokeLinecap="round"
    />
  ),
  odour: (s) => (
    <>
      {jar(pigments.water, 0)}
      {Array.from({ length: Math.round(3 * s) }, (_, i) => (
        <path
          key={i}
          d={`M${17 + i * 7} 40 q-4 -6 0 -11 q4 -6 0 -11`}
          {...line}
          stroke={between(pigments.film, pigments.rootBrown, s)}
          strokeWidth={2}
        />
      ))}
    </>
  ),
  sediment: (s) => jar(between(pigments.water, pigments.mud, s), 12 * s),
  vigour: (s) => (
    <g
      transform={`translate(24 42) scale(${0.35 + 0.65 * s}) translate(-24 -42)`}
    >
      {stalk(0, 3)}
    </g>
  ),
};

/** A drawing of a grade: `share` is 0 at the lowest and 1 at the highest. The words stand beside it. */
export function Drawing({ of, share }: { of: string; share: number }) {
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${SIDE} ${SIDE}`}
      width={SIDE}
      height={SIDE}
      aria-hidden="true"
    >
      <path d={`M3 43.5 H${SIDE - 3}`} stroke={SOIL} strokeWidth={1} />
      {drawings[of]?.(share)}
    </svg>
  );
}
