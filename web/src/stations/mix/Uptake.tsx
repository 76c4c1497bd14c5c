import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas, TrialView } from "../../api/client";
import { Trouble } from "../../frame/Trouble";
import { Badge, colourOf } from "../../marks/Mark";
import { shown } from "../../marks/number";
import { inWords } from "../../marks/words";
import { uptakeQuery } from "../../queries/trial";
import { text } from "../../text/en";

/** Water and feed that went from each unit, drawn on one scale: what it was given, and what of that is gone. */
export function Uptake({ trial }: { trial: TrialView }) {
  const uptake = useQuery(uptakeQuery(trial.id));
  const words = (sentence: string) => inWords(trial, sentence);
  const view = uptake.data;
  const most = Math.max(
    ...(view?.units.map((u) => u.uptake?.given_l ?? 0) ?? []),
    0.001,
  );
  const open = trial.reveal !== null;
  return (
    <section className="uptake">
      <p className="soft">{words(text.uptake.why)}</p>
      <Trouble error={uptake.error} />
      {view && !view.measured && (
        <p>
          {words(text.uptake.notMeasured)}{" "}
          <Link to={`/trials/${trial.id}/ask`}>{text.uptake.toAsk}</Link>
        </p>
      )}
      {view?.measured && !view.recorded && (
        <p>
          {words(text.uptake.nothing)}{" "}
          <Link to={`/trials/${trial.id}/tend`}>{text.uptake.toTend}</Link>
        </p>
      )}
      {view?.recorded && (
        <table>
          <thead>
            <tr>
              <th scope="col">{words(text.tend.tray)}</th>
              <th scope="col">{text.uptake.water}</th>
              {open && <th scope="col">{text.uptake.feed}</th>}
              {open && <th scope="col">{text.uptake.perLitre}</th>}
            </tr>
          </thead>
          <tbody>
            {view.units.map((unit) => (
              <Row key={unit.code} trial={trial} unit={unit} most={most} />
            ))}
          </tbody>
        </table>
      )}
      {view?.recorded && (
        <p className="soft">
          {words(open ? text.uptake.key : text.uptake.blind)}
        </p>
      )}
    </section>
  );
}

function Row({
  trial,
  unit,
  most,
}: {
  trial: TrialView;
  unit: Schemas["UnitUptake"];
  most: number;
}) {
  const used = unit.uptake;
  const open = trial.reveal !== null;
  const treatment = unit.treatment ?? null;
  const percent = (volume: number) => `${(100 * Math.max(0, volume)) / most}%`;
  const feed =
    used &&
    typeof used.feed_l === "number" &&
    typeof used.feed_given_l === "number" &&
    used.feed_given_l > 0
      ? (100 * used.feed_l) / used.feed_given_l
      : null;
  return (
    <tr>
      <th scope="row">
        {treatment !== null && <Badge treatment={treatment} />}
        {unit.code}
        {treatment !== null && (
          <small> {trial.sheet.treatments[treatment]?.name}</small>
        )}
      </th>
      {used ? (
        <td>
          <span className="given">
            <u style={{ width: percent(used.given_l) }} />
            <i
              style={{
                width: percent(used.water_l),
                background:
                  treatment === null ? undefined : colourOf(treatment),
              }}
            />
          </span>
          <b>{litres(used.water_l)} L</b>{" "}
          <small>
            {text.uptake.of(litres(used.given_l), used.from_day, used.to_day)}
          </small>
        </td>
      ) : (
        <td className="soft" colSpan={open ? 3 : 1}>
          {unit.why}
        </td>
      )}
      {used && open && (
        <td>
          {feed === null ? "–" : `${shown(feed, 0)} %`}
          {typeof unit.nitrogen_mg === "number" && (
            <small> {text.uptake.nitrogen(shown(unit.nitrogen_mg, 0))}</small>
          )}
          {typeof unit.ec_untouched_ms_per_cm === "number" && (
            <small className="untouched">
              {text.uptake.untouched(shown(unit.ec_untouched_ms_per_cm, 2))}
            </small>
          )}
        </td>
      )}
      {used && open && (
        <td>
          {typeof unit.g_per_l === "number"
            ? `${shown(unit.g_per_l, 1)} g`
            : "–"}
        </td>
      )}
    </tr>
  );
}

/** A bucket is read to the tenth of a litre, a jar to the hundredth. */
const litres = (value: number) => shown(value, Math.abs(value) < 1 ? 2 : 1);
