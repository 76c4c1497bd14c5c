import { type ScaleLinear, scaleLinear } from "d3-scale";
import type { Schemas, TrialView } from "../../api/client";
import { colourOf, Mark } from "../../marks/Mark";
import { shown, signed } from "../../marks/number";
import { useNarrow } from "../../marks/useNarrow";
import { inPlace, inWords } from "../../marks/words";
import { text } from "../../text/en";
import { limitsOf, type Scale, scaleOf } from "./scale";
import { colours } from "../../theme";

/** Where a plot stands inside the drawing; what is written above it and below it lies outside. */
interface Frame {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

const ABOVE = 40;
const BELOW = 40;
const ROW = 46;
const DOTS = { left: 64, right: 430 };
const BESIDE = { left: 500, right: 900 };
const UNDER = { left: 20, right: 430 };

/** Every unit beside its block mates, and each difference from the control with its interval against the margin. */
export function Twins({
  trial,
  view,
}: {
  trial: TrialView;
  view: Schemas["JudgeView"];
}) {
  const { dots, analysis, measure } = view;
  const blocks = blocksOf(dots);
  const contrasts = analysis?.contrasts ?? [];
  const narrow = useNarrow();
  const [dotsHeight, intervalsHeight] = [
    Math.max(blocks.length * ROW, 120),
    contrasts.length * 62 + 16,
  ];
  const under = narrow && analysis;
  const dotsBottom =
    ABOVE + (under ? dotsHeight : Math.max(dotsHeight, intervalsHeight));
  const dotsFrame: Frame = { ...DOTS, top: ABOVE, bottom: dotsBottom };
  const underTop = dotsBottom + BELOW + ABOVE;
  const intervals: Frame = under
    ? {
        ...UNDER,
        top: underTop,
        bottom: underTop + Math.max(intervalsHeight, 90),
      }
    : { ...BESIDE, top: ABOVE, bottom: dotsBottom };
  const width = narrow || !analysis ? DOTS.right + 20 : BESIDE.right + 20;
  return (
    <svg
      viewBox={`0 0 ${width} ${(under ? intervals.bottom : dotsBottom) + BELOW}`}
      className="twins"
      role="img"
      aria-label={`${measure.name}: ${inWords(trial, text.judge.eachTray)}`}
      fontFamily="Atkinson Hyperlegible Next Variable, sans-serif"
    >
      <Dots trial={trial} view={view} blocks={blocks} frame={dotsFrame} />
      {analysis && (
        <Intervals
          trial={trial}
          analysis={analysis}
          scale={scaleOf(analysis, measure)}
          frame={intervals}
        />
      )}
    </svg>
  );
}

interface DotsProps {
  trial: TrialView;
  view: Schemas["JudgeView"];
  blocks: string[];
  frame: Frame;
}

/** Names of the blocks, the highest first as on the rack; one nameless block where units are compared freely. */
function blocksOf(dots: Schemas["Dot"][]): string[] {
  const place = (d: Schemas["Dot"]) =>
    Number(/\d+/.exec(d.block ?? "")?.[0] ?? 0);
  const sorted = [...dots].sort((a, b) => place(b) - place(a));
  return [...new Set(sorted.map((d) => d.block ?? ""))];
}

function Dots({ trial, view, blocks, frame }: DotsProps) {
  const { dots, measure, analysis } = view;
  const values = dots.map((d) => d.value);
  const means =
    analysis?.treatments.map((t) =>
      scaleOf(analysis, measure).mean(t.adjusted_mean),
    ) ?? [];
  const reach = [...values, ...means];
  const x = scaleLinear(
    [Math.min(...reach), Math.max(...reach)],
    [frame.left + 26, frame.right],
  ).nice(6);
  const step = (frame.bottom - frame.top) / blocks.length;
  const y = (block: string) => frame.top + (blocks.indexOf(block) + 0.5) * step;
  // Without blocks every tray gets a line of its own, so that none hides another.
  const free = blocks.length === 1 && blocks[0] === "";
  const height = (d: Schemas["Dot"], i: number, mates: Schemas["Dot"][]) => {
    if (free) {
      return (
        frame.top + ((i + 0.5) / mates.length) * (frame.bottom - frame.top)
      );
    }
    // Mates that would cover each other stand above and below their line.
    const near = mates.filter((m) => Math.abs(x(m.value) - x(d.value)) < 11);
    return y(d.block ?? "") + (near.indexOf(d) - (near.length - 1) / 2) * 11;
  };
  return (
    <g fontSize={13} fill={colours.iron}>
      <text
        x={frame.left}
        y={frame.top - 24}
        fontWeight={600}
        fill={colours.iron3}
      >
        {inPlace(
          trial,
          trial.by_level
            ? text.judge.eachByLevel
            : blocks.length > 1
              ? text.judge.eachTray
              : text.judge.eachTrayPlain,
        )}
        {measure.unit && `, ${measure.unit}`}
      </text>
      <Ticks x={x} frame={frame} />
      {analysis?.treatments.map((t) => {
        const index = trial.sheet.treatments.findIndex(
          (s) => s.name === t.name,
        );
        return (
          <line
            key={t.name}
            x1={x(scaleOf(analysis, measure).mean(t.adjusted_mean))}
            x2={x(scaleOf(analysis, measure).mean(t.adjusted_mean))}
            y1={frame.top - 8}
            y2={frame.bottom}
            stroke={colourOf(index)}
            strokeDasharray="2 4"
            strokeWidth={1.6}
          />
        );
      })}
      {blocks.map((block) => {
        const mates = dots.filter((d) => (d.block ?? "") === block);
        const own = mates.map((d) => x(d.value));
        return (
          <g key={block}>
            <text x={frame.left - 6} y={y(block) + 5} textAnchor="end">
              {block}
            </text>
            {!free && (
              <line
                x1={Math.min(...own)}
                x2={Math.max(...own)}
                y1={y(block)}
                y2={y(block)}
                stroke={colours.rule2}
                strokeWidth={1.6}
              />
            )}
            {mates.map((d, i) => (
              <g
                key={d.code}
                tabIndex={0}
                role="img"
                aria-label={text.judge.dot(
                  d.code,
                  `${shown(d.value, measure.decimals)} ${measure.unit}`,
                )}
              >
                <title>
                  {text.judge.dot(
                    d.code,
                    `${shown(d.value, measure.decimals)} ${measure.unit}`,
                  )}
                </title>
                <Mark
                  treatment={d.treatment ?? null}
                  x={x(d.value)}
                  y={height(d, i, mates)}
                />
                {(d.treatment === null || d.treatment === undefined) && (
                  <text
                    x={x(d.value)}
                    y={height(d, i, mates) - 9}
                    textAnchor="middle"
                    fontSize={11.5}
                    fill={colours.iron3}
                  >
                    {d.code}
                  </text>
                )}
              </g>
            ))}
          </g>
        );
      })}
    </g>
  );
}

type X = ScaleLinear<number, number>;

/** The axis under the dots. */
function Ticks({ x, frame }: { x: X; frame: Frame }) {
  return (
    <>
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line
            x1={x(tick)}
            x2={x(tick)}
            y1={frame.top - 8}
            y2={frame.bottom}
            stroke={colours.paper2}
          />
          <text
            x={x(tick)}
            y={frame.bottom + 18}
            textAnchor="middle"
            fill={colours.iron3}
            fontSize={12.5}
          >
            {tick}
          </text>
        </g>
      ))}
    </>
  );
}

