import type { Schemas } from "../../api/client";
import { shown, signed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { text } from "../../text/en";

/** Crossed factors: what was learned, then every effect over all combinations and within each. */
interface FactorsProps {
  factors: Schemas["FactorsOut"];
  unit: string;
  decimals: number;
  /** A sentence in place of the usual one, and the one factor to show. */
  instead?: { sentence: string; heading: string; factor: string };
}

export function Factors({ factors, unit, decimals, instead }: FactorsProps) {
  const { interaction } = factors;
  // Compared by how many times as much, they are told in per cent.
  const times = factors.effects.some((e) => typeof e.ratio === "number");
  const told = (value: number) =>
    times ? signed(100 * (value - 1), 1) : signed(value, decimals);
  const effects = factors.effects.filter(
    (e) => instead === undefined || e.factor === instead.factor,
  );
  return (
    <section className="factors">
      <h2>
        {instead?.heading ?? text.judge.factors(factors.names.join(" and "))}
      </h2>
      <p className="v" data-found={interaction.found}>
        {instead?.sentence ?? factors.claim}
      </p>
      <Wide className="numbers" name={text.judge.numbers}>
        <table>
          <thead>
            <tr>
              {text.judge.effectColumns.map((name, i) => (
                <th key={name}>
                  {name}
                  {i === 2 && `, ${times ? "%" : unit}`}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {effects.map((e) => {
              const low = e.simultaneous?.low ?? e.low;
              const high = e.simultaneous?.high ?? e.high;
              return (
                <tr
                  key={e.factor + e.treatment}
                  className={e.at ? "within" : "over"}
                >
                  <td>
                    {e.at ? e.treatment : text.judge.overAll(e.treatment)}
                  </td>
                  <td>{e.versus}</td>
                  <td>{told(e.estimate)}</td>
                  <td>
                    {typeof low === "number" && typeof high === "number"
                      ? text.judge.range(told(low), told(high))
                      : "–"}
                  </td>
                  <td>
                    {e.randomisation ? shown(100 * e.randomisation.p, 1) : "–"}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}
