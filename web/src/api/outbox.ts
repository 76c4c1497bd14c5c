/**
 * Records on their way to the server, one after the other.
 *
 * Each is written to IndexedDB before it is sent, and taken out once the server has it. What gets no answer is sent again
 * with the same key, so that a retry never doubles a record. One that is answered, but not now (nobody is signed in, too
 * many requests, a fault of the server, a trial that this data file does not hold), steps aside with its cause and is tried
 * again later; the others go on. What the server refuses stays with its value until somebody confirms, corrects or
 * discards it. Rows carry the writer's name: after a sign-out they wait for the one who took them, or for somebody who
 * hands them in. Two tabs share the rows; sending one twice is answered once.
 */
import { client, ProblemError, refusalOf, type Problem } from "./client";
import * as shelf from "./keptRows";
import type { Aside, Entry, Picture, Row } from "./keptRows";
import { text } from "../text/en";
import { placeOf as placeOfRecord } from "./kinds";
import {
  newKey,
  post as postRecords,
  versionOf,
  type Head,
  type Sent,
} from "./records";

export type { Entry, Kept, Picture, Row } from "./keptRows";

export type Outcome =
  | { state: "saved"; version: number }
  | { state: "refused"; problem: Problem; key: string }
  | { state: "kept" };

/** What came of sending a row: `aside` is an answer that is not of the record, `away` none at all. */
type Answer =
  | Exclude<Outcome, { state: "kept" }>
  | { state: "aside"; problem: Problem }
  | { state: "away" };

const RETRY_MS = 4000;
const LONGEST_MS = 300_000;
/** So many answers of that kind in a row are the server's trouble, and no record's. */
const MOST_ASIDE = 3;
/** Not the record's fault: it is sent when one has signed in again, or may try again. */
const NOT_NOW = [401, 403, 429];

let chain: Promise<unknown> = Promise.resolve();
let timer: ReturnType<typeof setTimeout> | undefined;
let arrived: (trial: string) => void = () => undefined;
let dealOf: (trial: string) => string | undefined = () => undefined;
const promised = new Map<string, (outcome: Outcome) => void>();

/** Who is told when a record has arrived that nobody was waiting for any more. */
export function onArrived(told: (trial: string) => void): void {
  arrived = told;
}

/** Who knows the commitment of a trial's deal: its codes mean nothing under another. */
export function onTaken(deal: (trial: string) => string | undefined): void {
  dealOf = deal;
}

export const outbox = { subscribe: shelf.subscribe, kept: shelf.kept };

/** What an entry corrects: two of one place are corrections of each other. Null where it stands by itself. */
function placeOf(entry: Entry): string | null {
  if ("picture" in entry) {
    return null;
  }
  const places = entry.records.map(placeOfRecord);
  return places.includes(null) ? null : [entry.trial, ...places].join(" ");
}

/** Whether both say the same, whenever they were entered. */
function isEqual(a: Entry, b: Entry): boolean {
  const said = (entry: Entry) =>
    "picture" in entry
      ? null
      : entry.records.map(({ kind, head, body }) => [
          kind,
          head?.unit,
          head?.crop,
          head?.sample,
          head?.day,
          head?.date,
          head?.confirmed,
          body,
        ]);
  return "records" in a && JSON.stringify(said(a)) === JSON.stringify(said(b));
}

