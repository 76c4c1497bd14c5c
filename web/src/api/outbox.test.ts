import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

type Outbox = typeof import("./outbox");

/** What the server answers, request by request; the last answer is repeated. */
let answers: { status: number; body: unknown }[] = [];
let seen: { key: string | null; body: Record<string, unknown> }[] = [];

const saved = {
  status: 200,
  body: { records: [{ state: "kept", no: 7, version: 1 }] },
};
const away = { status: 0, body: null };
const problem = {
  code: "unlikely",
  detail: "Is it right?",
  title: "Is that right?",
};
const unlikely = {
  status: 422,
  body: { records: [{ state: "refused", problem }] },
};
const signedOut = {
  status: 401,
  body: { code: "sign_in", detail: "Sign in", title: "Sign in" },
};

/** A page as it opens: modules read anew, as in another tab, over the same device. */
async function page(): Promise<Outbox> {
  vi.resetModules();
  return import("./outbox");
}

const reading = (value: number, unit = "K") => ({
  trial: "t",
  records: [
    {
      kind: "reading" as const,
      head: { unit, day: 3 },
      body: { reading: "ph", value },
    },
  ],
});

/** The record of a request, and its key. */
interface Seen {
  records: { head: Record<string, unknown>; body: Record<string, unknown> }[];
}
const sentIn = (request: (typeof seen)[number] | undefined) =>
  (request?.body as unknown as Seen | undefined)?.records[0];
const sentOf = (n: number) => sentIn(seen.at(n));

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "Date"] });
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
    const body = isJson
      ? ((await request.json()) as Record<string, unknown>)
      : { bytes: await request.text(), address: request.url };
    seen.push({ key: request.headers.get("idempotency-key"), body });
    const answer = answers.length > 1 ? answers.shift() : answers[0];
    if (!answer || answer.status === 0) {
      throw new TypeError("no answer");
    }
    return new Response(JSON.stringify(answer.body), {
      status: answer.status,
      headers: { "content-type": "application/json" },
    });
  });
});

