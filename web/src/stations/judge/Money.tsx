import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { money as told, shown } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { moneyQuery } from "../../queries/money";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";

type Money = Schemas["Money"];

/** What each treatment costs and brings on a unit, and what it earns beside the control. */
export function MoneyTold({ trial }: { trial: TrialView }) {
  const found = useQuery(moneyQuery(trial.id));
  const view = found.data;
  const words = text.money;
  if (!view) {
    return <Trouble error={found.error} />;
  }
  // Where some grades have a price somebody said one, though no treatment can be told by it.
  const partly =
    view.grades_without_price.length > 0 &&
    view.sold.some((s) => s.each.some((own) => typeof own?.value === "number"));
  return (
    <section className="money">
      <h2>{words.title}</h2>
      {view.treatments.map(
        (t) =>
          t.beside && (
            <p key={t.treatment} className="v">
              {t.beside.sentence}
            </p>
          ),
      )}
      {!view.priced && !partly && (
        <p>
          {words.noPrice}{" "}
          <Link to={`/trials/${trial.id}/ask`}>{words.toAsk}</Link>
        </p>
      )}
      {partly && (
        <p>
          {words.gradesWithout(view.grades_without_price.join(", "))}{" "}
          <Link to={`/trials/${trial.id}/ask`}>{words.toAsk}</Link>
        </p>
      )}
      <Table trial={trial} view={view} />
      <p className="soft">
        {inWords(trial, words.why(shown(view.crops_a_year, 0)))}{" "}
        {view.as_of ? words.asOf(view.as_of) : words.noDate}{" "}
        {view.oldest_price && words.oldest(view.oldest_price)}{" "}
        {view.unpriced.length > 0 && words.unpriced(view.unpriced.join(", "))}{" "}
        <Link to="/farm">{words.toFarm}</Link>
      </p>
      <Sold trial={trial} view={view} />
      <Lines trial={trial} view={view} />
    </section>
  );
}

function Table({ trial, view }: { trial: TrialView; view: Money }) {
  const words = text.money;
  const ends = view.treatments.flatMap((t) =>
    t.beside ? [t.beside.low, t.beside.high] : [],
  );
  const reach = Math.max(...ends.map(Math.abs), 0.01);
  return (
    <Wide className="numbers" name={words.title}>
      <table>
        <thead>
          <tr>
            {words.columns.map((c) => (
              <th key={c} scope="col">
                {inWords(trial, c)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.treatments.map((t) => (
            <tr key={t.treatment}>
              <th scope="row">{trial.sheet.treatments[t.treatment]?.name}</th>
              {[t.cost, t.value, t.gain, t.gain_a_month].map((figure, i) => (
                <td key={i} className="figure">
                  {typeof figure === "number"
                    ? told(view.currency, figure)
                    : "–"}
                </td>
              ))}
              <td>
                <Beside trial={trial} view={view} of={t} reach={reach} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}

/** What a treatment earns more; a dash where nobody knows what it brings. */
function Beside({
  trial,
  view,
  of,
  reach,
}: {
  trial: TrialView;
  view: Money;
  of: Money["treatments"][number];
  reach: number;
}) {
  const words = text.money;
  if (!of.beside) {
    return trial.sheet.treatments[of.treatment]?.control ? words.ground : "–";
  }
  const label = words.interval(
    told(view.currency, of.beside.low),
    told(view.currency, of.beside.high),
  );
  return (
    <>
      <Interval beside={of.beside} reach={reach} label={label} />{" "}
      <small>{words.verdicts[of.beside.verdict]}</small>
    </>
  );
}

/** What it earns more, with its ends, around nothing more. */
function Interval({
  beside,
  reach,
  label,
}: {
  beside: Schemas["MoneyBeside"];
  reach: number;
  label: string;
}) {
  const x = (value: number) => 90 + (80 * value) / reach;
  return (
    <svg width="180" height="18" role="img" aria-label={label}>
      <title>{label}</title>
      <line x1="90" x2="90" y1="0" y2="18" className="ground" />
      <line
        x1={x(beside.low)}
        x2={x(beside.high)}
        y1="9"
        y2="9"
        className="span"
      />
      <circle cx={x(beside.gain)} cy="9" r="4.5" />
    </svg>
  );
}

/** A folded table with a column a treatment. */
function ByTreatment({
  trial,
  view,
  name,
  first,
  rows,
}: {
  trial: TrialView;
  view: Money;
  name: string;
  first: string;
  rows: {
    key: string;
    head: string;
    cell: (t: Money["treatments"][number]) => string;
  }[];
}) {
  return (
    <details>
      <summary>{name}</summary>
      <Wide className="numbers" name={name}>
        <table>
          <thead>
            <tr>
              <th scope="col">{first}</th>
              {view.treatments.map((t) => (
                <th key={t.treatment} scope="col">
                  {trial.sheet.treatments[t.treatment]?.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.key}>
                <th scope="row">{row.head}</th>
                {view.treatments.map((t) => (
                  <td key={t.treatment} className="figure">
                    {row.cell(t)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </details>
  );
}

/** What is cut in waves and sorted into grades: weight and money of each, by treatment. */
function Sold({ trial, view }: { trial: TrialView; view: Money }) {
  const words = text.money;
  const rows = view.sold.map((line) => ({
    key: `${line.day} ${line.grade}`,
    head: line.grade
      ? text.judge.onDay(line.grade, line.day)
      : words.onDay(line.day),
    cell: (t: Money["treatments"][number]) => {
      const own = line.each[t.treatment];
      const brings =
        typeof own?.value === "number"
          ? told(view.currency, own.value)
          : words.noPriceOf;
      return own ? `${shown(own.g, own.g < 10 ? 1 : 0)} g, ${brings}` : "–";
    },
  }));
  return (
    rows.length > 0 && (
      <ByTreatment
        trial={trial}
        view={view}
        name={words.sold}
        first={words.wave}
        rows={rows}
      />
    )
  );
}

/** What goes into the costs, line by line. */
function Lines({ trial, view }: { trial: TrialView; view: Money }) {
  const words = text.money;
  const key = (c: Schemas["CostLine"]) => `${c.kind} ${c.name}`;
  const lines = [
    ...new Map(
      view.treatments.flatMap((t) => t.costs).map((c) => [key(c), c]),
    ).values(),
  ];
  const rows = lines.map((line) => ({
    key: key(line),
    head: line.kind === line.name ? line.name : `${line.kind}: ${line.name}`,
    cell: (t: Money["treatments"][number]) => {
      const own = t.costs.find((c) => key(c) === key(line));
      return own ? amount(view.currency, own) : "–";
    },
  }));
  return (
    <ByTreatment
      trial={trial}
      view={view}
      name={words.lines}
      first={words.what}
      rows={rows}
    />
  );
}

function amount(currency: string, own: Schemas["CostLine"]): string {
  const whole = Number.isInteger(own.amount) || own.amount >= 10;
  const much = `${shown(own.amount, whole ? 0 : 2)} ${own.amount === 1 && own.unit === "pieces" ? "piece" : own.unit}`;
  const of = own.priced_on ? text.money.priceOf(own.priced_on) : "";
  return typeof own.cost === "number"
    ? `${much}, ${told(currency, own.cost)}${of}`
    : `${much}, ${text.money.noPriceOf}`;
}
