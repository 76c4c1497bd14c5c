import { scaleLinear } from "d3-scale";
import type { Schemas, TrialView } from "../../api/client";
import { colourOf, Mark } from "../../marks/Mark";
import { shown, signed } from "../../marks/number";
import { text } from "../../text/en";

const TOP = 40;
const SIZE = { row: 46, left: 64, middle: 430, right: 900, gap: 70 };

/** Every unit beside its block mates, and each difference from the control with its interval against the margin. */
export function Twins({ trial, view }: { trial: TrialView; view: Schemas["JudgeView"] }) {
  const { dots, analysis, measure } = view;
  const levels = [...new Set(dots.map((d) => d.level))].sort((a, b) => b - a);
  const contrasts = analysis?.contrasts ?? [];
  const height = TOP + Math.max(levels.length * SIZE.row, contrasts.length * 62 + 16, 120) + 40;
  return (
    <svg
      viewBox={`0 0 ${analysis ? SIZE.right + 20 : 560} ${height}`} className="twins" role="img"
      aria-label={`${measure.name}: ${text.judge.eachTray}`} fontFamily="Atkinson Hyperlegible Next Variable, sans-serif"
    >
      <Dots trial={trial} view={view} levels={levels} bottom={height - 40} />
      {analysis && <Intervals trial={trial} analysis={analysis} unit={measure.unit} bottom={height - 40} />}
    </svg>
  );
}

interface DotsProps {
  trial: TrialView;
  view: Schemas["JudgeView"];
  levels: number[];
  bottom: number;
}

function Dots({ trial, view, levels, bottom }: DotsProps) {
  const { dots, measure, analysis } = view;
  const values = dots.map((d) => d.value);
  const x = scaleLinear([Math.min(...values), Math.max(...values)], [SIZE.left + 26, SIZE.middle]).nice(6);
  const step = (bottom - TOP) / levels.length;
  const y = (level: number) => TOP + (levels.indexOf(level) + 0.5) * step;
  return (
    <g fontSize={13} fill="#2e3134">
      <text x={SIZE.left} y={16} fontWeight={600} fill="#55595d">
        {trial.rack.levels > 1 ? text.judge.eachTray : text.judge.eachTrayPlain}, {measure.unit}
      </text>
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1={TOP - 8} y2={bottom} stroke="#ece6da" />
          <text x={x(tick)} y={bottom + 18} textAnchor="middle" fill="#62676c" fontSize={12.5}>
            {tick}
          </text>
        </g>
      ))}
      {analysis?.treatments.map((t) => {
        const index = trial.sheet.treatments.findIndex((s) => s.name === t.name);
        return (
          <line
            key={t.name} x1={x(t.adjusted_mean)} x2={x(t.adjusted_mean)} y1={TOP - 8} y2={bottom} stroke={colourOf(index)}
            strokeDasharray="2 4" strokeWidth={1.6}
          />
        );
      })}
      {levels.map((level) => {
        const mates = dots.filter((d) => d.level === level);
        const own = mates.map((d) => x(d.value));
        return (
          <g key={level}>
            <text x={SIZE.left - 6} y={y(level) + 5} textAnchor="end">
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
  bottom: number;
}

function Intervals({ trial, analysis, unit, bottom }: IntervalsProps) {
  const limits = analysis.contrasts.map((c) => {
    const low = c.simultaneous?.low ?? c.low ?? null;
    const high = c.simultaneous?.high ?? c.high ?? null;
    return { c, low, high };
  });
  const margin = analysis.margin?.absolute ?? null;
  const all = limits.flatMap(({ c, low, high }) => [c.estimate, low ?? c.estimate, high ?? c.estimate]);
  const reach = [0, ...all, ...(margin === null ? [] : [-margin, margin])];
  const x = scaleLinear([Math.min(...reach), Math.max(...reach)], [SIZE.middle + SIZE.gap, SIZE.right]).nice(6);
  // Zero is the control's ground line; the least and greatest tick leave it room.
  const y = (i: number) => TOP + 22 + i * 62;
  const control = analysis.contrasts[0]?.versus ?? "";
  const low0 = x.range()[0] ?? 0;
  return (
    <g fontSize={13} fill="#2e3134">
      <text x={low0} y={16} fontWeight={600} fill="#55595d">
        {text.judge.moreThan(control)}, {unit}
      </text>
      {margin !== null && (
        <>
          <rect x={x(-margin)} y={TOP - 8} width={x(margin) - x(-margin)} height={bottom - TOP + 8} fill="#ece5d6" />
          <text x={x(margin) + 4} y={bottom - 5} fill="#62676c" fontSize={12.5}>
            {text.judge.margin(analysis.margin?.given.replace("%", " %") ?? "")}
          </text>
        </>
      )}
      {x.ticks(6).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1={TOP - 8} y2={bottom} stroke={tick === 0 ? "#2e3134" : "#e4dccb"} strokeWidth={tick === 0 ? 2 : 1} />
          <text x={x(tick)} y={bottom + 18} textAnchor="middle" fill="#62676c" fontSize={12.5}>
            {tick === 0 ? "0" : signed(tick, Number.isInteger(tick) ? 0 : 1)}
          </text>
        </g>
      ))}
      {limits.map(({ c, low, high }, i) => {
        const index = trial.sheet.treatments.findIndex((s) => s.name === c.treatment);
        const anchor = Math.max(low0, Math.min(x(low ?? c.estimate), SIZE.right - 230));
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
