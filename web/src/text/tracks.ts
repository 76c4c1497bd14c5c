/** Words of the tracks and of loggers' files, a part of the catalogue in `en.ts`. */

const rows = (n: number) =>
  n === 1 ? "1 row" : `${n.toLocaleString("en")} rows`;
const capital = (words: string) =>
  words.charAt(0).toUpperCase() + words.slice(1);
const day = (from: number, until: number) =>
  from === until ? `on day ${from}` : `over days ${from} to ${until}`;

export const tracks = {
  title: "Tracks",
  back: "back to the day",
  none: "Nothing was read on two days yet. A track begins with the second reading.",
  what: "What",
  outstanding: (n: number) => `${n} to look at`,
  readings: "read tray by tray",
  logged: "recorded by loggers",
  computed: "computed from them",
  computedWhy: {
    vapour_pressure_deficit:
      "From temperature and humidity of one place, hour by hour (FAO paper 56, equation 11).",
    daily_light:
      "The light of each day, for days on record from midnight to midnight.",
    degree_days:
      "Warmth above 5 °C since the sowing, added up hour by hour; hours without a record add nothing.",
    oxygen_saturation:
      "Dissolved oxygen as a share of what fresh water of that temperature holds at sea level (Benson and Krause 1984).",
  },
  picture: (name: string) => `${name} over the days`,
  numbers: "numbers",
  svg: "SVG",
  csv: "CSV",
  day: "day",
  usual: "usual for the crop",
  sealed: "By code alone: treatments are told once the key is open.",
  mean: (name: string) => `${name}, mean`,
  open: (code: string) => `Open ${code}`,
  at: (code: string, value: string, on: number) =>
    `${code}: ${value} on day ${on}`,
  beside: (by: string, more: boolean) => `${by} ${more ? "above" : "below"}`,
  drift: (
    code: string,
    by: string,
    from: number,
    until: number,
    told: boolean,
  ) =>
    `${code} stands out: ${by} ${told ? "the others of its treatment" : "all the others"}, ${day(from, until)}. Look whether something is wrong with it before you trust its harvest.`,
  apart: (
    name: string,
    control: string,
    by: string,
    from: number,
    until: number,
  ) =>
    `${capital(name)} lies ${by} ${control} ${day(from, until)}. It should be equal, or it is part of what is compared.`,
  loggedRange: { all: "all days", week: "last 7 days" },
  loggedBand: (hours: number) =>
    `Each step is the mean of ${hours === 1 ? "an hour" : hours === 24 ? "a day" : hours === 168 ? "a week" : `${hours} hours`}; the pale band runs from the least to the greatest in it.`,
  columns: {
    code: "Tray",
    day: "Day",
    value: "Value",
    place: "Place",
    least: "Least",
    mean: "Mean",
    most: "Most",
  },
};

export const loggers = {
  title: "Files of loggers",
  why: "Temperature, humidity, light, pH: what a logger wrote by itself, as a CSV file. It is drawn above by the hour, and never fills the grid.",
  add: "Add a logger's file",
  looking: "Looking at the file …",
  wait: (name: string) => `${name}: how is it read?`,
  remembered: "A file with this head was read like this before.",
  time: "Time",
  format: "Written as",
  zone: "Its clock ran on",
  zoneHint: "a zone such as UTC, or +02:00",
  ambiguous:
    "Day and month cannot be told apart in this file. Choose, and look at the first and last rows below.",
  column: "Column",
  holds: "Holds",
  unit: "In",
  place: "Where the probe was",
  nothing: "not taken in",
  read: "So it is read",
  readTime: "by the farm's clock",
  dots: "…",
  takeIn: "Take it in",
  discard: "Put it aside",
  running: (name: string, percent: number) => `${name}: ${percent} % read`,
  stop: "Stop",
  failed: (name: string, why: string) => `${name} was not taken in: ${why}.`,
  again: "Read it otherwise",
  ok: "All right",
  done: (name: string, taken: number) => `${name}: ${rows(taken)} taken in.`,
  doubled: (n: number) => `${rows(n)} stood there already.`,
  empty: (n: number) => `${rows(n)} had no value.`,
  other: (n: number) =>
    `In ${rows(n)} another value stands at that time already, and was kept. A second probe belongs to another place.`,
  bad: (n: number) => `${rows(n)} could not be taken in`,
  left: (n: number) => `${rows(n)} not taken in as they stand`,
  line: (n: number, why: string) => `line ${n}: ${why}`,
  more: (n: number) => `and ${n.toLocaleString("en")} more`,
  files: "Taken in",
  by: (who: string, on: string) => `${who}, ${on}`,
  takeBack: "take back",
  takeBackSure: "Take back the whole file?",
  sure: "Take it back",
  keep: "Keep it",
  rows,
};

/** A way of writing times, as an example. */
export function timeExample(format: string): string {
  const known: Record<string, string> = {
    iso: "2026-05-31T17:45:00Z",
    unix: "seconds since 1970",
    unix_ms: "milliseconds since 1970",
  };
  const parts: Record<string, string> = {
    Y: "2026",
    y: "26",
    m: "05",
    d: "31",
    b: "May",
    H: "17",
    I: "05",
    M: "45",
    S: "00",
    p: "PM",
  };
  return (
    known[format] ??
    format
      .replace("%.f", "")
      .replace(/%([A-Za-z])/g, (all, letter: string) => parts[letter] ?? all)
  );
}
