/**
 * Records on their way to the server, one after the other.
 *
 * Each is written to IndexedDB before it is sent, one row a record, and taken out once the server has it. What gets no
 * answer is sent again with the same key, so that a retry never doubles a record. What the server refuses stays with its
 * value until somebody confirms, corrects or discards it. Rows carry the writer's name: after a sign-out they wait for the
 * one who took them. Two tabs share the rows; sending one twice is answered once.
 */
import { createStore, del, entries, set } from "idb-keyval";
import { client, ProblemError, type Problem, type Schemas } from "./client";

export type Entry =
  | { kind: "reading"; trial: string; body: Schemas["ReadingSent"] }
  | { kind: "weighing"; trial: string; body: Schemas["WeighingSent"] }
  | { kind: "pick"; trial: string; body: Schemas["PickSent"] }
  | { kind: "job"; trial: string; body: Schemas["JobSent"] }
  | { kind: "giving"; trial: string; body: Schemas["GivingSent"] }
  | { kind: "note"; trial: string; body: Schemas["NoteSent"] }
  | { kind: "line_up"; trial: string; body: Schemas["LineUpSent"] }
  | { kind: "gone"; trial: string; body: Schemas["SamplesGoneSent"] }
  | { kind: "guess"; trial: string; body: Schemas["GuessSent"] }
  | { kind: "photo"; trial: string; body: PhotoBody };

/** A picture, as it came from the camera. */
export interface PhotoBody {
  code: string;
  view: string;
  file: Blob;
  /** When it was entered. */
  at?: string;
}

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
const tabs = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("iron-twin-records");

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
  snapshot = { waiting: rows.filter((r) => !r.refused), refused: rows.filter((r) => r.refused), unkept };
  listeners.forEach((listener) => listener());
}

async function keep(row: Row): Promise<void> {
  rows = [...rows.filter((r) => r.key !== row.key), row].sort((a, b) => a.order - b.order);
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

/** A random key that also works where the page is not a secure context. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}

/** What a record stands for: two of one place are corrections of each other. Work, gifts and notes stand by themselves. */
export function placeOf(entry: Entry): string {
  switch (entry.kind) {
    case "reading":
      return `${entry.trial}/${entry.body.code}/${entry.body.crop ?? 0}/${entry.body.reading}/${entry.body.sample ?? 0}/${entry.body.day}`;
    case "weighing":
      return `${entry.trial}/${entry.body.code}/${entry.body.crop ?? 0}/weight/${entry.body.sample ?? 0}`;
    case "pick":
    case "job":
    case "giving":
    case "note":
    case "line_up":
    case "gone":
    case "guess":
      return `${entry.trial}/${entry.kind}/${JSON.stringify({ ...entry.body, at: null, confirmed: null })}`;
    case "photo":
      return `${entry.trial}/photo/${entry.body.code}/${entry.body.view}/${entry.body.file.size}`;
  }
}

/** The unit that a record is of; null for one of the whole trial. */
export function codeOf(entry: Entry): string | null {
  switch (entry.kind) {
    case "reading":
    case "weighing":
    case "pick":
    case "photo":
      return entry.body.code;
    case "giving":
      return typeof entry.body.to === "object" && "unit" in entry.body.to ? entry.body.to.unit : null;
    case "note":
      return entry.body.code ?? null;
    case "gone":
      return entry.body.samples.length === 1 ? (entry.body.samples[0]?.code ?? null) : null;
    case "job":
    case "line_up":
    case "guess":
      return null;
  }
}

interface Posted {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** A picture goes as it is, and not as JSON. */
function picture(trial: string, key: string, { code, view, at, file }: PhotoBody): Promise<Posted> {
  return client.POST("/api/v1/trials/{id}/photos", {
    params: { path: { id: trial }, query: { code, view, ...(at ? { at } : {}) } },
    headers: { "Idempotency-Key": key, "Content-Type": file.type || "image/jpeg" },
    body: file as unknown as number[],
    bodySerializer: (body) => body as unknown as Blob,
  });
}

function request(row: Row): Promise<Posted> {
  const sent = { params: { path: { id: row.trial } }, headers: { "Idempotency-Key": row.key } };
  switch (row.kind) {
    case "reading":
      return client.POST("/api/v1/trials/{id}/readings", { ...sent, body: row.body });
    case "weighing":
      return client.POST("/api/v1/trials/{id}/weighings", { ...sent, body: row.body });
    case "pick":
      return client.POST("/api/v1/trials/{id}/picks", { ...sent, body: row.body });
    case "job":
      return client.POST("/api/v1/trials/{id}/jobs", { ...sent, body: row.body });
    case "giving":
      return client.POST("/api/v1/trials/{id}/given", { ...sent, body: row.body });
    case "note":
      return client.POST("/api/v1/trials/{id}/notes", { ...sent, body: row.body });
    case "line_up":
      return client.POST("/api/v1/trials/{id}/line-ups", { ...sent, body: row.body });
    case "gone":
      return client.POST("/api/v1/trials/{id}/samples-gone", { ...sent, body: row.body });
    case "guess":
      return client.POST("/api/v1/trials/{id}/guesses", { ...sent, body: row.body });
    case "photo":
      return picture(row.trial, row.key, row.body);
  }
}

const versionOf = (data: unknown): number =>
  typeof data === "object" && data !== null && "version" in data && typeof data.version === "number" ? data.version : 0;

async function post(row: Row): Promise<Outcome> {
  try {
    const answer = await request(row);
    if (answer.response.ok) {
      return { state: "saved", version: versionOf(answer.data) };
    }
    const { status } = answer.response;
    if (status >= 500 || NOT_NOW.includes(status)) {
      return { state: "kept" };
    }
    return { state: "refused", problem: answer.error as Problem, key: row.key };
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
const next = (): Row | undefined => rows.find((r) => !r.refused && (r.who === null || r.who === writer));

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
export async function send(entry: Entry, who: string | null = writer): Promise<Outcome> {
  const place = placeOf(entry);
  const replaced = rows.filter((r) => r.refused && placeOf(r) === place);
  const order = Math.max(Date.now(), ...rows.map((r) => r.order + 1));
  // It is of the moment at which it was taken, however late it arrives.
  const body = { at: new Date().toISOString(), ...entry.body };
  const row = { ...entry, body, key: newKey(), who, order } as Row;
  await keep(row);
  for (const old of replaced) {
    await drop(old.key);
  }
  return new Promise((resolve) => {
    promised.set(row.key, resolve);
    again();
  });
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
  const { kind, trial, body, who } = row;
  const outcome = await send({ kind, trial, body: { ...body, confirmed: true } } as Entry, who);
  if (outcome.state === "saved") {
    arrived(trial);
  }
}

/** Takes up what an earlier visit or another tab has kept. */
export async function resume(): Promise<void> {
  try {
    const stored = (await entries<string, Row>(shelf)).map(([, row]) => row);
    // What waits for its answer here is ours, whatever the device could keep of it.
    const own = rows.filter((r) => promised.has(r.key) && !stored.some((s) => s.key === r.key));
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
