import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

type Outbox = typeof import("./outbox");

/** What the server answers, request by request; the last answer is repeated. */
let answers: { status: number; body: unknown }[] = [];
let seen: { key: string | null; body: Record<string, unknown> }[] = [];

const saved = { status: 200, body: { version: 1 } };
const away = { status: 0, body: null };
const unlikely = { status: 422, body: { code: "unlikely", detail: "Is it right?", title: "Is that right?" } };
const signedOut = { status: 401, body: { code: "sign_in", detail: "Sign in", title: "Sign in" } };

/** A page as it opens: modules read anew, as in another tab, over the same device. */
async function page(): Promise<Outbox> {
  vi.resetModules();
  return import("./outbox");
}

const reading = (value: number) =>
  ({
    kind: "reading",
    trial: "t",
    body: { code: "K", reading: "ph", crop: null, day: 3, value, confirmed: false, version: 0 },
  }) as const;

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
  [answers, seen] = [[saved], []];
  // Outside a page an address must say its host.
  vi.stubGlobal(
    "Request",
    class extends Request {
      constructor(address: string, more?: RequestInit) {
        super(new URL(address, "http://localhost"), more);
      }
    },
  );
  vi.stubGlobal("fetch", async (request: Request) => {
    const isJson = request.headers.get("content-type")?.includes("json");
    const body = isJson ? ((await request.json()) as Record<string, unknown>) : { bytes: await request.text(), address: request.url };
    seen.push({ key: request.headers.get("idempotency-key"), body });
    const answer = answers.length > 1 ? answers.shift() : answers[0];
    if (!answer || answer.status === 0) {
      throw new TypeError("no answer");
    }
    return new Response(JSON.stringify(answer.body), { status: answer.status, headers: { "content-type": "application/json" } });
  });
});

afterEach(async () => {
  const box = await page();
  await box.resume();
  for (const row of [...box.outbox.kept().waiting, ...box.outbox.kept().refused]) {
    await box.discard(row.key);
  }
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("the outbox", () => {
  it("keeps nothing of what the server has", async () => {
    const box = await page();
    expect(await box.send(reading(6.1))).toEqual({ state: "saved", version: 1 });
    expect(box.outbox.kept()).toEqual({ waiting: [], refused: [], unkept: false });
    const next = await page();
    await next.resume();
    expect(next.outbox.kept().waiting).toEqual([]);
  });

  it("keeps a record before it is sent, for the next visit and with its own instant", async () => {
    answers = [away];
    const box = await page();
    expect(await box.send(reading(6.1))).toEqual({ state: "kept" });
    const first = seen[0];
    answers = [saved];
    const next = await page();
    await next.resume();
    await vi.waitFor(() => expect(next.outbox.kept().waiting).toEqual([]));
    expect(seen.at(-1)).toEqual(first);
    expect(first?.body["at"]).toMatch(/^\d{4}-\d\d-\d\dT/);
  });

  it("keeps what was refused with its value, and sends it once it is confirmed", async () => {
    answers = [unlikely, saved];
    const box = await page();
    const outcome = await box.send(reading(9.9));
    expect(outcome.state).toBe("refused");
    const next = await page();
    await next.resume();
    const [row] = next.outbox.kept().refused;
    expect([row?.body, row?.refused?.code]).toMatchObject([{ value: 9.9 }, "unlikely"]);
    expect(seen.length).toBe(1);
    await next.confirm(row?.key ?? "");
    expect(next.outbox.kept().refused).toEqual([]);
    expect(seen.at(-1)?.body).toMatchObject({ value: 9.9, confirmed: true, at: seen[0]?.body["at"] });
    expect(seen.at(-1)?.key).not.toBe(seen[0]?.key);
  });

  it("lets a corrected value take the place of the refused one", async () => {
    answers = [unlikely, saved];
    const box = await page();
    await box.send(reading(99));
    await box.send(reading(6.2));
    expect(box.outbox.kept().refused).toEqual([]);
  });

  it.each([signedOut, { ...signedOut, status: 403 }, { ...signedOut, status: 429 }])("stops and keeps at $status", async (answer) => {
    answers = [answer];
    const box = await page();
    expect((await Promise.all([box.send(reading(6)), box.send({ ...reading(1), body: { ...reading(1).body, code: "L" } })])).map((o) => o.state)).toEqual(["kept", "kept"]);
    expect(box.outbox.kept().waiting.length).toBe(2);
    answers = [saved];
    await vi.advanceTimersByTimeAsync(4000);
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
  });

  it("sends what somebody took under no other name", async () => {
    answers = [signedOut];
    const box = await page();
    box.setWriter("Kim");
    await box.send(reading(6.1));
    [answers, seen] = [[saved], []];
    box.setWriter("Lee");
    await vi.advanceTimersByTimeAsync(20_000);
    expect([seen.length, box.outbox.kept().waiting.length]).toEqual([0, 1]);
    box.setWriter("Kim");
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    expect(seen.length).toBe(1);
  });

  it("confirms what somebody else took under the name of the one who took it", async () => {
    answers = [unlikely];
    const box = await page();
    box.setWriter("Kim");
    await box.send(reading(9.9));
    [answers, seen] = [[saved], []];
    box.setWriter("Lee");
    await box.confirm(box.outbox.kept().refused[0]?.key ?? "");
    expect([seen.length, box.outbox.kept().waiting[0]?.who, box.outbox.kept().refused.length]).toEqual([0, "Kim", 0]);
    box.setWriter("Kim");
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    expect(seen[0]?.body).toMatchObject({ value: 9.9, confirmed: true });
  });

  it("sends in the order in which records were taken, and loses none of two tabs", async () => {
    answers = [away];
    const [one, two] = [await page(), await page()];
    // Nobody writes in two tabs within a millisecond, and within one their order is not told.
    const later = () => {
      for (const then = Date.now() + 2; Date.now() < then; );
    };
    await one.send({ ...reading(1), body: { ...reading(1).body, code: "A" } });
    later();
    await two.send({ ...reading(2), body: { ...reading(2).body, code: "B" } });
    later();
    await one.send({ ...reading(3), body: { ...reading(3).body, code: "C" } });
    [answers, seen] = [[saved], []];
    const next = await page();
    await next.resume();
    await vi.waitFor(() => expect(next.outbox.kept().waiting).toEqual([]));
    expect(seen.map((s) => s.body["code"])).toEqual(["A", "B", "C"]);
  });

  it("keeps a picture as it is over a reload and sends its very bytes", async () => {
    answers = [away, saved];
    const first = await page();
    const file = new Blob(["not really a picture"], { type: "image/png" });
    expect((await first.send({ kind: "photo", trial: "t", body: { code: "K", view: "top", file } })).state).toBe("kept");
    const second = await page();
    await second.resume();
    await vi.waitFor(() => expect(second.outbox.kept().waiting).toHaveLength(0));
    expect(seen.map((s) => s.body["bytes"])).toEqual(["not really a picture", "not really a picture"]);
    expect(seen[0]?.key).toBe(seen[1]?.key);
    expect(String(seen[1]?.body["address"])).toMatch(/photos\?code=K&view=top&at=20\d\d-/);
  });
});
