/** Records on this device: one row each in IndexedDB, shared by all tabs, and in memory for whoever shows or sends them. */
import { createStore, del, entries, set } from "idb-keyval";
import type { Problem } from "./client";
import { renewed } from "./earlier";
import type { Sent } from "./records";

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

/** Why one that is sound was not taken now, and when it is tried again. */
export interface Aside {
  problem: Problem;
  tries: number;
  /** In milliseconds of the epoch. */
  due: number;
}

/** An entry as it is kept. */
export type Row = Entry & {
  key: string;
  /** Who took it; null where it was not known yet. */
  who: string | null;
  /** Place in the line of this device. */
  order: number;
  /** Why the server did not take it: it is corrected, confirmed or thrown away. */
  refused?: Problem;
  /** It stepped aside for the others. */
  aside?: Aside;
};

export interface Kept {
  /** On their way, those that stepped aside among them. */
  waiting: readonly Row[];
  refused: readonly Row[];
  /** Whether the device could not keep a record, so that the page must stay open until it is sent. */
  unkept: boolean;
  /** Who writes here. */
  writer: string | null;
}

const store = createStore("iron-twin", "records");
const tabs =
  typeof BroadcastChannel === "undefined"
    ? null
    : new BroadcastChannel("iron-twin-records");

let rows: readonly Row[] = [];
let writer: string | null = null;
let unkept = false;
let snapshot: Kept = { waiting: [], refused: [], unkept: false, writer: null };
const listeners = new Set<() => void>();

function changed(): void {
  snapshot = {
    waiting: rows.filter((r) => !r.refused),
    refused: rows.filter((r) => r.refused),
    unkept,
    writer,
  };
  listeners.forEach((listener) => listener());
}

export function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const kept = (): Kept => snapshot;
export const all = (): readonly Row[] => rows;
export const find = (key: string): Row | undefined =>
  rows.find((r) => r.key === key);
export const whoWrites = (): string | null => writer;

export function setWho(who: string | null): void {
  writer = who;
  changed();
}

/** Whether it is for whoever writes here to send. */
export const isOwn = ({ who }: Row): boolean => who === null || who === writer;

export async function keep(row: Row): Promise<void> {
  rows = [...rows.filter((r) => r.key !== row.key), row].sort(
    (a, b) => a.order - b.order,
  );
  try {
    await set(row.key, row, store);
    unkept = false;
  } catch {
    unkept = true;
  }
  changed();
  tabs?.postMessage("changed");
}

export async function drop(key: string): Promise<void> {
  rows = rows.filter((r) => r.key !== key);
  unkept = unkept && rows.length > 0;
  await del(key, store).catch(() => undefined);
  changed();
  tabs?.postMessage("changed");
}

/** Takes up what an earlier visit or another tab has kept, beside what is `held` here whatever the device could keep of it. */
export async function read(held: (key: string) => boolean): Promise<boolean> {
  try {
    const stored = (await entries<string, Row>(store)).map(([, row]) =>
      renewed(row),
    );
    const own = rows.filter(
      (r) => held(r.key) && !stored.some((s) => s.key === r.key),
    );
    rows = [...stored, ...own].sort((a, b) => a.order - b.order);
  } catch {
    return false;
  }
  changed();
  return true;
}

export function onOtherTab(told: () => void): void {
  if (tabs) {
    tabs.onmessage = told;
  }
}

// Whoever closes the page now would lose what the device could not keep.
if (typeof window !== "undefined") {
  window.addEventListener("beforeunload", (event) => {
    if (unkept && rows.length > 0) {
      event.preventDefault();
    }
  });
}
