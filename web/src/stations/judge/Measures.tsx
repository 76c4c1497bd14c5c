import { useQuery } from "@tanstack/react-query";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Badge } from "../../marks/Mark";
import { shown, signed } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { measuresQuery } from "../../queries/next";
import { text } from "../../text/en";

type Row = Schemas["MeasureRow"];
type Cell = Schemas["SideCell"];

/** What was kept away of damage, the treatments from best to worst, and whether what was expected came true. */
export function BesideVerdicts({
  trial,
  efficacy,
}: {
  trial: TrialView;
  efficacy: Schemas["Efficacy"][];
}) {
  const view = useQuery(measuresQuery(trial.id)).data;
  if (!view) {
    return null;
  }
  return (
    <>
      {efficacy.map((own) => (
        <p key={own.treatment} className="efficacy">
          {own.said}
        </p>
      ))}
      {view.ranking && <p className="ranking">{view.ranking}</p>}
      {view.expected && (
        <p className="expected">
          {text.sideBySide.expected} <q>{trial.ask.hypothesis}</q>{" "}
          <b>{view.expected}</b>
        </p>
      )}
    </>
  );
}

/** Every measure against every treatment, each difference with its limits. */
export function Measures({ trial }: { trial: TrialView }) {
  const words = text.sideBySide;
  const found = useQuery(measuresQuery(trial.id));
  const view = found.data;
  if (!view) {
    return <Trouble error={found.error} />;
  }
  if (view.rows.length < 2) {
    return null;
  }
  const treatments = trial.sheet.treatments.flatMap((t, i) =>
    t.control ? [] : [{ name: t.name, index: i }],
  );
  const control = trial.sheet.treatments.find((t) => t.control)?.name ?? "";
  return (
    <section className="side-by-side">
      <h2>{words.title}</h2>
      <Wide className="numbers" name={words.title}>
        <table>
          <thead>
            <tr>
              <th scope="col">{words.against(control)}</th>
              {treatments.map((t) => (
                <th key={t.name} scope="col">
                  <Badge treatment={t.index} /> {t.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {view.rows.map((own) => (
              <tr key={own.judged.id}>
                <th scope="row">
                  {text.judge.onDay(own.name, own.judged.day ?? null)}{" "}
                  {own.decides && <small>{text.judge.decides}</small>}
                </th>
                {treatments.map((t) => (
                  <td key={t.name}>
                    <Difference
                      own={own}
                      cell={own.row.cells.find((c) => c.treatment === t.name)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <p className="soft">
        {words.why}{" "}
        {typeof view.by_luck_percent === "number" &&
          words.luck(shown(view.by_luck_percent, 0))}
      </p>
    </section>
  );
}

/** The reach of a line: its farthest limit, either way. */
function reachOf(own: Row): number {
  const ends = own.row.cells
    .flatMap((c) => [c.low, c.high, c.estimate])
    .filter((x): x is number => typeof x === "number");
  return Math.max(...ends.map(Math.abs), own.row.margin ?? 0, 1e-9);
}

const decimalsOf = (value: number) => (Math.abs(value) < 10 ? 1 : 0);

/** One difference: its limits around none, the margin behind, and what was learned. */
function Difference({ own, cell }: { own: Row; cell: Cell | undefined }) {
  const words = text.sideBySide;
  if (!cell || typeof cell.estimate !== "number") {
    return <span className="soft">–</span>;
  }
  const reach = reachOf(own);
  const x = (value: number) => 60 + (54 * value) / reach;
  const unit = words.unit[own.row.unit] ?? own.row.unit;
  const verdict = words.verdicts[cell.verdict];
  const { low, high } = cell;
  const bounded = typeof low === "number" && typeof high === "number";
  const label = bounded
    ? words.interval(
        cell.treatment,
        signed(low, decimalsOf(low)),
        signed(high, decimalsOf(high)),
        unit,
        verdict,
      )
    : `${words.open}: ${verdict}`;
  const margin = own.row.margin;
  return (
    <div className="difference" data-verdict={cell.verdict}>
      <span>
        {signed(cell.estimate, decimalsOf(cell.estimate))} {unit}
      </span>
      <svg width="120" height="16" role="img" aria-label={label}>
        <title>{label}</title>
        {typeof margin === "number" && (
          <rect
            x={x(-margin)}
            width={x(margin) - x(-margin)}
            y="1"
            height="14"
            className="band"
          />
        )}
        <line x1="60" x2="60" y1="0" y2="16" className="ground" />
        {bounded && (
          <line x1={x(low)} x2={x(high)} y1="8" y2="8" className="span" />
        )}
        <circle cx={x(cell.estimate)} cy="8" r="4" />
      </svg>
      <small>{verdict}</small>
    </div>
  );
}
