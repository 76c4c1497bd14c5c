/**
 * Records on their way to the server, one after the other.
 *
 * Each is written to IndexedDB before it is sent, one row a record, and taken out once the server has it. What gets no
 * answer is sent again with the same key, so that a retry never doubles a record. What the server refuses stays with its
 * value until somebody confirms, corrects or discards it. Rows carry the writer's name: after a sign-out they wait for the
 * one who took them. Two tabs share the rows; sending one twice is answered once.
 */
import { createStore, del, entries, set } from "idb-keyval";
import { client, ProblemError, refusalOf, type Problem } from "./client";
import { renewed } from "./earlier";
import { placeOf as placeOfRecord } from "./kinds";
import { newKey, post as postRecords, versionOf, type Sent } from "./records";

/** A picture, as it came from the camera. */
export interface Picture {
  code: string;
  view: "top" | "side" | "root";
  file: Blob;
  /** When it was entered. */
  at?: string;
}

/** What is one deed: its records are taken in together, or not at all. */
export type Entry =
  { trial: string; records: Sent[] } | { trial: string; picture: Picture };

/** An entry as it is kept. */
export type Row = Entry & {
  key: string;
  /** Who took it; null where it was not known yet. */
  who: string | null;
  /** Place in the line of this device. */
  order: number;
  /** Why the server did not take it. */
  refused?: Problem;
};

export type Outcome =
  | { state: "saved"; version: number }
  | { state: "refused"; problem: Problem; key: string }
  | { state: "kept" };

export interface Kept {
  waiting: readonly Row[];
  refused: readonly Row[];
  /** Whether the device could not keep a record, so that the page must stay open until it is sent. */
  unkept: boolean;
}

const RETRY_MS = 4000;
/** Not the record's fault: it is kept and sent when one has signed in again, or may try again. */
const NOT_NOW = [401, 403, 429];

const shelf = createStore("iron-twin", "records");
const tabs =
  typeof BroadcastChannel === "undefined"
    ? null
    : new BroadcastChannel("iron-twin-records");

let rows: Row[] = [];
let writer: string | null = null;
let unkept = false;
let snapshot: Kept = { waiting: [], refused: [], unkept: false };
let chain: Promise<unknown> = Promise.resolve();
let timer: ReturnType<typeof setTimeout> | undefined;
let arrived: (trial: string) => void = () => undefined;
const listeners = new Set<() => void>();
const promised = new Map<string, (outcome: Outcome) => void>();

/** Who is told when a record has arrived that nobody was waiting for any more. */
export function onArrived(told: (trial: string) => void): void {
  arrived = told;
}

function changed(): void {
  snapshot = {
    waiting: rows.filter((r) => !r.refused),
    refused: rows.filter((r) => r.refused),
    unkept,
  };
  listeners.forEach((listener) => listener());
}

async function keep(row: Row): Promise<void> {
  rows = [...rows.filter((r) => r.key !== row.key), row].sort(
    (a, b) => a.order - b.order,
  );
  try {
    await set(row.key, row, shelf);
    unkept = false;
  } catch {
    unkept = true;
  }
  changed();
  tabs?.postMessage("changed");
}

async function drop(key: string): Promise<void> {
  rows = rows.filter((r) => r.key !== key);
  unkept = unkept && rows.length > 0;
  await del(key, shelf).catch(() => undefined);
  changed();
  tabs?.postMessage("changed");
}