/** A difference from the control as it is drawn. */
interface Limits {
  c: Schemas["Analysis"]["contrasts"][number];
  estimate: number;
  low: number | null;
  high: number | null;
}

interface IntervalProps {
  of: Limits;
  treatment: number;
  unit: string;
  x: X;
  y: number;
  frame: Frame;
}

/** One difference with its interval and its words. */
function Interval({
  of: { c, estimate, low, high },
  treatment,
  unit,
  x,
  y,
  frame,
}: IntervalProps) {
  const beside =
    typeof c.percent === "number" && unit !== "%"
      ? `, ${signed(c.percent, 0)} %`
      : "";
  const label = `${c.treatment} ${signed(estimate, 0)} ${unit}${beside}`;
  // Over its interval, but never out of the picture: letters are about 7 wide.
  const anchor = Math.max(
    x.range()[0] ?? 0,
    Math.min(x(low ?? estimate), frame.right + 10 - 7 * label.length),
  );
  return (
    <g>
      <text x={anchor} y={y - 12}>
        <tspan fontWeight={650}>{c.treatment}</tspan> {signed(estimate, 0)}{" "}
        {unit}
        {beside}
      </text>
      {low !== null && high !== null && (
        <>
          <line
            x1={x(low)}
            x2={x(high)}
            y1={y}
            y2={y}
            stroke={colourOf(treatment)}
            strokeWidth={5}
          />
          <text x={anchor} y={y + 21} fill={colours.iron3} fontSize={12.5}>
            {signed(low, 0)} to {signed(high, 0)} {unit}
          </text>
        </>
      )}
      <Mark treatment={treatment} x={x(estimate)} y={y} size={8} />
    </g>
  );
}

