import type { Schemas } from "../api/client";

/** What a taster has said so far; null where nothing was chosen yet. */
export interface Draft {
  picked: number | null;
  liking: (number | null)[];
  attributes: Record<string, (number | null)[]>;
  taster: string;
}

type Seat = Pick<
  Schemas["SeatPage"],
  "asked" | "codes" | "attributes" | "answer" | "taster"
>;

/** Nothing said yet. */
function fresh({ asked, codes, attributes }: Seat): Draft {
  const none = () => codes.map(() => null);
  return {
    picked: null,
    liking: asked === "liking" ? none() : [],
    attributes: Object.fromEntries(attributes.map((a) => [a.key, none()])),
    taster: "",
  };
}

const place = (token: string) => `iron-twin-taste ${token}`;

/** What stays on this phone of a seat, until it was sent. A phone that keeps nothing loses no more than a reload. */
export function keepDraft(token: string, draft: Draft | null) {
  try {
    if (draft) {
      window.localStorage.setItem(place(token), JSON.stringify(draft));
    } else {
      window.localStorage.removeItem(place(token));
    }
  } catch {
    // A private window keeps nothing.
  }
}

/** What was begun on this phone, else what was sent, else nothing. */
export function draftOf(token: string, page: Seat): Draft {
  const none = fresh(page);
  try {
    const kept: unknown = JSON.parse(
      window.localStorage.getItem(place(token)) ?? "null",
    );
    if (isDraft(kept, none)) {
      return kept;
    }
  } catch {
    // Nothing that can be read.
  }
  const { answer } = page;
  if (!answer) {
    return none;
  }
  return {
    picked: answer.picked ?? null,
    liking: answer.liking ?? [],
    attributes: { ...none.attributes, ...answer.attributes },
    taster: page.taster,
  };
}

/** Whether something is a draft of a seat of this shape. */
function isDraft(kept: unknown, like: Draft): kept is Draft {
  if (
    typeof kept !== "object" ||
    kept === null ||
    !("liking" in kept) ||
    !("attributes" in kept) ||
    !("taster" in kept)
  ) {
    return false;
  }
  const { liking, attributes } = kept as Draft;
  const keys = (of: object) => Object.keys(of).sort().join(" ");
  return (
    Array.isArray(liking) &&
    liking.length === like.liking.length &&
    typeof attributes === "object" &&
    keys(attributes) === keys(like.attributes)
  );
}

/** Whether all that is asked was said. */
export function isWhole(draft: Draft, asked: Schemas["Asked"]): boolean {
  const all = (points: (number | null)[]) => points.every((p) => p !== null);
  return (
    (asked === "liking" || draft.picked !== null) &&
    all(draft.liking) &&
    Object.values(draft.attributes).every(all)
  );
}
