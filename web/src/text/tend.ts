/** Words of Tend, a part of the catalogue in `en.ts`. */
import type { Schemas } from "../api/client";

const days = (n: number) => (n === 1 ? "1 day" : `${n} days`);

type Job = Schemas["Job"];
type How = NonNullable<Schemas["GivenPortion"]["how"]>;

/** The usual caution of a kind of work; labels, local codes and licensed practice lead. */
const cautions: Partial<Record<Job, string>> = {
  feed: "Concentrate into water, never the other way; gloves with pH products. Keep plugs and pumps above the splash line.",
  water:
    "Keep plugs and pumps above the splash line. A full pail is heavy: half full, or two people.",
  apply:
    "The label is the law: its dose, its gloves and mask, its days before harvest. Powders: damp them. Not into wind, drains or ponds.",
  rinse:
    "Rinsate and leftover spray go by label and local code, never into drains or streams. No bleach beside acid or vinegar.",
  read: "Wipe the floor dry and keep mains leads out of the water while a probe is in it.",
  thin: "Cut away from yourself; clean the blade between trays.",
  harvest:
    "Cut away from yourself; rinse a sharpened blade. Clean hands: this is eaten raw. Discard mouldy or slimy trays whole.",
  soak: "Treated seed is not for eating, nor its water for the drain.",
};

