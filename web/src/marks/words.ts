import type { TrialView } from "../api/client";

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** At Place it also speaks of levels; a bench has rows. */
export function inPlace(
  trial: Pick<TrialView, "unit_word" | "units_word" | "rack">,
  sentence: string,
): string {
  const level = {
    rack: "level",
    buckets: "row",
    bench: "row",
    sill: "sill",
    sites: "site",
  }[trial.rack.kind ?? "rack"];
  return inWords(trial, sentence)
    .replace(/\blevel(s?)\b/g, `${level}$1`)
    .replace(/\bLevel(s?)\b/g, `${capital(level)}$1`);
}

/** Where whole levels were dealt, what counts is a lamp, a pump or a level, and not the trays on it. */
export function inDealt(
  trial: Pick<TrialView, "dealt_word" | "dealt_words">,
  sentence: string,
): string {
  return inWords(
    { unit_word: trial.dealt_word, units_word: trial.dealt_words },
    sentence,
  );
}

/** The catalogue speaks of trays; a trial of buckets says bucket. */
export function inWords(
  trial: Pick<TrialView, "unit_word" | "units_word">,
  sentence: string,
): string {
  return sentence
    .replace(/\btrays\b/g, trial.units_word)
    .replace(/\btray\b/g, trial.unit_word)
    .replace(/\bTrays\b/g, capital(trial.units_word))
    .replace(/\bTray\b/g, capital(trial.unit_word));
}

/** Hexadecimal figures in groups of eight, as on paper. */
export const grouped = (hex: string) => (hex.match(/.{1,8}/g) ?? []).join(" ");
