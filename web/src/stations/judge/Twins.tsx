import { scaleLinear } from "d3-scale";
import type { Schemas, TrialView } from "../../api/client";
import { colourOf, Mark } from "../../marks/Mark";
import { shown, signed } from "../../marks/number";
import { useNarrow } from "../../marks/useNarrow";
import { text } from "../../text/en";

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
export function Twins({ trial, view }: { trial: TrialView; view: Schemas["JudgeView"] }) {
  const { dots, analysis, measure } = view;
  const levels = [...new Set(dots.map((d) => d.level))].sort((a, b) => b - a);
  const contrasts = analysis?.contrasts ?? [];
  const narrow = useNarrow();
  const [dotsHeight, intervalsHeight] = [Math.max(levels.length * ROW, 120), contrasts.length * 62 + 16];
  const under = narrow && analysis;
  const dotsBottom = ABOVE + (under ? dotsHeight : Math.max(dotsHeight, intervalsHeight));
  const dotsFrame: Frame = { ...DOTS, top: ABOVE, bottom: dotsBottom };
  const underTop = dotsBottom + BELOW + ABOVE;
  const intervals: Frame = under
    ? { ...UNDER, top: underTop, bottom: underTop + Math.max(intervalsHeight, 90) }
    : { ...BESIDE, top: ABOVE, bottom: dotsBottom };
  const width = narrow || !analysis ? DOTS.right + 20 : BESIDE.right + 20;
  return (
    <svg
      viewBox={`0 0 ${width} ${(under ? intervals.bottom : dotsBottom) + BELOW}`} className="twins" role="img"
      aria-label={`${measure.name}: ${text.judge.eachTray}`} fontFamily="Atkinson Hyperlegible Next Variable, sans-serif"
    >
      <Dots trial={trial} view={view} levels={levels} frame={dotsFrame} />
      {analysis && <Intervals trial={trial} analysis={analysis} unit={measure.unit} frame={intervals} />}
    </svg>
  );
}

interface DotsProps {
  trial: TrialView;
  view: Schemas["JudgeView"];
  levels: number[];
  frame: Frame;
}

