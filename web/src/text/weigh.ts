/** Words of the harvest and of instruments, a part of the catalogue in `en.ts`. */

import type { Schemas } from "../api/client";

export const weigh = {
  plant: (n: number) => `plant ${n}`,
  gone: "This plant is gone: on to the next",
  afterCut: "Of what was cut",
  afterCutWhy:
    "The same for every tray: trimmed and washed by one rule, dried until it no longer gets lighter. Net, without the bowl.",
  gross: (unit: string) => `on the scale, ${unit}`,
  tare: (unit: string) => `tray and mat alone, ${unit}`,
  tareWhy: "Say what the empty tray weighs; it is never taken as nothing.",
  tareFirst: "Say first what the empty tray weighs.",
  tareOf: (name: string, weight: string) => `${name}: ${weight}`,
  tareLast: (weight: string) => `as the last one: ${weight}`,
  tareWeigh: "weigh the empty one on the scale",
  tareZero: "the scale was set to zero with it: 0",
  net: "cut weight",
  take: "Take it",
  replace: (weight: string, code: string) => `Replace the ${weight} of ${code}`,
  enter: "Enter takes it",
  type: "type it instead",
  useScale: "take it from the scale",
  byItself: "take it by itself once it stands still",
  order: "order",
  orders: { shuffled: "shuffled", walking: "as one walks" } as Record<
    "shuffled" | "walking",
    string
  >,
  orderWhy:
    "Shuffled, whatever changes while you weigh (wilting, a drifting scale, a tired hand) falls on no treatment.",
  unit: "unit",
  scale: "scale",
  noScale: "none, typed by hand",
  addScale: "Connect a scale",
  bench: "bench of the stand-ins",
  pan: (code: string) =>
    ({
      settled: "It stands still.",
      moving: "Still moving …",
      empty: `Put ${code} on the scale.`,
      below_zero:
        "The scale shows less than nothing: set it to zero with nothing on it.",
      overload:
        "Too heavy for this scale. Use a larger one, and type the weight.",
      taken: `Taken. Lift it off, then put ${code} on.`,
      silent: "The scale is silent …",
    }) satisfies Record<Schemas["Pan"], string>,
  reaching: "Looking for the scale …",
  scaleLost: (why: string) =>
    `The scale is not there: ${why}. It is tried again and again; you can type the weight meanwhile.`,
  streamLost:
    "The program does not answer. Read the weight off the scale and type it: it is kept on this device.",
  soFar: (n: number, all: number) => `${n} of ${all} weighed`,
  total: (weight: string) => `${weight} so far`,
  range: (least: string, most: string) => `siblings so far ${least} to ${most}`,
  done: "All trays are weighed.",
  toJudge: "Go to Judge to open the key",
  unripe: (day: number) =>
    `The plan is to cut on day ${day}. Weighing earlier will be noted.`,
  notSown: "There is nothing to weigh before sowing.",
  lost: "lost",
  writeOff: "this tray is lost",
  takeBack: "it is not lost",
  lostReason: "What happened to it?",
  lostWhen: "When was it lost?",
  lostOn: (reason: string, day: number) => `${reason}, day ${day}`,
  keepLost: "Write it off",
  caution:
    "Cut away from the hand; rinse and wipe a blade after sharpening. Clean hands, clean scale. Discard any mouldy or slimy tray whole, and say so here.",
  weighThis: "weigh tray",
};

const pieces = (n: number) => (n === 1 ? "1 piece" : `${n} pieces`);

