import type { Schemas } from "../../api/client";
import { shown } from "../../marks/number";
import { text } from "../../text/en";

const MACROS = ["N", "P", "K", "Ca", "Mg", "S"];
const TRACES = ["Fe", "Mn", "Zn", "B", "Cu", "Mo"];
/** A bar ends at twice its target; what goes beyond runs off with an arrow. */
const WIDEST = 2;

const figure = (mg: number) =>
  mg === 0 ? "0" : shown(mg, mg < 0.1 ? 3 : mg < 10 ? 2 : 0);

/** The tank: each element against the band of its target, and what meters and roots make of it. */
export function Holding({
  view,
  temperature,
}: {
  view: Schemas["BenchAnswer"];
  temperature: number;
}) {
  const { solution, bands } = view;
  const band = (element: string) => bands.find((b) => b.element === element);
  const got = (element: string) => solution.mg_per_l[element] ?? 0;
  const greatest = Math.max(...MACROS.map(got), 1);
  const shownTraces = TRACES.filter((e) => got(e) > 0 || band(e));
  const ec = solution.conductivity_ms_per_cm;
  const { ratios } = solution;
  return (
    <section className="holding" aria-label={text.bench.tank}>
      <table>
        <tbody>
          {[...MACROS, ...shownTraces].map((element) => (
            <Element
              key={element}
              element={element}
              mg={got(element)}
              band={band(element)}
              water={view.water_mg_per_l[element] ?? 0}
              greatest={greatest}
            />
          ))}
        </tbody>
      </table>
      <p className="key soft">
        {bands.length > 0 ? text.bench.bandKey : text.bench.noBandKey}
      </p>
      <p className="strength">
        EC <b>{shown(ec.at_25c, 2)}</b> mS/cm
        <small>
          {text.mix.ppm(
            ["500", "640", "700"]
              .map((scale) => shown(solution.ppm[scale], 0))
              .join(" / "),
          )}
        </small>
        {Math.abs(temperature - 25) >= 1 && (
          <small>
            {text.bench.atTemperature(
              shown(temperature, 0),
              shown(ec.at_temperature, 2),
              shown(ec.as_metered, 2),
            )}
          </small>
        )}
      </p>
      <dl className="beside">
        {typeof ratios.n_to_k === "number" && (
          <Fact
            name={text.bench.nToK}
            value={`1 : ${shown(1 / ratios.n_to_k, 2)}`}
          />
        )}
        {typeof ratios.k_to_ca === "number" &&
          typeof ratios.ca_to_mg === "number" && (
            <Fact
              name={text.bench.kCaMg}
              value={`${shown(ratios.k_to_ca * ratios.ca_to_mg, 1)} : ${shown(ratios.ca_to_mg, 1)} : 1`}
            />
          )}
        {typeof ratios.ammonium_percent === "number" && (
          <Fact
            name={text.bench.forms}
            value={text.bench.formsAre(
              shown(
                100 - ratios.ammonium_percent - (ratios.urea_percent ?? 0),
                0,
              ),
              shown(ratios.ammonium_percent, 0),
              shown(ratios.urea_percent, 0),
            )}
          />
        )}
        <Fact
          name={text.bench.osmotic}
          value={`${shown(solution.osmotic_pressure_kpa, 0)} kPa`}
        />
        <Fact
          name={text.bench.ionic}
          value={`${shown(1000 * solution.ionic_strength_mol_per_l, 1)} mmol/L`}
        />
        <Fact
          name={text.bench.balance}
          value={`${shown(solution.charge_balance_percent, 1)} %`}
        />
        {typeof view.cost_per_l === "number" && (
          <Fact name={text.bench.cost} value={shown(view.cost_per_l, 3)} />
        )}
      </dl>
      <details>
        <summary>{text.bench.mmol}</summary>
        <p className="soft">
          {Object.entries(solution.mmol_per_l)
            .filter(([, mmol]) => mmol > 0)
            .map(([ion, mmol]) => `${ion} ${shown(mmol, 2)}`)
            .join(" · ")}
        </p>
      </details>
    </section>
  );
}

interface ElementProps {
  element: string;
  mg: number;
  band: Schemas["BenchAnswer"]["bands"][number] | undefined;
  /** What of it the water brings, mg/L. */
  water: number;
  /** The greatest of all, against which those without a band are drawn. */
  greatest: number;
}

/** One element against its band, with what the water brings of it. */
function Element({ element, mg, band, water, greatest }: ElementProps) {
  const full =
    band && band.target_mg_per_l > 0 ? WIDEST * band.target_mg_per_l : greatest;
  const share = (v: number) => Math.min(100, (100 * v) / full);
  const off =
    band !== undefined && (mg < band.least_mg_per_l || mg > band.most_mg_per_l);
  const brought = Math.min(mg, water);
  return (
    <tr className={off ? "off" : ""}>
      <th scope="row">{element}</th>
      <td className="bar">
        {band && (
          <u
            style={{
              left: `${share(band.least_mg_per_l)}%`,
              width: `${share(band.most_mg_per_l) - share(band.least_mg_per_l)}%`,
            }}
          />
        )}
        <i style={{ width: `${share(mg)}%` }} />
        <s
          style={{ width: `${share(brought)}%` }}
          title={text.bench.fromWater(figure(brought))}
        />
      </td>
      <td className="figure">
        {figure(mg)}
        {band && mg > full && " ▸"}
      </td>
      <td className="figure soft">
        {band
          ? `${figure(band.least_mg_per_l)} – ${figure(band.most_mg_per_l)}`
          : ""}
      </td>
    </tr>
  );
}

function Fact({ name, value }: { name: string; value: string }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd>{value}</dd>
    </div>
  );
}