export const outbox = {
  subscribe(listener: () => void): () => void {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  kept: (): Kept => snapshot,
};

/** What an entry stands for: two of one place are corrections of each other. */
export function placeOf(entry: Entry): string {
  return "picture" in entry
    ? `${entry.trial}/photo/${entry.picture.code}/${entry.picture.view}/${entry.picture.file.size}`
    : [entry.trial, ...entry.records.map(placeOfRecord)].join(" ");
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

async function post(row: Row): Promise<Outcome> {
  try {
    const answer = await request(row);
    if (answer.response.ok) {
      return { state: "saved", version: versionOf(answer.data) };
    }
    const { status } = answer.response;
    const refusal = refusalOf(answer.error);
    if (!refusal && (status >= 500 || NOT_NOW.includes(status))) {
      return { state: "kept" };
    }
    return {
      state: "refused",
      problem: refusal ?? (answer.error as Problem),
      key: row.key,
    };
  } catch {
    return { state: "kept" };
  }
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

/** The next row that this writer's device has to send. */
const next = (): Row | undefined =>
  rows.find((r) => !r.refused && (r.who === null || r.who === writer));

async function drain(): Promise<void> {
  clearTimeout(timer);
  for (let row = next(); row; row = next()) {
    const outcome = await post(row);
    if (outcome.state === "kept") {
      timer = setTimeout(again, RETRY_MS);
      break;
    }
    if (outcome.state === "saved") {
      await drop(row.key);
    } else {
      await keep({ ...row, refused: outcome.problem });
    }
    settle(row, outcome);
  }
  // No answer came, or what is left is somebody else's to send.
  for (const waiting of rows.filter((r) => !r.refused)) {
    settle(waiting, { state: "kept" });
  }
}

function again(): void {
  chain = chain.then(drain, drain);
}

/**
 * Keeps an entry and sends it, after all that wait before it. One that was refused in the same place is replaced. It is of
 * whoever writes now, unless it was taken by somebody else.
 */
export async function send(
  entry: Entry,
  who: string | null = writer,
): Promise<Outcome> {
  const place = placeOf(entry);
  const replaced = rows.filter((r) => r.refused && placeOf(r) === place);
  const order = Math.max(Date.now(), ...rows.map((r) => r.order + 1));
  const key = newKey();
  const row = { ...taken(entry, key), key, who, order } as Row;
  await keep(row);
  for (const old of replaced) {
    await drop(old.key);
  }
  return new Promise((resolve) => {
    promised.set(row.key, resolve);
    again();
  });
}

/** An entry with its keys. It is of the moment at which it was taken, however late it arrives. */
function taken(entry: Entry, key: string): Entry {
  const at = new Date().toISOString();
  if ("picture" in entry) {
    return { ...entry, picture: { at, ...entry.picture } };
  }
  const keyed = (own: Sent, n: number) =>
    ({
      ...own,
      head: { at, ...own.head, key: n === 0 ? key : `${key}.${n}` },
    }) as Sent;
  return { ...entry, records: entry.records.map(keyed) };
}

/** Keeps an entry and sends it; where it is refused nothing stays, and the problem is thrown: whoever entered it is still there. */
export async function sendHere(entry: Entry): Promise<"saved" | "kept"> {
  const outcome = await send(entry);
  if (outcome.state === "refused") {
    await drop(outcome.key);
    throw new ProblemError(outcome.problem);
  }
  return outcome.state;
}

/** Takes a refused record out: it was a slip. */
export const discard = (key: string): Promise<void> => drop(key);

/** Sends a record again that was asked about, as one that is right. */
export async function confirm(key: string): Promise<void> {
  const row = rows.find((r) => r.key === key);
  if (!row) {
    return;
  }
  const sure = (own: Sent) =>
    ({ ...own, head: { ...own.head, confirmed: true } }) as Sent;
  const entry =
    "picture" in row
      ? { trial: row.trial, picture: row.picture }
      : { trial: row.trial, records: row.records.map(sure) };
  const outcome = await send(entry, row.who);
  if (outcome.state === "saved") {
    arrived(row.trial);
  }
}

/** Takes up what an earlier visit or another tab has kept. */
export async function resume(): Promise<void> {
  try {
    const stored = (await entries<string, Row>(shelf)).map(([, row]) =>
      renewed(row),
    );
    // What waits for its answer here is ours, whatever the device could keep of it.
    const own = rows.filter(
      (r) => promised.has(r.key) && !stored.some((s) => s.key === r.key),
    );
    rows = [...stored, ...own].sort((a, b) => a.order - b.order);
  } catch {
    return;
  }
  changed();
  if (next()) {
    again();
  }
}

/** Says who writes from here on; what this one has kept is sent now. */
export function setWriter(who: string | null): void {
  writer = who;
  if (next()) {
    again();
  }
}

if (typeof window !== "undefined") {
  window.addEventListener("online", again);
  if (tabs) {
    tabs.onmessage = () => void resume();
  }
}
