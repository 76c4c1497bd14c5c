import type { Schemas } from "../api/client";
import { shown } from "../marks/number";
import { mayBeTaken } from "../queries/instruments";
import { text } from "../text/en";

const words = text.instruments;

/** A value with its unit, and what is to be minded about it. */
export function valueSaid(value: Schemas["MeterValue"]): string {
  const unit = words.units[value.measures];
  const told =
    typeof value.value === "number"
      ? `${shown(value.value, words.decimals[value.measures])}${unit ? ` ${unit}` : ""}`
      : words.noValue;
  const mind =
    typeof value.value !== "number" || mayBeTaken(value)
      ? ""
      : value.frozen
        ? ` (${words.frozen})`
        : ` (${words.moving})`;
  return `${words.quantities[value.measures]} ${told}${mind}`;
}

/** What the probe shows while readings are taken; one key takes it. */
export function ProbeBar({
  values,
}: {
  values: Map<Schemas["Measured"], Schemas["MeterValue"]>;
}) {
  return (
    <p
      className="probe-bar"
      data-testid="probe"
      data-still={[...values.values()].every(mayBeTaken) && values.size > 0}
    >
      <b>{words.probe}</b>{" "}
      {values.size === 0
        ? words.probeSilent
        : `${[...values.values()].map(valueSaid).join(", ")}. ${words.probeTakes}`}
    </p>
  );
}
