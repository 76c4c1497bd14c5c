/** Records as they are sent: each with its kind, its head and its body, and what the server says to a list of them. */
import { answered, answersOf, client, type Schemas } from "./client";

export type Sent = Schemas["RecordSent"];
export type Head = Schemas["HeadSent"];
export type Kind = Sent["kind"];
/** A record of one kind. */
export type Of<K extends Kind> = Extract<Sent, { kind: K }>;

/** The format of lists that this page sends. */
export const FORMAT = 1;

/** A random key that also works where the page is not a secure context. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}

/** The version that the first of a list has now; 0 where it was not kept. */
export function versionOf(answer: unknown): number {
  const [first] = answersOf(answer);
  return first?.state === "kept" ? first.version : 0;
}

/** Posts a list as it is. */
export const post = (trial: string, records: Sent[]) =>
  client.POST("/api/v1/trials/{id}/records", {
    params: { path: { id: trial } },
    body: { format: FORMAT, each: false, records },
  });

/** Sends a record there and then, for what is asked of the server alone; where it is refused the problem is thrown. */
export const record = (trial: string, sent: Sent) =>
  answered(
    post(trial, [{ ...sent, head: { ...sent.head, key: newKey() } } as Sent]),
  );
