import { useState, type KeyboardEvent } from "react";
import type { TrialView } from "../../api/client";
import { shown, typed } from "../../marks/number";
import { levelsSeen, Space } from "./RackPicture";

/** Places in the order of a walk: along the first level seen, back along the next. */
function walk(trial: TrialView): [number, number][] {
  return levelsSeen(trial).flatMap((level, i) => {
    const along = Array.from(
      { length: trial.rack.slots },
      (_, s): [number, number] => [level, s + 1],
    );
    return i % 2 === 1 ? along.reverse() : along;
  });
}

/** From paper to a warm yellow, by share of the brightest place. */
const warmth = (share: number) =>
  `hsl(46 ${Math.round(20 + 70 * share)}% ${Math.round(93 - 33 * share)}%)`;

interface SlotFiguresProps {
  trial: TrialView;
  /** Stem of the fields' names. */
  name: string;
  locked: boolean;
  /** The figure of a place as it stands, and whether the field itself shows it. */
  figure: (level: number, slot: number) => number | undefined;
  inField: boolean;
  onFigure: (level: number, slot: number, value: number | null) => void;
}

/** A figure for each place, typed in walking order and drawn as heat; Enter and the arrow keys walk on. */
export function SlotFigures({
  trial,
  name,
  locked,
  figure,
  inField,
  onFigure,
}: SlotFiguresProps) {
  const order = walk(trial);
  const most = Math.max(
    ...order.map(([level, slot]) => figure(level, slot) ?? 0),
  );
  const go = (
    e: KeyboardEvent<HTMLInputElement>,
    level: number,
    slot: number,
  ) => {
    const step =
      e.key === "Enter" || e.key === "ArrowDown"
        ? 1
        : e.key === "ArrowUp"
          ? -1
          : 0;
    const next =
      step &&
      order[order.findIndex(([l, s]) => l === level && s === slot) + step];
    if (step) {
      e.preventDefault();
      e.currentTarget.blur();
    }
    if (next) {
      document
        .querySelector<HTMLInputElement>(
          `input[name="${name}-${next[0]}-${next[1]}"]`,
        )
        ?.focus();
    }
  };
  return (
    <Space
      trial={trial}
      place={(level, slot) => {
        const own = figure(level, slot);
        return (
          <label
            className="heat"
            style={
              own === undefined
                ? undefined
                : { background: warmth(most > 0 ? own / most : 0) }
            }
          >
            <FigureField
              key={`${own ?? ""}-${inField}`}
              name={`${name}-${level}-${slot}`}
              label={`${trial.level_names[level - 1] ?? ""}, ${slot}`}
              locked={locked}
              first={
                inField && own !== undefined
                  ? String(Math.round(own * 10) / 10)
                  : ""
              }
              onValue={(value) => onFigure(level, slot, value)}
              onKey={(e) => go(e, level, slot)}
            />
            {own !== undefined && !inField && <small>{shown(own, 0)}</small>}
          </label>
        );
      }}
    />
  );
}

interface FigureFieldProps {
  name: string;
  label: string;
  first: string;
  locked: boolean;
  onValue: (value: number | null) => void;
  onKey: (e: KeyboardEvent<HTMLInputElement>) => void;
}

function FigureField({
  name,
  label,
  first,
  locked,
  onValue,
  onKey,
}: FigureFieldProps) {
  const [draft, setDraft] = useState(first);
  const commit = () => {
    const value = typed(draft);
    if (draft !== first && !Number.isNaN(value)) {
      onValue(value);
    }
  };
  return (
    <input
      name={name}
      aria-label={label}
      aria-invalid={Number.isNaN(typed(draft)) || undefined}
      value={draft}
      inputMode="decimal"
      disabled={locked}
      onFocus={(e) => e.currentTarget.select()}
      onChange={(e) => setDraft(e.target.value)}
      onBlur={commit}
      onKeyDown={onKey}
    />
  );
}
