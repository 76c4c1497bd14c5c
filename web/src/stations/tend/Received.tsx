import type { Schemas, TrialView } from "../../api/client";
import { Badge } from "../../marks/Mark";
import { shown } from "../../marks/number";
import { Wide } from "../../marks/Wide";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import "./received.css";

/** Codes that are told one by one. */
const MOST_CODES = 8;

function Codes({
  trial,
  row,
  whole,
}: {
  trial: TrialView;
  row: Schemas["ReceivedRow"];
  whole: boolean;
}) {
  const words = text.tend.given;
  const told = row.codes.slice(0, MOST_CODES);
  const treatment = typeof row.treatment === "number" ? row.treatment : null;
  return (
    <>
      {treatment !== null && (
        <>
          <Badge treatment={treatment} />{" "}
          {trial.sheet.treatments[treatment]?.name}{" "}
        </>
      )}
      {whole ? (
        inWords(trial, words.all(row.codes.length))
      ) : (
        <b title={row.codes.join(", ")}>
          {told.join(" ")}{" "}
          {row.codes.length > told.length &&
            words.more(row.codes.length - told.length)}
        </b>
      )}
    </>
  );
}

/** What each unit has received; those that have received the same stand in one row. */
export function Received({
  trial,
  rows,
}: {
  trial: TrialView;
  rows: Schemas["ReceivedRow"][];
}) {
  const words = text.tend.given;
  const amount = (t: Schemas["ReceivedTotal"]) =>
    `${t.what}${t.how === "stirred" ? "" : `, ${words.hows[t.how]}`}: ${words.times(t.times)}${typeof t.amount === "number" ? `, ${shown(t.amount, t.amount < 10 ? 1 : 0)} ${t.unit}` : ""}`;
  return (
    <Wide className="received-wide" name={words.received}>
      <table className="received">
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
          {rows.map((row) => (
            <tr key={row.codes.join(" ")}>
              <th scope="row">
                <Codes trial={trial} row={row} whole={rows.length === 1} />
              </th>
              <td>
                {row.work.map((w) => (
                  <p key={w.job}>
                    {words.verbs[w.job] ?? w.label} {words.days(w.days)}
                    {typeof w.longest_gap === "number" && (
                      <small> {words.gap(w.longest_gap)}</small>
                    )}
                  </p>
                ))}
              </td>
              <td>
                {row.totals.map((t) => (
                  <p key={`${t.what} ${t.how} ${t.unit}`}>{amount(t)}</p>
                ))}
              </td>
              <td className="not">
                {row.withheld.map((w, i) => (
                  <p key={i}>{words.without(w.day, w.why)}</p>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Wide>
  );
}