afterEach(async () => {
  const box = await page();
  await box.resume();
  for (const row of [
    ...box.outbox.kept().waiting,
    ...box.outbox.kept().refused,
  ]) {
    await box.discard(row.key);
  }
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("the outbox", () => {
  it("keeps nothing of what the server has", async () => {
    const box = await page();
    expect(await box.send(reading(6.1))).toEqual({
      state: "saved",
      version: 1,
    });
    expect(box.outbox.kept()).toEqual({
      waiting: [],
      refused: [],
      unkept: false,
      writer: null,
    });
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
    expect(sentOf(0)?.head["at"]).toMatch(/^\d{4}-\d\d-\d\dT/);
    expect(sentOf(0)?.head["key"]).toMatch(/^[0-9a-f]{32}$/);
  });

  it("keeps what was refused with its value, and sends it once it is confirmed", async () => {
    answers = [unlikely, saved];
    const box = await page();
    const outcome = await box.send(reading(9.9));
    expect(outcome.state).toBe("refused");
    const next = await page();
    await next.resume();
    const [row] = next.outbox.kept().refused;
    expect(row).toMatchObject({
      records: [{ body: { value: 9.9 } }],
      refused: { code: "unlikely" },
    });
    expect(seen.length).toBe(1);
    await next.confirm(row?.key ?? "");
    expect(next.outbox.kept().refused).toEqual([]);
    expect(sentOf(-1)).toMatchObject({
      head: { confirmed: true, at: sentOf(0)?.head["at"] },
      body: { value: 9.9 },
    });
    expect(sentOf(-1)?.head["key"]).not.toBe(sentOf(0)?.head["key"]);
  });

  it("lets a corrected value take the place of the refused one", async () => {
    answers = [unlikely, saved];
    const box = await page();
    await box.send(reading(99));
    await box.send(reading(6.2));
    expect(box.outbox.kept().refused).toEqual([]);
  });

  it.each([
    signedOut,
    { ...signedOut, status: 403 },
    { ...signedOut, status: 429 },
    { status: 500, body: { code: "failed", title: "Failed", detail: "No" } },
    { status: 502, body: "<html>a proxy's own page</html>" },
    { status: 404, body: { code: "not_found", title: "None", detail: "No" } },
  ])(
    "sets one aside that is answered with $status, and sends the others",
    async (answer) => {
      answers = [answer, saved];
      const box = await page();
      const outcomes = await Promise.all([
        box.send(reading(6)),
        box.send(reading(1, "L")),
      ]);
      expect(outcomes.map((o) => o.state)).toEqual(["kept", "saved"]);
      const [row] = box.outbox.kept().waiting;
      expect(row).toMatchObject({ aside: { tries: 1 } });
      expect(row?.aside?.problem.title).not.toBe("");
      // The next visit knows of it, and it goes when it is due.
      const next = await page();
      await next.resume();
      expect(next.outbox.kept().waiting).toHaveLength(1);
      await vi.advanceTimersByTimeAsync(4000);
      await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    },
  );

  it("tries one that was set aside ever more rarely, and at once when it is asked to", async () => {
    const broken = { status: 500, body: { code: "failed", title: "Failed" } };
    answers = [broken];
    const box = await page();
    await box.send(reading(6));
    for (let n = 0; n < 8; n += 1) {
      await vi.advanceTimersByTimeAsync(4000);
    }
    expect(seen.length).toBeLessThan(6);
    const before = seen.length;
    answers = [saved];
    await box.tryAgain(box.outbox.kept().waiting[0]?.key ?? "");
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    expect(seen.length).toBe(before + 1);
  });

  it("does not ask a server in trouble about each of three hundred", async () => {
    answers = [{ status: 500, body: { code: "failed", title: "Failed" } }];
    const box = await page();
    await Promise.all(
      Array.from({ length: 12 }, (_, n) => box.send(reading(6, `U${n}`))),
    );
    const first = seen.length;
    expect(first).toBeLessThan(12);
    answers = [saved];
    await vi.advanceTimersByTimeAsync(4000);
    await vi.waitFor(() =>
      expect(box.outbox.kept().waiting.filter((row) => !row.aside)).toEqual([]),
    );
  });

  it("puts what was corrected in the place of what waits, and says what it stands for", async () => {
    answers = [away];
    const box = await page();
    await box.send(reading(6.1));
    await box.send(reading(6.5));
    await box.send(reading(6.9));
    expect(box.outbox.kept().waiting).toHaveLength(1);
    const keys = seen.map((s) => String(sentIn(s)?.head["key"]));
    [answers, seen] = [[saved], []];
    await vi.advanceTimersByTimeAsync(4000);
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    expect(seen).toHaveLength(1);
    expect(sentOf(0)?.body["value"]).toBe(6.9);
    expect(sentOf(0)?.head["instead_of"]).toEqual(
      [...new Set(keys)].slice(0, 2),
    );
  });

  it("sends nothing twice that says the same, but two notes and two picks alike", async () => {
    answers = [away];
    const box = await page();
    await box.send(reading(6.1));
    await box.send(reading(6.1));
    expect(box.outbox.kept().waiting).toHaveLength(1);
    const note = {
      trial: "t",
      records: [{ kind: "note" as const, head: {}, body: { text: "pale" } }],
    };
    await box.send(note);
    await box.send(note);
    const [own] = reading(6.1).records;
    if (own) {
      const more = { ...own, body: { ...own.body, again: true } };
      await box.send({ trial: "t", records: [more] });
    }
    expect(box.outbox.kept().waiting).toHaveLength(4);
  });

  it("says under which deal a record was taken", async () => {
    const box = await page();
    box.onTaken((trial) => `deal of ${trial}`);
    await box.send(reading(6.1));
    expect(sentOf(0)?.head["deal"]).toBe("deal of t");
  });

  it("hands in what somebody else took, and says whose it was", async () => {
    answers = [away];
    const box = await page();
    box.setWriter("owner");
    await box.send(reading(6.1));
    const [before] = box.outbox.kept().waiting;
    await vi.waitFor(() => expect(seen).toHaveLength(2));
    [answers, seen] = [[saved], []];
    box.setWriter("Lee");
    expect(seen).toEqual([]);
    await box.handIn(before?.key ?? "");
    expect(box.outbox.kept().waiting).toEqual([]);
    expect(sentOf(0)?.head).toMatchObject({
      taken_by: "owner",
      instead_of: [before?.key],
    });
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
    expect([
      seen.length,
      box.outbox.kept().waiting[0]?.who,
      box.outbox.kept().refused.length,
    ]).toEqual([0, "Kim", 0]);
    box.setWriter("Kim");
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    expect(sentOf(0)).toMatchObject({
      head: { confirmed: true },
      body: { value: 9.9 },
    });
  });

  it("sends in the order in which records were taken, and loses none of two tabs", async () => {
    answers = [away];
    const [one, two] = [await page(), await page()];
    // Nobody writes in two tabs within a millisecond, and within one their order is not told.
    const later = () => vi.setSystemTime(Date.now() + 2);
    await one.send(reading(1, "A"));
    later();
    await two.send(reading(2, "B"));
    later();
    await one.send(reading(3, "C"));
    [answers, seen] = [[saved], []];
    const next = await page();
    await next.resume();
    await vi.waitFor(() => expect(next.outbox.kept().waiting).toEqual([]));
    expect([0, 1, 2].map((n) => sentOf(n)?.head["unit"])).toEqual([
      "A",
      "B",
      "C",
    ]);
  });

  it("keeps a picture as it is over a reload and sends its very bytes", async () => {
    answers = [away, saved];
    const first = await page();
    const file = new Blob(["not really a picture"], { type: "image/png" });
    expect(
      (
        await first.send({
          trial: "t",
          picture: { code: "K", view: "top", file },
        })
      ).state,
    ).toBe("kept");
    const second = await page();
    await second.resume();
    await vi.waitFor(() =>
      expect(second.outbox.kept().waiting).toHaveLength(0),
    );
    expect(seen.map((s) => s.body["bytes"])).toEqual([
      "not really a picture",
      "not really a picture",
    ]);
    expect(seen[0]?.key).toBe(seen[1]?.key);
    expect(String(seen[1]?.body["address"])).toMatch(
      /photos\?code=K&view=top&at=20\d\d-/,
    );
  });

  it("keeps the records of one deed together, each under a key of its own", async () => {
    answers = [away, saved];
    const box = await page();
    const [own] = reading(6.1).records;
    const out = {
      kind: "giving" as const,
      head: { unit: "L" },
      body: {
        job: "feed" as const,
        to: "unit" as const,
        gift: { withheld: "ran out" },
      },
    };
    await box.send({ trial: "t", records: own ? [own, out] : [] });
    await vi.advanceTimersByTimeAsync(4000);
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    const keys = (seen[1]?.body as unknown as Seen).records.map(
      (r) => r.head["key"],
    );
    expect([keys.length, new Set(keys).size]).toEqual([2, 2]);
    expect(seen[1]).toEqual(seen[0]);
  });

  it("keeps what a program of another version does not take, until the page was loaded anew", async () => {
    answers = [
      {
        status: 503,
        body: { code: "reload", detail: "Load it anew", title: "Load it anew" },
      },
    ];
    const box = await page();
    expect((await box.send(reading(6.1))).state).toBe("kept");
    expect(box.outbox.kept().waiting).toHaveLength(1);
  });

  it("sends what an earlier version of the page had kept, each kind in its new shape and under its own key", async () => {
    const at = "2026-11-30T08:00:00.000Z";
    const earlier = [
      [
        "reading",
        {
          code: "K",
          reading: "ph",
          crop: null,
          sample: 2,
          day: 3,
          value: 6.1,
          confirmed: false,
          version: 1,
          at,
        },
      ],
      ["job", { job: "feed", date: "2026-11-29", ml_a_unit: 250, at }],
      [
        "giving",
        { job: "feed", to: { unit: "L" }, gift: { withheld: "ran out" }, at },
      ],
      ["giving", { job: "feed", to: { jug: 2 }, gift: "as_planned", at }],
      [
        "gone",
        {
          samples: [{ code: "K", numbers: [1, 3] }],
          why: "lost",
          note: "",
          at,
        },
      ],
      ["guess", { name: null, expects: { unit: "M" }, by_percent: null, at }],
      ["note", { code: null, day: 3, text: "pale", at }],
    ] as const;
    const { createStore, set } = await import("idb-keyval");
    const shelf = createStore("iron-twin", "records");
    for (const [n, [kind, body]] of earlier.entries()) {
      await set(
        `k${n}`,
        { kind, trial: "t", body, key: `k${n}`, who: null, order: n },
        shelf,
      );
    }
    const box = await page();
    await box.resume();
    await vi.waitFor(() => expect(box.outbox.kept().waiting).toEqual([]));
    const sent = seen.map(
      (s) => (s.body as unknown as { records: unknown }).records,
    );
    expect(sent).toEqual([
      [
        {
          kind: "reading",
          head: {
            unit: "K",
            sample: 2,
            day: 3,
            confirmed: false,
            version: 1,
            at,
            key: "k0",
          },
          body: { reading: "ph", value: 6.1 },
        },
      ],
      [
        {
          kind: "work",
          head: { date: "2026-11-29", at, key: "k1" },
          body: { job: "feed", ml_a_unit: 250 },
        },
      ],
      [
        {
          kind: "giving",
          head: { unit: "L", at, key: "k2" },
          body: { job: "feed", to: "unit", gift: { withheld: "ran out" } },
        },
      ],
      [
        {
          kind: "giving",
          head: { at, key: "k3" },
          body: { job: "feed", to: { jug: 2 }, gift: "as_planned" },
        },
      ],
      [
        {
          kind: "gone",
          head: { unit: "K", sample: 1, at, key: "k4" },
          body: { why: "lost", note: "" },
        },
        {
          kind: "gone",
          head: { unit: "K", sample: 3, at, key: "k4.1" },
          body: { why: "lost", note: "" },
        },
      ],
      [
        {
          kind: "guess",
          head: { unit: "M", at, key: "k5" },
          body: { expects: "unit", by_percent: null },
        },
      ],
      [
        {
          kind: "note",
          head: { day: 3, at, key: "k6" },
          body: { text: "pale" },
        },
      ],
    ]);
  });
});