interface Posted {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** A picture goes as it is, and not as JSON. */
function postPicture(
  trial: string,
  key: string,
  { code, view, at, file }: Picture,
): Promise<Posted> {
  return client.POST("/api/v1/trials/{id}/photos", {
    params: {
      path: { id: trial },
      query: { code, view, ...(at ? { at } : {}) },
    },
    headers: {
      "Idempotency-Key": key,
      "Content-Type": file.type || "image/jpeg",
    },
    body: file as unknown as number[],
    bodySerializer: (body) => body as unknown as Blob,
  });
}

const request = (row: Row): Promise<Posted> =>
  "picture" in row
    ? postPicture(row.trial, row.key, row.picture)
    : postRecords(row.trial, row.records);

/** What an answer says against it; one that is not of this program comes from something in between. */
function problemOf({ error, response: { status } }: Posted): Problem {
  const own = error as Partial<Problem> | null | undefined;
  return typeof own === "object" && own?.code
    ? (own as Problem)
    : {
        type: "about:blank",
        status,
        code: "foreign",
        title: text.kept.foreign,
        detail: text.kept.foreignAnswer(status),
      };
}

async function post(row: Row): Promise<Answer> {
  let answer: Posted;
  try {
    answer = await request(row);
  } catch {
    return { state: "away" };
  }
  const { status, ok } = answer.response;
  if (ok) {
    return { state: "saved", version: versionOf(answer.data) };
  }
  const refusal = refusalOf(answer.error);
  const problem = refusal ?? problemOf(answer);
  const notNow = !refusal && (status >= 500 || NOT_NOW.includes(status));
  // Another data file may stand there for a while.
  return notNow || problem.code === "not_found"
    ? { state: "aside", problem }
    : { state: "refused", problem, key: row.key };
}

function settle(row: Row, outcome: Outcome): void {
  const waiter = promised.get(row.key);
  promised.delete(row.key);
  if (waiter) {
    waiter(outcome);
  } else if (outcome.state !== "kept") {
    arrived(row.trial);
  }
}

/** What this writer's device has to send now: first what was not tried yet, then what stepped aside. */
function next(): Row | undefined {
  const own = shelf.all().filter((r) => !r.refused && shelf.isOwn(r));
  const due = (r: Row) => r.aside && r.aside.due <= Date.now();
  return own.find((r) => !r.aside) ?? own.find(due);
}

/** A row without what became of it. */
function bare(row: Row): Row {
  const own = { ...row };
  delete own.aside;
  delete own.refused;
  return own;
}

const setAside = (row: Row, problem: Problem): Aside => {
  const tries = (row.aside?.tries ?? 0) + 1;
  const wait = Math.min(LONGEST_MS, RETRY_MS * 2 ** (tries - 1));
  return { problem, tries, due: Date.now() + wait };
};

/** Sends one row, and keeps of it what came of that. */
async function sendOne(row: Row): Promise<Answer["state"]> {
  const answer = await post(row);
  // One that was corrected while it was on its way is kept no more.
  const stands = shelf.find(row.key) !== undefined;
  switch (answer.state) {
    case "away":
      break;
    case "aside":
      if (stands) {
        const aside = setAside(row, answer.problem);
        await shelf.keep({ ...row, aside });
      }
      settle(row, { state: "kept" });
      break;
    case "saved":
      await shelf.drop(row.key);
      settle(row, answer);
      break;
    case "refused":
      if (stands) {
        await shelf.keep({ ...bare(row), refused: answer.problem });
        settle(row, answer);
      }
  }
  return answer.state;
}

async function drain(): Promise<void> {
  clearTimeout(timer);
  let asides = 0;
  for (let row = next(); row && asides < MOST_ASIDE; row = next()) {
    const state = await sendOne(row);
    asides = state === "aside" ? asides + 1 : 0;
    if (state === "away") {
      break;
    }
  }
  // No answer came, or what is left is somebody else's to send, or tried again later.
  const left = shelf.all().filter((r) => !r.refused);
  for (const waiting of left) {
    settle(waiting, { state: "kept" });
  }
  const own = left.filter(shelf.isOwn);
  if (own.length > 0) {
    const soonest = Math.min(...own.map((r) => r.aside?.due ?? 0));
    timer = setTimeout(again, Math.max(RETRY_MS, soonest - Date.now()));
  }
}

function again(): void {
  chain = chain.then(drain, drain);
}

/** Tries again what stepped aside, whenever it is due. */
async function anew(which: (row: Row) => boolean): Promise<void> {
  for (const row of shelf.all().filter((r) => r.aside && which(r))) {
    await shelf.keep(bare(row));
  }
  again();
}

/** Gives the head of each record what only the device knows: its key, and the keys of what it takes the place of. */
function headed(
  entry: Entry,
  replaced: readonly Row[],
  head: (own: Sent, n: number, before: Head[]) => Head,
): Entry {
  if ("picture" in entry) {
    return entry;
  }
  const before = (n: number) =>
    replaced.flatMap((row) =>
      "records" in row ? (row.records[n]?.head ?? []) : [],
    );
  return {
    ...entry,
    records: entry.records.map(
      (own, n) => ({ ...own, head: head(own, n, before(n)) }) as Sent,
    ),
  };
}

/** An entry with its keys. It is of the moment at which it was taken, however late it arrives. */
function taken(entry: Entry, key: string, replaced: readonly Row[]): Entry {
  const at = new Date().toISOString();
  if ("picture" in entry) {
    return { ...entry, picture: { at, ...entry.picture } };
  }
  const deal = dealOf(entry.trial);
  return headed(entry, replaced, (own, n, before) => {
    // Any of them may have arrived without an answer.
    const instead = before.flatMap((h) => [
      ...(h.instead_of ?? []),
      ...(h.key ? [h.key] : []),
    ]);
    return {
      at,
      ...(deal === undefined ? {} : { deal }),
      ...own.head,
      ...(instead.length > 0 ? { instead_of: instead } : {}),
      key: n === 0 ? key : `${key}.${n}`,
    };
  });
}

/** Keeps a row in the place of others and sends it, after all that wait before it. */
async function put(row: Row, replaced: readonly Row[]): Promise<Outcome> {
  const outcome = new Promise<Outcome>((resolve) =>
    promised.set(row.key, resolve),
  );
  await shelf.keep(row);
  for (const old of replaced) {
    await shelf.drop(old.key);
    settle(old, { state: "kept" });
  }
  again();
  return outcome;
}

const lastOrder = (): number =>
  Math.max(Date.now(), ...shelf.all().map((r) => r.order + 1));

/**
 * Keeps an entry and sends it, after all that wait before it. One of the same place that was refused, or still waits, is
 * replaced; one that says the same is not sent twice.
 */
export async function send(entry: Entry): Promise<Outcome> {
  const place = placeOf(entry);
  const replaced =
    place === null ? [] : shelf.all().filter((r) => placeOf(r) === place);
  if (replaced.some((r) => !r.refused && isEqual(r, entry))) {
    again();
    return { state: "kept" };
  }
  const key = newKey();
  const row = {
    ...taken(entry, key, replaced),
    key,
    who: shelf.whoWrites(),
    order: lastOrder(),
  };
  return put(row, replaced);
}

/** Keeps an entry and sends it; where it is refused nothing stays, and the problem is thrown: whoever entered it is still there. */
export async function sendHere(entry: Entry): Promise<"saved" | "kept"> {
  const outcome = await send(entry);
  if (outcome.state === "refused") {
    await shelf.drop(outcome.key);
    throw new ProblemError(outcome.problem);
  }
  return outcome.state;
}

/** Takes a record out: it was a slip. */
export const discard = (key: string): Promise<void> => shelf.drop(key);

/** Sends a record in the place of itself, with something else in its head. */
async function resend(
  row: Row,
  who: string | null,
  more: Partial<Head>,
): Promise<void> {
  const key = newKey();
  const entry = taken(
    headed(bare(row), [], (own) => ({ ...own.head, ...more })),
    key,
    [row],
  );
  const outcome = await put({ ...bare(row), ...entry, key, who }, [row]);
  if (outcome.state === "saved") {
    arrived(row.trial);
  }
}

/** Sends a record again that was asked about, as one that is right. */
export async function confirm(key: string): Promise<void> {
  const row = shelf.find(key);
  if (row) {
    await resend(row, row.who, { confirmed: true });
  }
}

/** Sends what somebody else took, in the name of whoever is signed in. */
export async function handIn(key: string): Promise<void> {
  const row = shelf.find(key);
  if (row) {
    const taken_by = row.who ?? undefined;
    await resend(row, shelf.whoWrites(), taken_by ? { taken_by } : {});
  }
}

/** Tries a record again that stepped aside. */
export const tryAgain = (key: string): Promise<void> =>
  anew((r) => r.key === key);

/** Takes up what an earlier visit or another tab has kept. */
export async function resume(): Promise<void> {
  if ((await shelf.read((key) => promised.has(key))) && next()) {
    again();
  }
}

/** Says who writes from here on; what this one has kept is sent now, that which stepped aside as well. */
export function setWriter(who: string | null): void {
  shelf.setWho(who);
  void anew(shelf.isOwn);
}

if (typeof window !== "undefined") {
  window.addEventListener("online", () => void anew(shelf.isOwn));
  shelf.onOtherTab(() => void resume());
}