export const tend = {
  cautions,
  ways: {
    tracks: "tracks over the days, and files of loggers",
    lineUp: "line them up from best to worst",
  },
  work: {
    done: "done",
    doneToday: "done today",
    given: "given as planned",
    givenToday: "given today",
    otherwise: "otherwise …",
    otherwiseWhy: "another day, amount, not all of them, or not at all",
    when: "When",
    hour: "at (hour)",
    each: "Each got, mL",
    allBut: "Not these",
    nobody: "all got it",
    why: "Why not",
    whyPlaceholder: "ran out, away, power cut …",
    leftOut: "Not done at all",
    keep: "Keep it",
    cancel: "close",
    moveTo: "Or do it on",
    move: "Move it",
    handOver: "print a sheet for somebody who does it for you",
    onceMore: "Yes, once more",
    unsent: "Kept on this device; it is sent when the server answers.",
  },
  given: {
    title: "What was given",
    none: "Nothing is on record yet.",
    missed: (job: string, on: string) => `${job}: nothing on record for ${on}.`,
    days: (list: number[]) =>
      list.length === 1
        ? `day ${list[0]}`
        : `days ${list.slice(0, -1).join(", ")} and ${list.at(-1)}`,
    received: "What each has received",
    columns: ["Trays", "On days", "In all", "Not"],
    all: (n: number) => `all ${n} trays`,
    more: (n: number) => `and ${n} more`,
    times: (n: number) => (n === 1 ? "once" : n === 2 ? "twice" : `${n} times`),
    gap: (n: number) => `longest gap ${days(n)}`,
    verbs: { feed: "fed", water: "watered", apply: "given beside" } as Partial<
      Record<Job, string>
    >,
    without: (day: number, why: string) => `day ${day} (${why})`,
    log: "Entries",
    logColumns: ["Day", "What", "To", "By"],
    late: (n: number) => `entered ${days(n)} later`,
    asPlanned: "as planned",
    sealed: "sealed until the key is open",
    withheld: (why: string) => `not given: ${why}`,
    leftOut: (why: string) => `left out: ${why}`,
    toAll: "all trays",
    enter: "Enter something given",
    enterWhy:
      "a top-up, a spray, a dusting: to one tray, one jug or one treatment",
    to: "To",
    toUnits: "Trays",
    toJugs: "Jugs",
    toTreatments: "Treatments (tells the key to who reads it)",
    jug: (n: number) => `Jug ${n}`,
    kind: "Entered as",
    kinds: {
      as_planned: "its share of the round",
      own: "something of its own",
      withheld: "it was left out",
    },
    part: "Part of",
    what: "What",
    how: "How",
    hows: {
      stirred: "stirred into the water",
      drenched: "drenched",
      sprayed: "sprayed",
      dipped: "dipped",
      dusted: "dusted",
      on_seed: "on the seed",
      injected: "injected",
    } satisfies Record<How, string>,
    amount: "Each got",
    unit: "of it in",
    lot: "Lot on the label",
    batch: "Batch of the mix",
  },
  gone: {
    title: "Plants that died, were thinned out or were never there",
    why: "Tap the plants of a tray that are not there. From that day on nothing more is asked of them, and what is left of a tray stands for it; what a plant was before stays on record.",
    whys: {
      lost: "died",
      thinned: "thinned out",
      never_there: "was never there",
    } satisfies Record<Schemas["GoneWhy"], string>,
    plant: (code: string, n: number) => `plant ${n} of ${code}`,
    note: "What happened",
    notePlaceholder: "damped off, snapped, eaten …",
    keep: (n: number) =>
      n === 0
        ? "Take them out"
        : n === 1
          ? "Take this plant out"
          : `Take these ${n} plants out`,
  },
  photos: {
    title: "Photos",
    why: "From above, always from the same height and in the same light; the code and, if you have one, a grey card in the frame.",
    of: "Of",
    view: "From",
    views: {
      top: "above",
      side: "the side",
      root: "below, the roots",
    } as Record<string, string>,
    add: "Add a photo",
    none: "No photo yet.",
    look: (code: string, day: number) => `photo of ${code}, day ${day}`,
    measured: (percent: string) => `${percent} % cover`,
    open: (code: string, day: number) => `${code}, day ${day}`,
    earlier: "earlier",
    later: "later",
    close: "Close the photo",
    corners:
      "Drag the four corners onto the tray, or step them with the arrow keys.",
    corner: (n: number) => `corner ${n} of the tray`,
    readiness: "How readily a pixel counts as leaf",
    less: "less",
    more: "more",
    card: "A grey card is in the picture",
    cardPoint: "grey card",
    ghost: (day: number) => `Lay the picture of day ${day} over it`,
    ruler: "A ruler is in the picture",
    rulerLength: "Between its two marks, mm",
    rulerEnd: (n: number) => `mark ${n} of the ruler`,
    lineEnd: (n: number) => `end ${n} of the line`,
    line: {
      top: "Measure a line",
      side: "Measure a line: the height of a stem",
      root: "Measure a line: the longest root",
    } as Record<string, string>,
    sheet: "Show",
    sheets: { day: "by day", tray: "tray by tray over the days" },
    treatment: "Treatment",
    compare: "Hold two against each other",
    compareWhy:
      "Both trays are laid flat between their corners, at one scale. Draw the edge across, with the mouse, a finger or the arrow keys.",
    left: "Left",
    right: "Right",
    ways: { wipe: "one over the other", beside: "side by side" },
    edge: "Where the one ends and the other begins",
    keep: "Measure and keep",
    figures: {
      cover_percent: ["canopy cover", "%", 1],
      yellow_percent: ["yellow, of the leaf", "%", 1],
      red_percent: ["red, of the leaf", "%", 1],
      brown_percent: ["brown, of the tray", "%", 1],
      dark_green: ["dark green index", "", 3],
      evenness_percent: ["evenness", "%", 0],
      leaf_cm2: ["leaf, by the ruler", "cm²", 1],
      line_mm: ["the line, by the ruler", "mm", 1],
      lightness: ["L* of the leaf", "", 1],
      green_red: ["a* of the leaf", "", 1],
      blue_yellow: ["b* of the leaf", "", 1],
    } as Record<string, [string, string, number]>,
    goesOn: "What is judged of it stands in the grid of its day.",
  },
  diary: {
    title: "Diary",
    kind: "Show",
    kinds: {
      all: "everything",
      readings: "readings",
      weights: "weights",
      work: "work",
      given: "what was given",
      photos: "photos",
      notes: "notes and losses",
      mixes: "mixes",
      plan: "the plan",
    } as Record<string, string>,
    nothing: "Nothing of this kind yet.",
    takeBack: "take back",
    undone: "taken back",
    older: "older",
    newest: "newest",
  },
  jugs: {
    title: "Jugs",
    why: "Who feeds needs no key: fill a jug for each number, write the number on it, and give each code its jug.",
    rinse:
      "Rinse can and hands between two jugs: nobody but the owner knows which of them is the control.",
    notToday: "not on this day",
    giveOut: "Give the jugs out to who records",
    giveOutWhy:
      "They then see which codes are filled from one jug, but not what is in it. That cannot be taken back.",
    givenOut: "Everybody who records sees which codes are filled from one jug.",
  },
  gridName: "Readings, one row each",
  care: "When the work falls",
  careFields: {
    blackout_days: "blackout ends on day",
    first_feed_day: "first feeding on day",
    feed_every: "feed every … days",
    read_every: "read every … days",
    water_every: "water every … days",
    rotate_every: "move to the next slot every … days",
    observe_every: "look every … days",
    photograph_every: "photograph every … days",
    thin_day: "thin on day",
  },
  careHint:
    "0 means not at all. Days are counted from sowing, rhythms from the last time it was really done.",
  unevenRhythm: (slots: number, better: number | null) =>
    `With ${slots} slots to go round, this rhythm leaves some trays longer in a slot than others.${better === null ? "" : ` Every ${better === 1 ? "day" : `${better} days`} would be even.`}`,
  moves: (n: number, round: number) =>
    `Move ${n}; after ${round} all have stood everywhere. Each goes one slot on:`,
  move: (level: number, from: number, to: number) =>
    `level ${level}, slot ${from} → ${to}`,
  sowMeant: "Meant to be sown on",
  due: "Due now",
  nothing: "Nothing is due.",
  late: (n: number) => `${days(n)} late`,
  asked: (day: number) =>
    `fell on day ${day}, before the sowing was entered: was it done, and when?`,
  oneByOne: "Reading to take",
  sowToday: "They are sown today",
  sowOn: (date: string) => `They were sown on ${date}`,
  notDealt:
    "Deal the treatments at Place first: records belong to dealt trays.",
  notSown: "Sow every tray, each under its letter; then the days count.",
  sownOn: "Sown on",
  day: (n: number) => `Day ${n}`,
  earlier: "earlier day",
  later: "later day",
  tray: "tray",
  before: "before",
  missing: "missing",
  impossible: (name: string, least: number, most: string, value: string) =>
    `${name} lies between ${least} and ${most}; ${value} cannot be right.`,
  unusual: (value: string, before: string | null) =>
    `${value} is unusual${before === null ? "" : ` after ${before}`}. Is it right? Enter again takes it.`,
  soFar: (least: string, most: string) =>
    least === most ? `now ${least}` : `now ${least} to ${most}`,
  oneMore: "one more",
  times: (n: number) => `${n} of this day`,
  confirm: "yes, it is right",
  again: "no, enter again",
  note: "Note",
  noteFor: "for",
  wholeTrial: "the whole trial",
  addNote: "Add the note",
  notePlaceholder: "what you saw or did otherwise than planned",
  stale: (stored: string) =>
    `Somebody else entered ${stored} meanwhile. Press Enter again to put yours in its place.`,
  kept: "kept",
  keptWhy:
    "What others read of the solution, and what was read on other days, is kept from you until the key is open: it tells which tray is fed, and this trial is graded by eye. Whoever reads only the meters sees it.",
  notNumber: "not a number",
  hint: "Enter takes the value and goes on; . repeats the one above; - marks it missing; + reads once more on the same day",
  closed: "The key is open; records can no longer change.",
  field: (reading: string, code: string) => `${reading} of tray ${code}`,
};
