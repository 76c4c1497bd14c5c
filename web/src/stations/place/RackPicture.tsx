import type { ReactNode } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { Badge, colourOf } from "../../marks/Mark";
import { text } from "../../text/en";

interface SpaceProps {
  trial: TrialView;
  small?: boolean;
  /** What a place holds. */
  place: (level: number, slot: number) => ReactNode;
  /** Further classes of a place. */
  look?: (level: number, slot: number) => string;
}

/** Levels in the order in which one sees them: a rack from its top, rows, sites and rounds from the first. */
export function levelsSeen(trial: TrialView): number[] {
  const upwards = Array.from({ length: trial.rack.levels }, (_, i) => i + 1);
  return (trial.rack.kind ?? "rack") === "rack" && trial.rounds === 1
    ? upwards.reverse()
    : upwards;
}

/** Whether a place is the first or last used one of its level, where that matters. */
export function isEdge(trial: TrialView, slot: number): boolean {
  return (
    trial.rounds === 1 &&
    trial.rack.kind !== "sites" &&
    slot <= trial.used_slots &&
    (slot === 1 || slot === trial.used_slots)
  );
}

/** The grow space as it stands, with whatever its places hold. */
export function Space({ trial, small = false, place, look }: SpaceProps) {
  const slots = Array.from({ length: trial.rack.slots }, (_, i) => i + 1);
  const design = trial.rack.design ?? "blocks";
  const levelsAreBlocks = design === "blocks" || design === "latin_square";
  return (
    <div
      className={`rack ${trial.rack.kind ?? "rack"}${small ? " small" : ""}`}
      role="table"
      aria-label={trial.rack.name}
    >
      {levelsSeen(trial).map((level) => (
        <div
          key={level}
          className={`shelf${trial.rounds > 1 && level === trial.round && trial.sealed_at !== null ? " now" : ""}`}
          role="row"
        >
          <div className="shelf-name" role="rowheader">
            {trial.level_names[level - 1]}
            {trial.rack.levels > 1 && levelsAreBlocks && (
              <small>{text.place.block(level)}</small>
            )}
            {design === "split_plot" && <small>{text.place.oneFixture}</small>}
          </div>
          <div
            className="slots"
            style={{
              gridTemplateColumns: `repeat(${trial.rack.slots}, minmax(0, 1fr))`,
            }}
          >
            {slots.map((slot) => {
              const used = slot <= trial.used_slots;
              const pair =
                design === "pairs" && used
                  ? slot % 2
                    ? " first-of-pair"
                    : " second-of-pair"
                  : "";
              return (
                <div
                  key={slot}
                  role="cell"
                  className={`slot${isEdge(trial, slot) ? " edge-slot" : ""}${used ? "" : " unused"}${pair}${look ? ` ${look(level, slot)}` : ""}`}
                >
                  {place(level, slot)}
                </div>
              );
            })}
          </div>
        </div>
      ))}
    </div>
  );
}

export function Tray({
  trial,
  unit,
}: {
  trial: TrialView;
  unit: Schemas["UnitView"];
}) {
  const treatment = unit.treatment ?? null;
  return (
    <div
      className="tray"
      style={
        treatment === null ? undefined : { borderColor: colourOf(treatment) }
      }
    >
      <b>{unit.code}</b>
      {treatment !== null && (
        <span>
          <Badge treatment={treatment} />
          {trial.sheet.treatments[treatment]?.name}
        </span>
      )}
      {unit.lost && <span>{text.weigh.lost}</span>}
    </div>
  );
}

/** The grow space with its units under their letters, and their treatment once the key is open. */
export function RackPicture({
  trial,
  small = false,
}: {
  trial: TrialView;
  small?: boolean;
}) {
  return (
    <Space
      trial={trial}
      small={small}
      place={(level, slot) => {
        const unit = trial.units.find(
          (u) => u.level_now === level && u.slot_now === slot,
        );
        return (
          <>
            {unit && <Tray trial={trial} unit={unit} />}
            {isEdge(trial, slot) && <small>{text.place.edge}</small>}
          </>
        );
      }}
    />
  );
}