interface IntervalsProps {
  trial: TrialView;
  analysis: Schemas["Analysis"];
  scale: Scale;
  frame: Frame;
}

function Intervals({ trial, analysis, scale, frame }: IntervalsProps) {
  const { unit, margin } = scale;
  const drawn = (value: number | null | undefined) =>
    typeof value === "number" ? scale.gap(value) : null;
  const limits: Limits[] = analysis.contrasts.map((c) => {
    const [low, high] = limitsOf(c);
    return {
      c,
      estimate: drawn(c.estimate) ?? 0,
      low: drawn(low),
      high: drawn(high),
    };
  });
  const all = limits.flatMap(({ estimate, low, high }) => [
    estimate,
    low ?? estimate,
    high ?? estimate,
  ]);
  const reach = [0, ...all, ...(margin === null ? [] : [-margin, margin])];
  const x = scaleLinear(
    [Math.min(...reach), Math.max(...reach)],
    [frame.left, frame.right],
  ).nice(6);
  // Zero is the control's ground line; the least and greatest tick leave it room.
  const y = (i: number) => frame.top + 22 + i * 62;
  const control = analysis.contrasts[0]?.versus ?? "";
  const low0 = x.range()[0] ?? 0;
  return (
    <g fontSize={13} fill={colours.iron}>
      <text x={low0} y={frame.top - 24} fontWeight={600} fill={colours.iron3}>
        {text.judge.moreThan(control)}, {unit}
      </text>
      {margin !== null && (
        <>
          <rect
            x={x(-margin)}
            y={frame.top - 8}
            width={x(margin) - x(-margin)}
            height={frame.bottom - frame.top + 8}
            fill={colours.paper2}
          />
          <text
            x={x(margin) + (x(margin) > frame.right - 80 ? -4 : 4)}
            textAnchor={x(margin) > frame.right - 80 ? "end" : "start"}
            y={frame.bottom - 5}
            fill={colours.iron3}
            fontSize={12.5}
          >
            {text.judge.margin(analysis.margin?.given.replace("%", " %") ?? "")}
          </text>
        </>
      )}
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line
            x1={x(tick)}
            x2={x(tick)}
            y1={frame.top - 8}
            y2={frame.bottom}
            stroke={tick === 0 ? colours.iron : colours.rule}
            strokeWidth={tick === 0 ? 2 : 1}
          />
          <text
            x={x(tick)}
            y={frame.bottom + 18}
            textAnchor="middle"
            fill={colours.iron3}
            fontSize={12.5}
          >
            {tick === 0 ? "0" : signed(tick, Number.isInteger(tick) ? 0 : 1)}
          </text>
        </g>
      ))}
      {limits.map((l, i) => (
        <Interval
          key={l.c.treatment}
          of={l}
          treatment={trial.sheet.treatments.findIndex(
            (s) => s.name === l.c.treatment,
          )}
          unit={unit}
          x={x}
          y={y(i)}
          frame={frame}
        />
      ))}
    </g>
  );
}
