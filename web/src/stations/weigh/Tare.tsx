import { Input } from "antd";
import type { Schemas, TrialView } from "../../api/client";
import { mass, massIn, type MassUnit } from "../../marks/mass";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";
import type { Weighing } from "./useWeighing";

interface Props {
  trial: TrialView;
  view: Schemas["WeighView"];
  unit: MassUnit;
  weighing: Weighing;
}

/** What the empty container weighs: known from Stores, as the last one, weighed, or none where the scale was set to zero. */
export function Tare({ trial, view, unit, weighing }: Props) {
  const { tare, setTare, tareG } = weighing;
  const fill = (g: number) => setTare(massIn(g, unit));
  const last = view.last_tare_g;
  const offers = [
    ...view.tares.map((t) => ({
      words: text.weigh.tareOf(t.name, mass(t.g, unit)),
      take: () => fill(t.g),
    })),
    ...(typeof last === "number"
      ? [
          {
            words: text.weigh.tareLast(mass(last, unit)),
            take: () => fill(last),
          },
        ]
      : []),
    ...(weighing.live
      ? [{ words: text.weigh.tareWeigh, take: () => void weighing.takeTare() }]
      : []),
    { words: text.weigh.tareZero, take: () => fill(0) },
  ];
  return (
    <div className="tare">
      <label>
        <span>
          {view.waves
            ? text.waves.tare(unit)
            : inWords(trial, text.weigh.tare(unit))}
        </span>
        <Input
          name="tare"
          inputMode="decimal"
          value={tare}
          onChange={(e) => setTare(e.target.value)}
        />
      </label>
      {tareG === null && (
        <p className="ask">
          {view.waves ? text.waves.tareWhy : inWords(trial, text.weigh.tareWhy)}
        </p>
      )}
      {(tareG === null || Number.isNaN(tareG)) && (
        <ul>
          {offers.map((offer) => (
            <li key={offer.words}>
              <button type="button" className="plain" onClick={offer.take}>
                {offer.words}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
