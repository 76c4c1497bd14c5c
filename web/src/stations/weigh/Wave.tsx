import { Input } from "antd";
import type { KeyboardEvent } from "react";
import type { Schemas } from "../../api/client";
import { mass, type MassUnit } from "../../marks/mass";
import { shown } from "../../marks/number";
import { text } from "../../text/en";
import type { Weighing } from "./useWeighing";

interface Props {
  row: Schemas["WeighRow"];
  waves: Schemas["Waves"];
  unit: MassUnit;
  weighing: Weighing;
  onNext: () => void;
}

/** Enter takes the weight also from a grade that was just chosen. */
const takes = (event: KeyboardEvent<HTMLButtonElement>) => {
  if (event.key === "Enter") {
    event.preventDefault();
    event.currentTarget.form?.requestSubmit();
  }
};

/** Pieces and grade of a pick, what was picked of the unit so far, and that nothing was ripe. */
export function Wave({ row, waves, unit, weighing, onNext }: Props) {
  const words = text.waves;
  const { pieces, setPieces, grade, setGrade } = weighing;
  const picked = row.picked;
  const grades = waves.grades ?? [];
  return (
    <div className="wave">
      {grades.length > 0 && (
        <div role="group" aria-label={words.grade} className="grades">
          {grades.map((g) => (
            <button
              key={g.name}
              type="button"
              aria-pressed={grade === g.name}
              onClick={() => setGrade(grade === g.name ? "" : g.name)}
              onKeyDown={takes}
            >
              {g.name}
            </button>
          ))}
        </div>
      )}
      {typeof waves.cut_mm === "number" ? (
        <p className="soft">{words.cutAt(shown(waves.cut_mm, 0))}</p>
      ) : (
        <label>
          <span>{words.pieces}</span>
          <Input
            name="pieces"
            inputMode="numeric"
            value={pieces}
            onChange={(e) => setPieces(e.target.value)}
          />
        </label>
      )}
      <button
        type="button"
        className="plain"
        disabled={weighing.busy}
        onClick={() => void weighing.nothing()}
      >
        {words.nothing}
      </button>
      {picked && picked.picks.length > 0 && (
        <p className="so-far" data-testid="picked">
          {words.soFar(
            mass(picked.g, unit),
            picked.pieces ?? null,
            typeof picked.piece_g === "number"
              ? mass(picked.piece_g, unit)
              : null,
            typeof picked.value === "number" ? shown(picked.value, 2) : null,
          )}
        </p>
      )}
      {picked?.today && (
        <button type="button" className="plain" onClick={onNext}>
          {words.onward}
        </button>
      )}
    </div>
  );
}
