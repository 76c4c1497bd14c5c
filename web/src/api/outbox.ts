/**
 * Records on their way to the server, one after the other. What gets no answer is kept in IndexedDB and sent again;
 * each carries a key, so that a retry after a lost reply never doubles a record.
 */
import { get, set } from "idb-keyval";
import { client, type Problem, type Schemas } from "./client";

export type Entry =
  | { kind: "reading"; trial: string; key: string; body: Schemas["ReadingSent"] }
  | { kind: "weighing"; trial: string; key: string; body: Schemas["WeighingSent"] };

export type Outcome =
  | { state: "saved"; version: number }
  | { state: "refused"; problem: Problem }
  | { state: "kept" };

const STORE = "outbox";
const RETRY_MS = 4000;

let waiting: Entry[] = [];
let refused: { entry: Entry; problem: Problem }[] = [];
let chain: Promise<unknown> = Promise.resolve();
let timer: number | undefined;
const listeners = new Set<() => void>();

let arrived: (trial: string) => void = () => undefined;

/** Who is told when a record that had been kept has arrived after all. */
export function onArrived(told: (trial: string) => void): void {
  arrived = told;
}

export interface Kept {
  waiting: number;
  refused: number;
}
let snapshot: Kept = { waiting: 0, refused: 0 };

function changed(): void {
  snapshot = { waiting: waiting.length, refused: refused.length };
  void set(STORE, waiting).catch(() => undefined);
  listeners.forEach((listener) => listener());
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

async function post(entry: Entry): Promise<Outcome> {
  const params = { path: { id: entry.trial } };
  const headers = { "Idempotency-Key": entry.key };
  try {
    const answer =
      entry.kind === "reading"
        ? await client.POST("/api/v1/trials/{id}/readings", { params, headers, body: entry.body })
        : await client.POST("/api/v1/trials/{id}/weighings", { params, headers, body: entry.body });
    if (answer.data) {
      return { state: "saved", version: answer.data.version };
    }
    return answer.response.status >= 500 ? { state: "kept" } : { state: "refused", problem: answer.error as Problem };
  } catch {
    return { state: "kept" };
  }
}

async function drain(): Promise<void> {
  while (waiting.length > 0) {
    const entry = waiting[0] as Entry;
    const outcome = await post(entry);
    if (outcome.state === "kept") {
      break;
    }
    waiting = waiting.slice(1);
    if (outcome.state === "refused") {
      refused = [...refused, { entry, problem: outcome.problem }];
    }
    changed();
    arrived(entry.trial);
  }
  window.clearTimeout(timer);
  if (waiting.length > 0) {
    timer = window.setTimeout(() => (chain = chain.then(drain)), RETRY_MS);
  }
}

/** Sends an entry, after all that wait before it. */
export function send(entry: Entry): Promise<Outcome> {
  const sent = chain.then(async (): Promise<Outcome> => {
    await drain();
    const outcome: Outcome = waiting.length > 0 ? { state: "kept" } : await post(entry);
    if (outcome.state === "kept") {
      waiting = [...waiting, entry];
      changed();
      await drain();
    }
    return outcome;
  });
  chain = sent.catch(() => undefined);
  return sent;
}

/** Takes up what an earlier visit could not send. */
export async function resume(): Promise<void> {
  try {
    waiting = [...((await get<Entry[]>(STORE)) ?? []), ...waiting];
  } catch {
    return;
  }
  if (waiting.length > 0) {
    changed();
    chain = chain.then(drain);
  }
}

if (typeof window !== "undefined") {
  window.addEventListener("online", () => (chain = chain.then(drain)));
}
