/** Words of guesses, a part of the catalogue in `en.ts`. */
import type { Schemas } from "../api/client";

const outcomes: Record<NonNullable<Schemas["GuessOutcome"]>, string> = {
  right: "right",
  wrong: "wrong",
  open: "cannot be told",
};

export const guesses = {
  title: "Guesses",
  why: "Anybody may say beforehand what they expect. When the key is open, the report says who was right.",
  count: (n: number) =>
    n === 0
      ? "Nobody has guessed yet."
      : n === 1
        ? "One guess is logged."
        : `${n} guesses are logged.`,
  name: "Whose guess",
  me: "you",
  expects: "Which comes out best?",
  none: "no difference that matters",
  unit: (code: string) => `tray ${code}, by its looks`,
  by: "by how much more than the control, %",
  log: "Log it",
  own: "Yours",
  kept: "Your guess is logged.",
  best: (name: string) => `${name} best`,
  by_percent: (by: number) => `, by ${by} %`,
  on: (day: number) => (day === 0 ? "before the sowing" : `on day ${day}`),
  outcomes,
  off: (points: string) => `off by ${points} points`,
  place: (place: number, of: number) => `came out ${place} of ${of}`,
  over: "Guesses over all trials",
  overColumns: [
    "Who",
    "right",
    "wrong",
    "cannot be told",
    "how much they thought",
  ],
  columns: ["Who", "When", "Guess", "Came out"],
};
