import { Button, Checkbox, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { typed } from "../../marks/number";
import { text } from "../../text/en";

interface WavesProps {
  ask: Schemas["Ask"];
  disabled: boolean;
  set: (change: Partial<Schemas["Ask"]>) => void;
}

type Plan = Schemas["Waves"];

/** Most grades, as the plan takes them. */
const MOST = 8;

/** Whether it is cut or picked several times, into which grades, at what prices. */
export function Waves({ ask, disabled, set }: WavesProps) {
  const words = text.waves;
  const waves = ask.waves ?? null;
  const change = (part: Partial<Plan>) =>
    waves && set({ waves: { ...waves, ...part } });
  const grades = waves?.grades ?? [];
  const put = (n: number, part: Partial<Schemas["SizeGrade"]>) =>
    change({ grades: grades.map((g, i) => (i === n ? { ...g, ...part } : g)) });
  return (
    <div className="wide waves">
      <Checkbox
        id="waves"
        checked={waves !== null}
        disabled={disabled}
        onChange={(e) =>
          set({ waves: e.target.checked ? { grades: [], cut_mm: null } : null })
        }
      >
        {words.inWaves}
      </Checkbox>
      {waves && (
        <>
          <p className="soft">{words.why}</p>
          <NumberField
            name="cut-mm"
            label={words.cut}
            value={waves.cut_mm ?? null}
            disabled={disabled}
            onChange={(cut_mm) => change({ cut_mm })}
          />
          {grades.map((grade, n) => (
            // A grade is its place in the list: its name changes while it is typed.
            <div className="row" key={n}>
              <label className="field">
                <span>{words.grade}</span>
                <Input
                  name={`grade-${n}`}
                  value={grade.name}
                  disabled={disabled}
                  onChange={(e) => put(n, { name: e.target.value })}
                />
              </label>
              <NumberField
                name={`grade-price-${n}`}
                label={words.price}
                value={grade.price_per_kg ?? null}
                disabled={disabled}
                onChange={(price_per_kg) => put(n, { price_per_kg })}
              />
              {!disabled && (
                <button
                  type="button"
                  className="plain"
                  onClick={() =>
                    change({ grades: grades.filter((_, i) => i !== n) })
                  }
                >
                  {words.drop(grade.name)}
                </button>
              )}
            </div>
          ))}
          {!disabled && grades.length < MOST && (
            <Button
              onClick={() =>
                change({
                  grades: [...grades, { name: "", price_per_kg: null }],
                })
              }
            >
              {words.add}
            </Button>
          )}
        </>
      )}
    </div>
  );
}

interface FieldProps {
  name: string;
  label: string;
  value: number | null;
  disabled: boolean;
  onChange: (value: number | null) => void;
}

/** A number as growers type it; what is none yet stays in the field. */
function NumberField({ name, label, value, disabled, onChange }: FieldProps) {
  const [draft, setDraft] = useState(value === null ? "" : String(value));
  const wrong = Number.isNaN(typed(draft));
  return (
    <label className="field short">
      <span>{label}</span>
      <Input
        name={name}
        inputMode="decimal"
        value={draft}
        disabled={disabled}
        aria-invalid={wrong || undefined}
        onChange={(e) => {
          setDraft(e.target.value);
          const next = typed(e.target.value);
          if (!Number.isNaN(next)) {
            onChange(next);
          }
        }}
      />
    </label>
  );
}
