import { useId } from "react";
import "./points.css";

interface Props {
  label: string;
  value: number | null;
  onChange: (value: number) => void;
  /** What 1 and 9 stand for. */
  least: string;
  most: string;
  /** What each point stands for, where it has a word of its own. */
  words?: readonly string[];
}

const POINTS = [1, 2, 3, 4, 5, 6, 7, 8, 9] as const;

/** One of nine points. */
export function Points({ label, value, onChange, least, most, words }: Props) {
  const name = useId();
  const chosen = value === null ? undefined : words?.[value - 1];
  return (
    <fieldset className="points">
      <legend>{label}</legend>
      <div className="row">
        {POINTS.map((point) => (
          <label key={point} title={words?.[point - 1]}>
            <input
              type="radio"
              name={name}
              value={point}
              checked={value === point}
              onChange={() => onChange(point)}
            />
            <span>{point}</span>
          </label>
        ))}
      </div>
      <p className="ends">
        <span>{least}</span>
        <b>{chosen ?? ""}</b>
        <span>{most}</span>
      </p>
    </fieldset>
  );
}
