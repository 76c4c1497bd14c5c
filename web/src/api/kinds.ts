/** What the page says of records, kind by kind. A kind that is not named here is told by its name and what it holds. */
import { text } from "../text/en";
import type { Kind, Of, Sent } from "./records";

interface Told<K extends Kind> {
  /** In a line: the code, what was measured or given, the value. */
  words: (record: Of<K>) => string;
  /** Where it is corrected; Tend where nothing is said. */
  station?: (record: Of<K>) => string;
  /** What a later one of it corrects, beside its unit; each stands by itself where nothing is said. */
  place?: (record: Of<K>) => string | null;
}

const unit = ({ head }: Sent): string | null => head?.unit ?? null;
const part = ({ head }: Sent): string =>
  [head?.unit, head?.sample].filter(Boolean).join(" ");
/** Readings whose names are more than their keys. */
const SHORT: Record<string, string> = { ph: "pH", ec: "EC" };
const plain = (word: string): string =>
  SHORT[word] ?? word.replaceAll("_", " ");

const KINDS: { [K in Kind]?: Told<K> } = {
  reading: {
    words: (r) =>
      text.kept.reading(
        part(r),
        plain(r.body.reading),
        r.body.value ?? null,
        r.head?.day ?? null,
      ),
    station: (r) => `tend?day=${r.head?.day ?? ""}`,
    // One more of the same day corrects nothing.
    place: (r) =>
      r.body.again ? null : `${r.body.reading}/${r.head?.day ?? ""}`,
  },
  weighing: {
    words: (r) => text.kept.weight(part(r), r.body.gross_g, r.body.tare_g),
    station: () => "weigh",
    place: () => "",
  },
  pick: {
    words: (r) =>
      text.kept.pick(
        part(r),
        r.body.gross_g - r.body.tare_g,
        r.body.grade ?? "",
        r.body.pieces ?? null,
      ),
    station: () => "weigh",
  },
  write_off: {
    words: (r) => text.kept.writeOff(part(r), r.body.reason ?? null),
    station: () => "weigh",
    place: () => "",
  },
  work: {
    words: (r) =>
      text.kept.job(
        plain(r.body.job),
        r.head?.date ?? null,
        r.body.skipped ?? null,
      ),
  },
  giving: {
    words: (r) => text.kept.giving(unit(r), r.body.job, r.head?.date ?? null),
  },
  note: { words: (r) => text.kept.note(unit(r), r.body.text) },
  line_up: {
    words: (r) => text.kept.lineUp(r.body.judge || null, r.body.places),
  },
  gone: { words: (r) => text.kept.gone(part(r), r.body.why) },
  guess: {
    words: (r) => text.kept.guess(r.body.name || null),
    station: () => "judge",
  },
};

const told = (record: Sent): Told<Kind> | undefined =>
  KINDS[record.kind] as Told<Kind> | undefined;

/** What a record says, in a line. */
export function said(record: Sent): string {
  const words = told(record)?.words(record);
  const held = Object.values(record.body).filter(
    (value) => typeof value === "string" || typeof value === "number",
  );
  return (
    words ??
    [part(record), plain(record.kind), ...held].filter(Boolean).join(" ")
  );
}

/** Where it is corrected. */
export const stationOf = (record: Sent): string =>
  told(record)?.station?.(record) ?? "tend";

/** What it stands for: two of one place are corrections of each other. Null where it stands by itself. */
export function placeOf(record: Sent): string | null {
  const own = told(record)?.place?.(record) ?? null;
  if (own === null) {
    return null;
  }
  const { unit: of, crop, sample } = record.head ?? {};
  return [record.kind, of, crop ?? 0, sample ?? 0, own].join("/");
}