function Dots({ trial, view, levels, frame }: DotsProps) {
  const { dots, measure, analysis } = view;
  const values = dots.map((d) => d.value);
  const x = scaleLinear([Math.min(...values), Math.max(...values)], [frame.left + 26, frame.right]).nice(6);
  const step = (frame.bottom - frame.top) / levels.length;
  const y = (level: number) => frame.top + (levels.indexOf(level) + 0.5) * step;
  return (
    <g fontSize={13} fill="#2e3134">
      <text x={frame.left} y={frame.top - 24} fontWeight={600} fill="#55595d">
        {trial.rack.levels > 1 ? text.judge.eachTray : text.judge.eachTrayPlain}, {measure.unit}
      </text>
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1={frame.top - 8} y2={frame.bottom} stroke="#ece6da" />
          <text x={x(tick)} y={frame.bottom + 18} textAnchor="middle" fill="#62676c" fontSize={12.5}>
            {tick}
          </text>
        </g>
      ))}
      {analysis?.treatments.map((t) => {
        const index = trial.sheet.treatments.findIndex((s) => s.name === t.name);
        return (
          <line
            key={t.name} x1={x(t.adjusted_mean)} x2={x(t.adjusted_mean)} y1={frame.top - 8} y2={frame.bottom} stroke={colourOf(index)}
            strokeDasharray="2 4" strokeWidth={1.6}
          />
        );
      })}
      {levels.map((level) => {
        const mates = dots.filter((d) => d.level === level);
        const own = mates.map((d) => x(d.value));
        return (
          <g key={level}>
            <text x={frame.left - 6} y={y(level) + 5} textAnchor="end">
              {text.judge.level(level)}
            </text>
            <line x1={Math.min(...own)} x2={Math.max(...own)} y1={y(level)} y2={y(level)} stroke="#c4bba6" strokeWidth={1.6} />
            {mates.map((d) => (
              <g key={d.code} tabIndex={0} role="listitem" aria-label={text.judge.dot(d.code, `${shown(d.value, measure.decimals)} ${measure.unit}`)}>
                <title>{text.judge.dot(d.code, `${shown(d.value, measure.decimals)} ${measure.unit}`)}</title>
                <Mark treatment={d.treatment ?? null} x={x(d.value)} y={y(level)} />
                {(d.treatment === null || d.treatment === undefined) && (
                  <text x={x(d.value)} y={y(level) - 9} textAnchor="middle" fontSize={11.5} fill="#62676c">
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

interface IntervalsProps {
  trial: TrialView;
  analysis: Schemas["Analysis"];
  unit: string;
  frame: Frame;
}

function Intervals({ trial, analysis, unit, frame }: IntervalsProps) {
  const limits = analysis.contrasts.map((c) => {
    const low = c.simultaneous?.low ?? c.low ?? null;
    const high = c.simultaneous?.high ?? c.high ?? null;
    return { c, low, high };
  });
  const margin = analysis.margin?.absolute ?? null;
  const all = limits.flatMap(({ c, low, high }) => [c.estimate, low ?? c.estimate, high ?? c.estimate]);
  const reach = [0, ...all, ...(margin === null ? [] : [-margin, margin])];
  const x = scaleLinear([Math.min(...reach), Math.max(...reach)], [frame.left, frame.right]).nice(6);
  // Zero is the control's ground line; the least and greatest tick leave it room.
  const y = (i: number) => frame.top + 22 + i * 62;
  const control = analysis.contrasts[0]?.versus ?? "";
  const low0 = x.range()[0] ?? 0;
  return (
    <g fontSize={13} fill="#2e3134">
      <text x={low0} y={frame.top - 24} fontWeight={600} fill="#55595d">
        {text.judge.moreThan(control)}, {unit}
      </text>
      {margin !== null && (
        <>
          <rect x={x(-margin)} y={frame.top - 8} width={x(margin) - x(-margin)} height={frame.bottom - frame.top + 8} fill="#ece5d6" />
          <text x={x(margin) + 4} y={frame.bottom - 5} fill="#62676c" fontSize={12.5}>
            {text.judge.margin(analysis.margin?.given.replace("%", " %") ?? "")}
          </text>
        </>
      )}
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1={frame.top - 8} y2={frame.bottom} stroke={tick === 0 ? "#2e3134" : "#e4dccb"} strokeWidth={tick === 0 ? 2 : 1} />
          <text x={x(tick)} y={frame.bottom + 18} textAnchor="middle" fill="#62676c" fontSize={12.5}>
            {tick === 0 ? "0" : signed(tick, Number.isInteger(tick) ? 0 : 1)}
          </text>
        </g>
      ))}
      {limits.map(({ c, low, high }, i) => {
        const index = trial.sheet.treatments.findIndex((s) => s.name === c.treatment);
        const label = `${c.treatment} ${signed(c.estimate, 0)} ${unit}, ${signed(c.percent ?? 0, 0)} %`;
        // Over its interval, but never out of the picture: letters are about 7 wide.
        const anchor = Math.max(low0, Math.min(x(low ?? c.estimate), frame.right + 10 - 7 * label.length));
        return (
          <g key={c.treatment}>
            <text x={anchor} y={y(i) - 12}>
              <tspan fontWeight={650}>{c.treatment}</tspan> {signed(c.estimate, 0)} {unit}
              {typeof c.percent === "number" && `, ${signed(c.percent, 0)} %`}
            </text>
            {low !== null && high !== null && (
              <>
                <line x1={x(low)} x2={x(high)} y1={y(i)} y2={y(i)} stroke={colourOf(index)} strokeWidth={5} />
                <text x={anchor} y={y(i) + 21} fill="#62676c" fontSize={12.5}>
                  {signed(low, 0)} to {signed(high, 0)} {unit}
                </text>
              </>
            )}
            <Mark treatment={index} x={x(c.estimate)} y={y(i)} size={8} />
          </g>
        );
      })}
    </g>
  );
}
