import type { Schemas } from "../../api/client";
import { ofAHundred, shown, signed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { text } from "../../text/en";
import { limitsOf, scaleOf } from "./scale";

const p = (value: number | null | undefined) =>
  typeof value !== "number"
    ? "–"
    : value < 0.0001
      ? "< 0.0001"
      : value.toFixed(4);

/** The figures behind the picture. */
export function Numbers({
  analysis,
  measure,
}: {
  analysis: Schemas["Analysis"];
  measure: Schemas["Measure"];
}) {
  const d = measure.decimals + 1;
  const scale = scaleOf(analysis, measure);
  const percent = 100 * (analysis.look?.confidence ?? analysis.confidence);
  return (
    <Wide className="numbers" name={text.judge.numbers}>
      <table>
        <thead>
          <tr>
            {text.judge.columns.map((c) => (
              <th key={c} scope="col">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {analysis.treatments.map((t) => (
            <tr key={t.name}>
              <th scope="row">{t.name}</th>
              <td>{t.units}</td>
              <td>
                {shown(scale.mean(t.adjusted_mean), d)} {measure.unit}
              </td>
              <td>
                {typeof t.sd === "number" ? shown(scale.mean(t.sd), d) : "–"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <table>
        <thead>
          <tr>
            {text.judge
              .diffColumns(shown(percent, percent % 1 > 0.005 ? 1 : 0))
              .map((c) => (
                <th key={c} scope="col">
                  {c}
                </th>
              ))}
          </tr>
        </thead>
        <tbody>
          {analysis.contrasts.map((c) => {
            const [low, high] = limitsOf(c);
            const df = c.decided_by?.df ?? c.df;
            return (
              <tr key={c.treatment} data-contrast={c.treatment}>
                <th scope="row">{c.treatment}</th>
                <td data-exact={c.estimate}>
                  {signed(scale.gap(c.estimate), d)} {scale.unit}
                </td>
                <td data-exact={c.percent}>
                  {typeof c.percent === "number" ? signed(c.percent, 1) : "–"}
                </td>
                <td data-exact={low}>
                  {typeof low === "number" ? signed(scale.gap(low), d) : "–"}
                </td>
                <td data-exact={high}>
                  {typeof high === "number" ? signed(scale.gap(high), d) : "–"}
                </td>
                <td data-exact={c.simultaneous?.p ?? c.p}>
                  {p(c.simultaneous?.p ?? c.p)}
                </td>
                <td data-exact={c.randomisation?.p}>{p(c.randomisation?.p)}</td>
                <td>{shown(df, df % 1 ? 1 : 0)}</td>
                <td data-exact={c.ahead_next_time}>
                  {typeof c.ahead_next_time === "number"
                    ? text.judge.ahead(ofAHundred(c.ahead_next_time))
                    : "–"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Wide>
  );
}
