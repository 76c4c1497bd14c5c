/**
 * Records that an earlier version of the page kept on this device: each kind had a shape of its own then. They become what
 * this version sends, and nothing of them is lost.
 */
import type { Entry, Row } from "./keptRows";
import type { Head, Sent } from "./records";

type Fields = Record<string, unknown>;

interface Earlier {
  kind: string;
  trial: string;
  body: Fields;
  key: string;
  who: string | null;
  order: number;
}

const HEAD = [
  "crop",
  "sample",
  "day",
  "date",
  "time",
  "at",
  "instrument",
  "version",
  "confirmed",
];
const NAMELESS = ["name", "judge"];
const NAMES: Record<string, string> = { job: "work" };

/** Of what a field speaks: of the record as a whole, or of what it holds. */
function parted(kind: string, { code, ...all }: Fields): Sent {
  const head: Fields = typeof code === "string" ? { unit: code } : {};
  const body: Fields = {};
  for (const [key, value] of Object.entries(all)) {
    const of =
      typeof value === "object" &&
      value !== null &&
      "unit" in value &&
      (key === "to" || key === "expects")
        ? value.unit
        : null;
    if (typeof of === "string") {
      head["unit"] = of;
      body[key] = "unit";
    } else if (NAMELESS.includes(key) && value === null) {
      // Of whoever sends it: it is left out now.
    } else if (!HEAD.includes(key)) {
      body[key] = value;
    } else if (value !== null && value !== undefined) {
      head[key] = value;
    }
  }
  return {
    kind: NAMES[kind] ?? kind,
    head: head as Head,
    body,
  } as unknown as Sent;
}

/** Samples that are gone were told unit by unit; each is a record now. */
function gone({ samples, ...rest }: Fields): Sent[] {
  const of = Array.isArray(samples)
    ? (samples as { code: string; numbers: number[] }[])
    : [];
  return of.flatMap(({ code, numbers }) =>
    numbers.map((sample) => parted("gone", { ...rest, code, sample })),
  );
}

/** A row as it is kept now. */
export function renewed(row: Row | Earlier): Row {
  if (!("kind" in row)) {
    return row;
  }
  const { kind, body, ...rest } = row;
  if (kind === "photo") {
    return { ...rest, picture: body } as unknown as Row;
  }
  const records = kind === "gone" ? gone(body) : [parted(kind, body)];
  // The key is that of the request, as it was: what had arrived is not done again.
  const keyed = records.map((own, n) => ({
    ...own,
    head: { ...own.head, key: n === 0 ? row.key : `${row.key}.${n}` },
  }));
  return { ...rest, records: keyed } as Row & Entry;
}
