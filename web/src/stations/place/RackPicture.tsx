import type { TrialView } from "../../api/client";
import { Badge, colourOf } from "../../marks/Mark";
import { text } from "../../text/en";

/** The rack as it stands, top level first; trays carry their letters, and their treatment once the key is open. */
export function RackPicture({ trial, small = false }: { trial: TrialView; small?: boolean }) {
  const levels = Array.from({ length: trial.rack.levels }, (_, i) => trial.rack.levels - i);
  const slots = Array.from({ length: trial.rack.slots }, (_, i) => i + 1);
  const design = trial.rack.design ?? "blocks";
  const levelsAreBlocks = design === "blocks" || design === "latin_square";
  return (
    <div className={small ? "rack small" : "rack"} role="table" aria-label={trial.rack.name}>
      {levels.map((level) => (
        <div key={level} className="shelf" role="row">
          <div className="shelf-name" role="rowheader">
            {text.place.level(level)}
            {trial.rack.levels > 1 && levelsAreBlocks && <small>{text.place.block(level)}</small>}
          </div>
          <div className="slots" style={{ gridTemplateColumns: `repeat(${trial.rack.slots}, minmax(0, 1fr))` }}>
            {slots.map((slot) => {
              const unit = trial.units.find((u) => u.level_now === level && u.slot_now === slot);
              const used = slot <= trial.used_slots;
              const edge = used && (slot === 1 || slot === trial.used_slots);
              const treatment = unit?.treatment ?? null;
              return (
                <div key={slot} role="cell" className={`slot${edge ? " edge-slot" : ""}${used ? "" : " unused"}${design === "pairs" && used ? (slot % 2 ? " first-of-pair" : " second-of-pair") : ""}`}>
                  {unit && (
                    <div className="tray" style={treatment === null ? undefined : { borderColor: colourOf(treatment) }}>
                      <b>{unit.code}</b>
                      {treatment !== null && (
                        <span>
                          <Badge treatment={treatment} />
                          {trial.sheet.treatments[treatment]?.name}
                        </span>
                      )}
                      {unit.lost && <span>{text.weigh.lost}</span>}
                    </div>
                  )}
                  {edge && <small>{text.place.edge}</small>}
                </div>
              );
            })}
          </div>
        </div>
      ))}
    </div>
  );
}