export const waves = {
  inWaves: "Cut or picked several times",
  why: "Every unit is looked at in every wave, also where nothing is ripe. All waves together are what is compared.",
  cut: "cut at, mm, if it is cut",
  net: "picked weight",
  tare: (unit: string) => `bowl alone, ${unit}`,
  tareWhy: "Say what the empty bowl weighs; it is never taken as nothing.",
  from: (code: string) => `what comes from ${code}`,
  grade: "grade",
  price: "brings, a kg",
  add: "Add a grade",
  drop: (name: string) => (name ? `leave out ${name}` : "leave it out"),
  pieces: "pieces",
  cutAt: (mm: string) => `Cut at ${mm} mm, the same everywhere.`,
  nothing: "nothing ripe on it",
  onward: "on to the next",
  soFar: (
    weight: string,
    n: number | null,
    piece: string | null,
    value: string | null,
  ) =>
    `So far ${weight}${n === null ? "" : `, ${pieces(n)}`}${piece === null ? "" : `, ${piece} each`}${value === null ? "" : `, worth ${value}`}`,
  today: (n: number, all: number) => `${n} of ${all} looked at today`,
  waveDays: (days: number[]) =>
    days.length === 0 ? "no wave yet" : `waves on day ${days.join(", ")}`,
  done: "This wave is done.",
};

export const aside = {
  title: "Something was taken from a tray before, as for the kitchen",
  why: "It is counted in. Take from every tray alike, or from none: what was cut early did not grow on.",
  from: "from tray",
  weight: (unit: string) => `weight, ${unit}`,
  when: "on",
  keep: "Keep it",
};

export const instruments = {
  title: "Instruments",
  why: "Scales, probes, meters and switches in your own network, by their address. What they say and how is in docs/devices.md; nothing is asked of any other place.",
  none: "None yet. Weights and readings are typed.",
  kinds: {
    scale: "weighing scale",
    probe: "pH, EC and temperature",
    light: "light and power",
    switch: "switch",
  } satisfies Record<Schemas["Instrument"], string>,
  kind: "what it is",
  name: "name",
  address: "address and port",
  addressHint: "192.168.1.20:4001",
  add: "Connect",
  change: "Keep",
  remove: "take off the list",
  taken: (name: string) => `${name} is off the list.`,
  putBack: "Put it back",
  removeThis: (name: string) => `take off the list: ${name}`,
  quantities: {
    ph: "pH",
    ec: "EC",
    temperature: "temperature",
    light: "light",
    power: "power",
    energy: "energy",
  } satisfies Record<Schemas["Measured"], string>,
  units: {
    ph: "",
    ec: "mS/cm",
    temperature: "°C",
    light: "µmol/m²/s",
    power: "W",
    energy: "kWh",
  } satisfies Record<Schemas["Measured"], string>,
  decimals: {
    ph: 2,
    ec: 2,
    temperature: 1,
    light: 0,
    power: 0,
    energy: 3,
  } satisfies Record<Schemas["Measured"], number>,
  moving: "settling",
  frozen: "the same to the last digit for ten minutes: is it alive?",
  noValue: "has no value (is it in the solution?)",
  switchedOn: (n: number, on: boolean | null) =>
    `switch ${n + 1} ${on === null ? "is not known" : on ? "is on" : "is off"}`,
  turn: (n: number, on: boolean) => `turn switch ${n + 1} ${on ? "on" : "off"}`,
  switchCaution:
    "What a switch starts runs, whether somebody stands beside it or not. Keep mains leads and plugs away from water, behind a residual-current device; follow the device's own manual.",
  probe: "Probe",
  probeTakes: "= takes it",
  probeSilent: "The probe says nothing now; type what you read.",
  fromProbe: "from the probe",
  states: {
    reaching: "being looked for",
    live: "there",
    lost: "not there",
  } satisfies Record<Schemas["Contact"]["state"], string>,
};

export const registers = {
  title: (name: string) => `registers of ${name}`,
  why: "As its manual says: which table, from which register (counted from 0), how the number lies in it, and by what it is multiplied.",
  measures: "what it holds",
  table: "table",
  tables: {
    input: "input registers (4)",
    holding: "holding registers (3)",
  } satisfies Record<Schemas["Table"], string>,
  at: "first register",
  encoding: "how the number lies in it",
  encodings: {
    u16: "16 bits",
    i16: "16 bits, with sign",
    u32: "32 bits",
    u32_swapped: "32 bits, low word first",
    f32: "32-bit float",
    f32_swapped: "32-bit float, low word first",
  } satisfies Record<Schemas["Encoding"], string>,
  times: "times",
  leaveOut: "leave it out",
  more: "One more",
  usual: "The usual ones",
  kept: "kept: it is asked anew",
};
