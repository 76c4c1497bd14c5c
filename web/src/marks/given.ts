import type { Schemas } from "../api/client";
import { typed } from "./number";

export type Application = Schemas["Application"];
type Amount = Schemas["Amount"];
type When = Schemas["When"];
type Treatment = Schemas["SheetTreatment"];

export const bases = [
  "of_label",
  "per_litre",
  "per_unit",
  "per_site",
  "undiluted",
] as const;
/** What the figure of an amount counts. */
export type Basis = (typeof bases)[number];

/** How much where nobody said otherwise. */
const usual: Amount = { of_label: 1 };

export function basisOf(amount: Amount | undefined): Basis {
  const own = amount ?? usual;
  return own === "undiluted" ? own : (Object.keys(own)[0] as Basis);
}

export function figureOf(amount: Amount | undefined): number | null {
  const own = amount ?? usual;
  return own === "undiluted" ? null : (Object.values(own)[0] as number);
}

export function amountOf(basis: Basis, figure: number): Amount {
  return basis === "undiluted" ? basis : ({ [basis]: figure } as Amount);
}

export type Rhythm = "each_feeding" | "days" | "every" | "planting";

export function rhythmOf(when: When | undefined): Rhythm {
  return when === undefined
    ? "each_feeding"
    : typeof when === "string"
      ? when
      : "days" in when
        ? "days"
        : "every";
}

/** The days of a when as they are typed: `4, 8`, or `3 from 2` for every third day from day 2. */
export function daysOf(when: When | undefined): string {
  if (when === undefined || typeof when === "string") {
    return "";
  }
  return "days" in when
    ? when.days.join(", ")
    : `${when.every.days} from ${when.every.from}`;
}

/** Reads what was typed for a rhythm; null where it says no days. */
export function whenOf(rhythm: Rhythm, days: string): When | null {
  if (rhythm === "each_feeding" || rhythm === "planting") {
    return rhythm;
  }
  const numbers = (days.match(/\d+/g) ?? []).map(Number);
  if (numbers.length === 0) {
    return null;
  }
  return rhythm === "days"
    ? { days: numbers }
    : { every: { days: numbers[0] ?? 1, from: numbers[1] ?? 0 } };
}

/** Whether a name says that nothing is given. */
export const isNothing = (name: string) =>
  ["", "none", "-", "no", "nothing", "plain water"].includes(
    name.trim().toLowerCase(),
  );

/** A treatment with another application in one place of its list; null takes it away, and a place beyond the end adds one. */
export function withApplication(
  treatment: Treatment,
  at: number | null,
  next: Application | null,
): Treatment {
  const list = treatment.applications;
  const place = at ?? list.length;
  const kept =
    next === null
      ? list.filter((_, i) => i !== place)
      : place < list.length
        ? list.map((a, i) => (i === place ? next : a))
        : [...list, next];
  return { ...treatment, applications: kept };
}

/**
 * The lines, with what was only just given laid into them: the server has not said yet in which line it stands, and until
 * then the cell it was typed into holds it. Else it would be empty still, and what is in it given a second time.
 */
export function laid(
  lines: Schemas["Line"][],
  treatments: Treatment[],
): Schemas["Line"][] {
  const found = lines.map((line) => ({ ...line, of: [...line.of] }));
  treatments.forEach((treatment, i) => {
    const known = Math.max(-1, ...lines.map((line) => line.of[i] ?? -1)) + 1;
    treatment.applications.slice(known).forEach((given, k) => {
      const free = found.find(
        (line) => line.role === given.role && line.of[i] == null,
      );
      if (free) {
        free.of[i] = known + k;
      }
    });
  });
  return found;
}

/** What a treatment is fed with: the names of its feeds. */
export const feedsOf = (treatment: Treatment) =>
  treatment.applications.filter((a) => a.role === "feed").map((a) => a.what);

/** The same treatment fed with something else by name, at the doses it has. */
export const fedWith = (treatment: Treatment, what: string): Treatment => ({
  ...treatment,
  applications: treatment.applications.map((a) =>
    a.role === "feed" ? { ...a, what } : a,
  ),
});

/** The same treatment with its feed at another share of the label dose. */
export const atStrength = (treatment: Treatment, share: number): Treatment => ({
  ...treatment,
  applications: treatment.applications.map((a) =>
    a.role === "feed" ? { ...a, amount: { of_label: share } } : a,
  ),
});

/** A figure as it was typed; null where it is none. */
export function figure(text: string): number | null {
  const value = typed(text);
  return value === null || Number.isNaN(value) ? null : value;
}
