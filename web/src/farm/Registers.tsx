import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { Trouble } from "../frame/Trouble";
import { typed } from "../marks/number";
import { useKeepInstrument } from "../queries/instruments";
import { text } from "../text/en";

type Register = Schemas["Register"];
/** A register as it is typed. */
type Draft = Omit<Register, "at" | "times"> & { at: string; times: string };

const words = text.registers;
const choices = <T extends string>(of: Record<T, string>) =>
  (Object.entries(of) as [T, string][]).map(([value, label]) => ({
    value,
    label,
  }));
const QUANTITIES = choices(text.instruments.quantities);
const TABLES = choices(words.tables);
const ENCODINGS = choices(words.encodings);

const draftOf = (own: Register): Draft => ({
  ...own,
  at: String(own.at),
  times: String(own.times),
});

/** The registers as they are sent; null while a number is missing. */
function registersOf(drafts: Draft[]): Register[] | null {
  const all = drafts.map((d) => ({
    ...d,
    at: typed(d.at),
    times: typed(d.times),
  }));
  const whole = (d: (typeof all)[number]): d is Register =>
    d.at !== null &&
    d.times !== null &&
    Number.isInteger(d.at) &&
    !Number.isNaN(d.times);
  return all.every(whole) ? all : null;
}

/** Where the numbers of a probe or meter lie: as its maker's manual says. */
export function Registers({ own }: { own: Schemas["InstrumentView"] }) {
  const keep = useKeepInstrument();
  const [drafts, setDrafts] = useState(() => own.registers.map(draftOf));
  const ready = registersOf(drafts);
  const change = (next: Draft[]) => {
    setDrafts(next);
    keep.reset();
  };
  const set = (at: number, of: Partial<Draft>) =>
    change(drafts.map((d, i) => (i === at ? { ...d, ...of } : d)));
  const free = QUANTITIES.find((q) =>
    drafts.every((d) => d.measures !== q.value),
  );
  const send = (registers: Register[] | null) =>
    keep.mutate(
      {
        no: own.no,
        body: {
          kind: own.kind,
          name: own.name,
          address: own.address,
          version: own.version,
          registers,
        },
      },
      {
        onSuccess: ({ instruments }) =>
          setDrafts(
            instruments.find((i) => i.no === own.no)?.registers.map(draftOf) ??
              drafts,
          ),
      },
    );
  return (
    <details className="registers">
      <summary>{words.title(own.name)}</summary>
      <p className="soft">{words.why}</p>
      {drafts.map((d, i) => (
        <div
          className="register"
          key={d.measures}
          role="group"
          aria-label={text.instruments.quantities[d.measures]}
        >
          <Select
            aria-label={words.measures}
            value={d.measures}
            onChange={(measures) => set(i, { measures })}
            options={QUANTITIES}
            popupMatchSelectWidth={false}
          />
          <Select
            aria-label={words.table}
            value={d.table}
            onChange={(table) => set(i, { table })}
            options={TABLES}
            popupMatchSelectWidth={false}
          />
          <Input
            aria-label={words.at}
            name={`at-${i}`}
            inputMode="numeric"
            value={d.at}
            onChange={(e) => set(i, { at: e.target.value })}
          />
          <Select
            aria-label={words.encoding}
            value={d.encoding}
            onChange={(encoding) => set(i, { encoding })}
            options={ENCODINGS}
            popupMatchSelectWidth={false}
          />
          <Input
            aria-label={words.times}
            name={`times-${i}`}
            inputMode="decimal"
            value={d.times}
            onChange={(e) => set(i, { times: e.target.value })}
          />
          <button
            type="button"
            className="plain"
            onClick={() => change(drafts.filter((_, at) => at !== i))}
          >
            {words.leaveOut}
          </button>
        </div>
      ))}
      <p className="doing">
        {free && (
          <Button
            onClick={() =>
              change([
                ...drafts,
                {
                  measures: free.value,
                  table: "input",
                  at: "0",
                  encoding: "f32",
                  times: "1",
                },
              ])
            }
          >
            {words.more}
          </Button>
        )}
        <Button
          type="primary"
          disabled={!ready || ready.length === 0}
          loading={keep.isPending}
          onClick={() => send(ready)}
        >
          {text.instruments.change}
        </Button>
        <Button onClick={() => send(null)}>{words.usual}</Button>
        {keep.isSuccess && <span role="status">{words.kept}</span>}
      </p>
      <Trouble error={keep.error} />
    </details>
  );
}
