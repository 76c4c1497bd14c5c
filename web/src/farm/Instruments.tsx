import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { valueSaid } from "../frame/ProbeBar";
import { Trouble } from "../frame/Trouble";
import {
  instrumentsQuery,
  useKeepInstrument,
  useLive,
  useRemoveInstrument,
  useSwitch,
  type Showing,
} from "../queries/instruments";
import { text } from "../text/en";
import { Registers } from "./Registers";

const KINDS = Object.entries(text.instruments.kinds).map(([value, label]) => ({
  value: value as Schemas["Instrument"],
  label,
}));

/** An instrument as it was, to be added once more. */
const putBack = ({
  kind,
  name,
  address,
  registers,
}: Schemas["InstrumentView"]): Schemas["InstrumentSent"] => ({
  kind,
  name,
  address,
  version: 0,
  registers: registers.length > 0 ? registers : null,
});

/** Scales, probes, meters and switches by address. */
export function Instruments({ owner }: { owner: boolean }) {
  const view = useQuery(instrumentsQuery);
  const all = view.data?.instruments ?? [];
  const live = useLive(all.length > 0);
  const remove = useRemoveInstrument();
  const back = useKeepInstrument();
  // What was taken off the list a moment ago can be put back as it was.
  const [gone, setGone] = useState<Schemas["InstrumentView"] | null>(null);
  return (
    <section>
      <h2>{text.instruments.title}</h2>
      <p className="soft">{text.instruments.why}</p>
      {view.data && all.length === 0 && <p>{text.instruments.none}</p>}
      <ul className="instruments">
        {all.map((one) => (
          <li key={one.no}>
            <b>{one.name}</b>
            <span>
              {text.instruments.kinds[one.kind]}, {one.address}
            </span>
            <State
              showing={
                live?.get(one.no) ??
                view.data?.showing.find((s) => s.no === one.no)
              }
            />
            {owner && (
              <button
                type="button"
                className="plain"
                aria-label={text.instruments.removeThis(one.name)}
                onClick={() =>
                  remove.mutate(one.no, { onSuccess: () => setGone(one) })
                }
              >
                {text.instruments.remove}
              </button>
            )}
            {owner && one.registers.length > 0 && <Registers own={one} />}
            {owner && one.kind === "switch" && (
              <Switches
                no={one.no}
                states={live?.get(one.no)?.switches ?? []}
              />
            )}
          </li>
        ))}
      </ul>
      {gone && (
        <p className="gone" role="status">
          {text.instruments.taken(gone.name)}{" "}
          <button
            type="button"
            className="plain"
            onClick={() =>
              back.mutate(
                { no: null, body: putBack(gone) },
                { onSuccess: () => setGone(null) },
              )
            }
          >
            {text.instruments.putBack}
          </button>
        </p>
      )}
      {owner && <Add />}
      {view.data?.bench && (
        <p>
          <a href={view.data.bench} target="_blank" rel="noreferrer">
            {text.weigh.bench}
          </a>
        </p>
      )}
      <Trouble error={view.error ?? remove.error ?? back.error} />
    </section>
  );
}

/** Switches, worked by the owner: nothing is taken as done that the device has not said. */
function Switches({ no, states }: { no: number; states: (boolean | null)[] }) {
  const work = useSwitch();
  return (
    <div className="switches">
      {states.map((on, n) => (
        // A switch is its number.
        <p key={n}>
          {text.instruments.switchedOn(n, on)}{" "}
          {on !== null && (
            <Button
              size="small"
              loading={work.isPending}
              onClick={() => work.mutate({ no, body: { switch: n, on: !on } })}
            >
              {text.instruments.turn(n, !on)}
            </Button>
          )}
        </p>
      ))}
      <p className="caution">{text.instruments.switchCaution}</p>
      <Trouble error={work.error} />
    </div>
  );
}

function State({ showing }: { showing: Showing | undefined }) {
  const contact = showing?.contact;
  if (!contact) {
    return <span />;
  }
  return (
    <span className={contact.state}>
      {text.instruments.states[contact.state]}
      {contact.state === "lost" && `: ${contact.why}`}
      {contact.state === "live" &&
        showing.values.length > 0 &&
        `: ${showing.values.map(valueSaid).join(", ")}`}
      {contact.state === "live" &&
        typeof showing.g === "number" &&
        `: ${showing.g.toFixed(1)} g`}
    </span>
  );
}

function Add() {
  const keep = useKeepInstrument();
  const [kind, setKind] = useState<Schemas["Instrument"]>("scale");
  const [name, setName] = useState("");
  const [address, setAddress] = useState("");
  const add = async () => {
    const done = await keep
      .mutateAsync({ no: null, body: { kind, name, address, version: 0 } })
      .catch(() => null);
    if (done) {
      setName("");
      setAddress("");
    }
  };
  return (
    <form
      className="farm-fields"
      onSubmit={(event) => {
        event.preventDefault();
        void add();
      }}
    >
      <label className="field">
        <span>{text.instruments.kind}</span>
        <Select
          id="instrument-kind"
          value={kind}
          onChange={setKind}
          options={KINDS}
        />
      </label>
      <label className="field">
        <span>{text.instruments.name}</span>
        <Input
          name="instrument-name"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <label className="field">
        <span>{text.instruments.address}</span>
        <Input
          name="instrument-address"
          placeholder={text.instruments.addressHint}
          value={address}
          onChange={(e) => setAddress(e.target.value)}
        />
      </label>
      <Button
        htmlType="submit"
        loading={keep.isPending}
        disabled={name.trim() === "" || address.trim() === ""}
      >
        {text.instruments.add}
      </Button>
      <Trouble error={keep.error} />
    </form>
  );
}
