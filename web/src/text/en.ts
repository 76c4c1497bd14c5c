/** All words of the page, in one place so that they can be translated. */
import type { Schemas } from "../api/client";
import { guesses } from "./guesses";
import { lineUp } from "./line-up";
import { looks } from "./looks";
import { ownMeasure } from "./own-measure";
import { tend } from "./tend";
import { loggers, tracks } from "./tracks";
import { seal } from "./judge";
import { taste, tasting } from "./tasting";
import { ledger, weather } from "./ledger";
import { money, prices } from "./money";
import { moment, next, scorecard, sideBySide, why } from "./next";
import { aside, instruments, registers, waves, weigh } from "./weigh";

export const stationKeys = [
  "ask",
  "match",
  "place",
  "mix",
  "tend",
  "weigh",
  "judge",
  "tell",
] as const;
export type StationKey = (typeof stationKeys)[number];

export function isStation(key: string): key is StationKey {
  return (stationKeys as readonly string[]).includes(key);
}

const trays = (n: number) => (n === 1 ? "1 tray" : `${n} trays`);
const days = (n: number) => (n === 1 ? "1 day" : `${n} days`);

/** Changes of the plan, by what the history calls them. */
const changes = new Map([
  ["asked", "the change of the question"],
  ["matched", "the change of the sheet"],
  ["placed", "the change of the space"],
  ["placed by hand", "the change of the places"],
  ["measured the light", "the change of the light"],
  ["measured the start", "the change of the starting sizes"],
  ["described a site", "the change of the site"],
  ["set the care", "the change of the rhythms"],
  ["set the feed", "the change of the feed"],
  ["meant to sow", "the change of the sowing day"],
]);

export const text = {
  stations: {
    ask: "Ask",
    match: "Match",
    place: "Place",
    mix: "Mix",
    tend: "Tend",
    weigh: "Weigh",
    judge: "Judge",
    tell: "Tell",
  } satisfies Record<StationKey, string>,
  kept: {
    title: "Not taken",
    dialog: "Records on this device",
    waiting: "On this device, not sent yet",
    aside: "Set aside; the others went on",
    others: "Taken by somebody else",
    takenBy: (who: string) => `Taken by ${who}, and sent when they sign in.`,
    notThere:
      "The data file that is open now holds no such trial or unit. It is sent again later, in case the other one comes back.",
    handIn: (who: string) => `Hand it in as ${who}`,
    tryAgain: "Send it now",
    save: "Save to a file",
    file: (key: string) => `iron-twin-kept-${key.slice(0, 8)}`,
    foreign: "That was not this program's answer",
    foreignAnswer: (status: number) =>
      `Something between this device and the server answered ${status}. The record is kept and sent again.`,
    job: (job: string, date: string | null, skipped: string | null) =>
      `${job} ${skipped === null ? "done" : `left out (${skipped})`}${date === null ? "" : `, ${date}`}`,
    giving: (code: string | null, job: string, date: string | null) =>
      `${code === null ? "" : `${code}: `}what was given (${job})${date === null ? "" : `, ${date}`}`,
    note: (code: string | null, words: string) =>
      `${code === null ? "note" : `note on ${code}`}: ${words}`,
    lineUp: (judge: string | null, places: string[][]) =>
      `line-up${judge === null ? "" : ` by ${judge}`}: ${places.map((tied) => tied.join(" = ")).join(", ")}`,
    gone: (which: string, why: string) =>
      `${which}: ${why.replaceAll("_", " ")}`,
    writeOff: (code: string, reason: string | null) =>
      reason === null
        ? `${code}: not written off`
        : `${code}: written off, ${reason}`,
    guess: (name: string | null) =>
      `a guess${name === null ? "" : ` of ${name}`}`,
    photo: (code: string, view: string) => `photo of ${code} from ${view}`,
    pick: (code: string, net: number, grade: string, pieces: number | null) =>
      `${code}: picked ${net.toFixed(1)} g${grade ? ` ${grade}` : ""}${pieces === null ? "" : `, ${pieces} pieces`}`,
    weight: (code: string, gross: number, tare: number) =>
      `${code}: ${gross} g gross, ${tare} g tare`,
    reading: (
      code: string,
      reading: string,
      value: number | null,
      day: number | null,
    ) =>
      `${code}: ${reading} ${value ?? "missing"}${day === null ? "" : `, day ${day}`}`,
    confirm: "It is right",
    correct: "Correct it there",
    discard: "Throw away",
    discardSure: "Throw it away for good",
  },
  frame: {
    takeBack: (what: string) => `take back ${changes.get(what) ?? `“${what}”`}`,
    acted: (what: string) => changes.get(what) ?? what,
    trouble: "Something went wrong",
    notHere: "There is nothing here.",
    notShown: "This part of the page could not be loaded",
    notShownWhy:
      "Nothing you recorded is lost. If the program was just updated, or the server was away for a moment, loading the page again is enough.",
    loadAgain: "Load it again",
    backToToday: "Back to Today",
    noTrial: "No such trial",
    places: "Places",
    today: "Today",
    trials: "Trials",
    stores: "Stores",
    people: "People",
    line: "Stations of this trial",
    dueCount: (n: number) => `${n} due`,
    shortcuts: "Keys",
    close: "Close",
    saving: "saving …",
    nothingToSave: "nothing to save",
    saved: (clock: string) => `all saved ${clock}`,
    kept: (n: number) => `no answer: ${n} kept here, sent when it is back`,
    keptAside: (n: number) => `${n} kept here, not sent yet`,
    unkept: (n: number) =>
      `no answer, and this device cannot keep ${n === 1 ? "the record" : `${n} records`}: leave this page open`,
    whatWaits: "look at them",
    refusedLater: (n: number) =>
      `${n} record${n === 1 ? " was" : "s were"} not taken: look`,
    opened: (day: number, end: number, stage: string, date: string) =>
      `day ${day} of ${end}, ended ${day > end + 1 ? "late" : day >= end ? "as planned" : stage ? `at ${stage}` : "early"}, key opened ${date}`,
    dayOf: (day: number, end: number) =>
      day > end
        ? `day ${day}, planned to day ${end}, blind`
        : `day ${day} of ${end}, blind until all is weighed`,
    dealtNotSown: "dealt, not sown yet",
    planned: "being planned",
    marks: { quiet: "", open: "next", wrong: "needs mending" },
    keys: [
      ["Enter", "take the value and go on to the next tray"],
      [".", "repeat the value of the tray before"],
      ["-", "mark as missing"],
      ["+", "read once more on the same day, beside the value that stands"],
      ["↑ ↓", "on a dose of the recipe bench: a twentieth more or less"],
      ["Ctrl+Z", "take back the last record"],
      ["↑ ↓", "go up and down the grid"],
      ["Tab", "go to the next field"],
      ["?", "show or hide these keys"],
    ],
  },
  ledger,
  sideBySide,
  scorecard,
  next,
  why,
  moment,
  weather,
  money,
  prices,
  today: {
    title: "Today",
    heading: (date: string) => `${date}, along the shelves`,
    nothing: "Nothing is due today.",
    late: (n: number) => `due ${n === 1 ? "yesterday" : `${days(n)} ago`}`,
    dueToday: "due today",
    units: trays,
    start: "start",
    startAt: (station: string) => `at ${station}`,
    emptyTitle: "Plan your first trial",
    emptyText:
      "Set two or more trays side by side, change one thing, and let Iron Twin deal, remind, weigh and judge.",
    startTrial: "Start a trial",
    exampleText:
      "Or look at three invented trials first: two finished with their verdicts, one on day 5. They can be put away afterwards.",
    examples: "Show me the examples",
    moreEnded: (n: number) => `${n} more that ended`,
    stakes: "Trials",
  },
  farm: {
    title: "Your farm",
    name: "Its name",
    zone: "Its time zone",
    machine: (zone: string) =>
      zone ? `as this computer: ${zone}` : "as this computer",
    zoneWhy:
      "At midnight there a day of every trial begins; a record of eleven at night belongs to that day.",
    machineDiffers: (machine: string, farm: string) =>
      `The computer on which Iron Twin runs is set to ${machine}. Days are counted by ${farm}.`,
    deviceDiffers: (device: string, farm: string) =>
      `This device is set to ${device}; what you record here still falls on the day it is in ${farm}.`,
    asked: (zone: string) => `Does this farm stand in the time zone ${zone}?`,
    yes: "Yes, it does",
    another: "another zone",
    backups: "Backups",
    backupsWhy:
      "A backup is one whole file, made while the farm is in use and read again afterwards. Keep one on another disk now and then; it holds names and sealed keys, so not where others look.",
    backUp: "Back up now",
    nightly: "Nightly ones that are kept",
    none: "There is none yet. The first nightly one is made after three in the morning, or a minute after the next start.",
    made: (nightly: boolean, date: string, time: string) =>
      `${date}, ${time}, ${nightly ? "by night" : "by hand"}`,
    download: "take a copy",
    where: (folder: string, data: string) =>
      `They stand in ${folder}. To put one back, stop the program and run: iron-twin restore FILE --data ${data}`,
  },
  people: {
    title: "People",
    none: "Nobody signs in yet: this computer alone can reach Iron Twin, and whoever sits here is the owner. Add yourself as owner before others come in.",
    lead: "A recorder takes records and sees letters only; what each tray gets stays sealed for them until the key is opened.",
    signIn: "Sign in",
    signInWhy:
      "Records are kept under your name. The owner of this farm adds people; whoever forgot the passphrase is taken out and added anew.",
    signOut: "sign out",
    signedIn: (name: string, role: string) => `${name}, ${role}`,
    name: "Name",
    role: "Role",
    roles: {
      owner: "owner",
      recorder: "recorder",
      viewer: "viewer",
    } satisfies Record<Schemas["RoleSent"], string>,
    may: {
      owner: "plans, deals, opens keys, lets people in",
      recorder: "reads, weighs, notes and marks work done, blind",
      viewer: "looks on, blind",
    } satisfies Record<Schemas["RoleSent"], string>,
    passphrase: "Passphrase",
    newPassphrase: "Passphrase, at least 8 letters",
    add: "Let them in",
    takeOut: "take out",
    askHere: "Ask on this computer too who it is",
    network:
      "To let phones in, start with --listen and this computer's address, for instance: iron-twin serve --listen 192.168.1.20. Everybody then signs in.",
    blind:
      "What each treatment gets is sealed for you until the key is opened, so that nobody can lean on the scale.",
  },
  ahead: {
    title: "Ahead",
    nothing:
      "Nothing is planned yet. Deal a trial and say when you mean to sow it.",
    more: (n: number) => `${n} more day${n === 1 ? "" : "s"}`,
    less: "fewer days",
    file: "For your calendar (iCalendar file)",
    away: "Days away",
    to: "to",
    add: "Add days away",
    first: "from",
    last: "to",
    note: "where to",
    keep: "Keep it",
    notAway: "not after all",
    noClash: "Nothing falls into it.",
    moveTo: (date: string) => `move to ${date}`,
    handOver: "hand over",
    sheet: "Sheet for whoever looks after it",
  },
  handover: {
    today: "What is due today",
    trials: "By trial",
    scan: "A code leads to the page of its tray, where what is seen or done can be entered.",
    jugs: "Jugs: fill each code from the jug of its number; rinse can and hands between two.",
    title: "Hand over",
    heading: (first: string, last: string) =>
      `What to do from ${first} to ${last}`,
    lead: "Go by the letters on the trays. Treat all of them alike but for what the jugs' numbers say. Write down what you did, when, and anything odd.",
    columns: ["day", "trial", "what", "done", "note"],
    feed: "from the jugs mixed and lettered beforehand",
  },
  labels: {
    title: "Labels",
    paper: "Paper",
    papers: {
      a4: "A4 sheet",
      letter: "Letter sheet",
      roll: "Label roll, 62 x 29 mm",
    },
    back: "Back to Place",
    none: "Nothing is dealt yet, so there are no letters to print.",
    links: (base: string) =>
      `The codes lead to ${base}. Open this page under the address your phone uses before printing, or they lead nowhere.`,
    sown: "sown",
    cut: "cut",
  },
  unit: {
    title: (code: string) => `Tray ${code}`,
    slot: (n: number) => `slot ${n}`,
    notSown: "It is not sown yet.",
    all: "All trays of this trial",
  },
  trials: {
    title: "Trials",
    name: "Name of the new trial",
    placeholder: "crop and what you try, e.g. Kohlrabi, half or full feed",
    create: "Start a trial",
    bring: "or bring a plan from a file",
    notJson: "This file is no plan: it does not hold JSON.",
    list: "All trials",
    away: "Put away",
    putAway: (name: string) => `put away ${name}`,
    bringBack: (name: string) => `bring back ${name}`,
    putAwayShort: "put away",
    bringBackShort: "bring back",
    awayText: "These stand in no list of work. Nothing of them is lost.",
  },
  stores: {
    mmolHint: "or 1.6 mmol",
    hardnessHint: "or 18 French",
    title: "Stores",
    shelves: "Shelves",
    lead: (name: string) =>
      `${name}: what the other stations compute from. Generic entries carry no brand; copy one, or add your own from its label.`,
    own: "yours",
    generic: "generic",
    add: (one: string) => `Add a ${one}`,
    edit: "change",
    copy: "make it mine",
    remove: "take off",
    name: "name",
    source: "where the figures come from",
    sourceHint: "label, analysis of 3 May, own measurement",
    save: "Keep it",
    cancel: "Leave it",
    undo: "Take back the last change",
    undone: (what: string) => `Taken back: ${what}.`,
    exportCsv: "Download as CSV",
    importCsv: "Take in a CSV file",
    find: "find",
    nothing: (name: string) => `No ${name} of yours yet.`,
    figures: "figures",
    choose: "not said",
    calibrate: (name: string, days: number) =>
      `${name} is ${days} days past its calibration.`,
    caution:
      "Acids, bases and concentrates: gloves and goggles, locked away from children and pets, every bottle labelled. The label and its safety sheet come first.",
  },
  ask: {
    also: "Also recorded, beside what decides",
    judgedOn: "Days on which it is judged",
    judgedOf: (measure: string) => `${measure} is judged on day`,
    judgedLast: "the last figure",
    judgedOnWhy:
      "Several days are set apart by commas; of what decides, the last day does. Reading then falls due on these days.",
    marginUnit: (m: { kind: string; unit: string }) =>
      m.kind === "score"
        ? "of 1 pairing"
        : m.kind === "share"
          ? "points"
          : m.unit || "of its unit",
    name: "Trial",
    crop: "Crop",
    question: "Question",
    questionHint:
      "What do you want to know? E.g. is half the label dose enough for kohlrabi?",
    hypothesis: "What you expect, and why",
    goal: "The new treatment should",
    goals: {
      beat: "beat the control",
      match: "match it with less",
      best: "be the best of several",
      dose: "show which dose is enough",
      factors: "show what two things do together",
    },
    measure: "What decides",
    better: "Better is",
    betters: { higher: "more", lower: "less" },
    margin: "A difference counts from",
    marginKinds: { percent: "% of control", absolute: "" },
    end: "Harvest on day",
    unitsEach: "Trays of each treatment",
    marginMoney: "money a tray",
    marginWays: (ways: string) => `The margin, a tray: ${ways}.`,
    marginMore:
      "With the usual yield the margin is also said in per cent and in grams; with the price, in money.",
    money: (amount: string) => `${amount} in money`,
    usual: (kind: Schemas["Kind"], unit: string, crops: boolean) =>
      kind === "share"
        ? "Control shows, %"
        : kind === "days"
          ? "Control takes, days"
          : kind === "count"
            ? "Control shows, mean"
            : `A tray yields${crops ? " of each crop" : ""}${unit ? `, ${unit}` : ""}`,
    usualPlant: "A plant yields, g",
    outOf: "out of",
    byLevel: (fixture: string, units: string) =>
      `The ${units} under one ${fixture} are averaged. How far one ${fixture} differs from the next nobody knows before; it is taken to be as much as ${units} differ.`,
    lamps: (fixture: string, units: string) =>
      `This is for what differs under one lamp or pump. For the ${fixture} whole levels count, not ${units}: it sees far less.`,
    noForesight: (name: string) =>
      `What so many trays could see is worked out for weights, counts, shares and days; ${name} is compared by order.`,
    lacks: (what: string) =>
      `Say ${what}, and it is worked out what these trays could see.`,
    chanceOf: (asked: string, times: string, match: boolean) =>
      match
        ? `If it is truly as good, ${times} trials in 100 show that it gives up less than ${asked}.`
        : `A true difference of ${asked} would be found ${times} times in 100.`,
    neededOf: (units: number, asked: string) =>
      `${units} a side would find ${asked} eight times in ten.`,
    scatter: {
      tallies:
        "Taking units to scatter as chance alone makes them; real ones scatter more, so plan for more.",
      days: "From seasons played with days that differ as they usually do (common practice, no source).",
    },
    price: "Price of a kg",
    endStage: "or at the stage",
    endStageHint: "e.g. first true leaf",
    weighSamples: "Each plant is weighed by itself, not the tray as a whole",
    samples: "Plants read one by one in each tray",
    samplesNone: "each tray as a whole",
    samplesEach: (n: number) => `${n} plants or cuttings in each`,
    samplesWhy:
      "Plants of one tray share its solution and its place, so the tray is what is compared: more plants make a tray's figure steadier, only more trays make the answer surer.",
    cropsInside: "Crops that share each tray",
    cropsInsideHint:
      "one crop: leave empty; several: type each and press Enter",
    fewer: "one level fewer",
    more: "one level more",
    sealed:
      "The first record has sealed this plan. A change is kept beside the original, with its reason, and shown in the report.",
    reason: "Why does it change?",
    keepChange: "Keep the change",
    opened: "The key is open: the plan stands as it was.",
    changes: "Changed since it was sealed",
    change: (field: string, before: string, after: string) =>
      `${field}: ${before} → ${after}`,
    pictureTitle: "What these trays could see",
    seesPoints: (units: number, points: string) =>
      `${trays(units)} a side find a difference of ${points} percentage points eight times in ten.`,
    showsAlike: (units: number, percent: string) =>
      `${units} trays a side can show that no more than ${percent} % is given up, eight times in ten, where nothing is.`,
    sees: (units: number, percent: string) =>
      `${trays(units)} a side find a difference of ${percent} % eight times in ten.`,
    chance: (margin: string, power: string) =>
      `A true difference of ${margin} % would be found ${power} times in 100.`,
    needed: (n: number, margin: string) =>
      `${n} a side would find ${margin} % eight times in ten.`,
    neededMany: "More than 20,000 a side would be needed.",
    cautionsTitle: "Before you sow",
    offers: {
      slot: "Take the place along the level out of the comparison",
      light: "Take the light of each place out of the comparison",
      ratios: "Compare by how many times as much",
    },
    floor: (one: string) =>
      `Even the widest gap these trays can show would be dealt by chance 1 time in ${one}.`,
    absolute: (unit: string) =>
      `A margin in ${unit} is weighed against the control at the harvest; the picture shows 10 %.`,
    spread: (cv: number) =>
      `Taking trays of one treatment to differ by ${cv} % (common practice, until you have trials of your own).`,
    ownSpread: (cv: string, n: number, low: number, high: number) =>
      `Taking trays of one treatment to differ by ${cv} %, as they did in ${n === 1 ? "your finished trial" : `your ${n} finished trials`} of this crop (likely ${low.toFixed(1)} to ${high.toFixed(1)} %).`,
    axisUnits: "trays of each treatment",
    axisSees: "smallest difference seen, %",
    yourMargin: "what you asked",
    tooFew:
      "Two or more trays of each treatment are needed before anything can be seen.",
  },
  match: {
    sheetName: "What each treatment gets",
    one: (factor: string) =>
      `One difference: ${factor}. Whatever the trays show can be laid at its door.`,
    oneByName: (factor: string, hidden: string) =>
      `One difference by name: ${factor}. Behind the names they differ in more: ${hidden}.`,
    none: "Every treatment gets the same. Change the one thing you want to try.",
    crossed: (factors: string) =>
      `${factors} crossed: every combination is grown, so the trial can tell what each does, and whether one works differently with the other.`,
    several: (factors: string) =>
      `Several differences at once: ${factors}. Nobody could tell which one did it.`,
    condition: "Condition",
    control: "control",
    treatmentName: (n: number) => `Name of treatment ${n}`,
    forAll: "the same for all",
    split: "differ",
    merge: "same for all",
    add: "Add a treatment:",
    strengths: [
      ["half feed", 0.5],
      ["two thirds feed", 0.67],
      ["full feed", 1],
      ["double feed", 2],
    ] as [string, number][],
    other: "another",
    remove: (name: string) => `take out ${name}`,
    makeControl: "make this the control",
    sealed: "The first record has sealed the match sheet.",
    dropsDeal: "Changing the sheet drops the deal; deal again afterwards.",
    stepwise: (steps: string) =>
      `One step at a time: ${steps}. Each step can be told by itself.`,
    step: (name: string, against: string, factor: string) =>
      `${name} differs from ${against} in ${factor}`,
    notSaid: "not said",
    nothing: "nothing",
    doseOf: (role: Schemas["Role"], name: string) =>
      name === role
        ? role === "feed"
          ? "dose"
          : `${role} dose`
        : `dose of ${name}`,
    counts: (what: string) => `${what}, what it counts`,
    basesDiffer: "as said of each",
    basesOf: {
      of_label: () => "× the label",
      per_litre: () => "mL or g a litre",
      per_unit: (unit: string) => `mL or g a ${unit}`,
      per_site: () => "mL or g a plant",
      undiluted: () => "undiluted",
    } as Record<
      "of_label" | "per_litre" | "per_unit" | "per_site" | "undiluted",
      (unit: string) => string
    >,
    how: "how it is given",
    hows: {
      stirred: "stirred into the water",
      drenched: "drenched",
      sprayed: "sprayed",
      dipped: "dipped",
      dusted: "dusted",
      on_seed: "on the seed",
      injected: "injected",
    } satisfies Record<Schemas["How"], string>,
    mlAUnit: (unit: string) => `each ${unit} gets, mL`,
    when: "when",
    whichDays: "which days",
    rhythms: {
      each_feeding: "with each feeding",
      days: "on days",
      every: "every so many days",
      planting: "once at planting",
    },
    everyFrom: "3 from 2",
    noNumber: (typed: string) => `'${typed.trim()}' is not a number`,
    noDays: (typed: string) =>
      `'${typed.trim()}' names no day; days count from sowing, as in 4, 8`,
    alsoGive: {
      feed: "Another feed",
      additive: "Another additive",
    } satisfies Record<Schemas["Role"], string>,
    lineOf: (role: Schemas["Role"], place: number) =>
      (["", "second ", "third ", "fourth "][place] ?? `${place + 1}th `) + role,
    dose: "dose",
    more: "More conditions",
    fewer: "Fewer conditions",
    cross: "Cross in a second factor",
    crossWhat: "Grow every treatment also with another",
    crossWith: (now: string) =>
      now === "" ? "namely" : `namely, instead of ${now}`,
    crossDo: (n: number) => `Make it ${n} treatments`,
    crossNot: "leave it",
    controls: "What it can be all compared with",
    kinds: {
      plain_water: "plain water",
      feed_only: "the feed alone",
      usual_practice: "the label rate",
      usual_set_up: "the usual set-up",
    } satisfies Record<Schemas["ControlKind"], string>,
    shows: (shows: string, cannot: string) =>
      `it shows ${shows}. It cannot show ${cannot}.`,
    waiver: "No plain water, because",
    waiverHint: "e.g. lamps are compared, and all are fed alike",
    terms: "On what terms",
    basis: "Products are compared",
    bases: {
      label_rate: "each at the rate of its label",
      equal_nitrogen: "all at the same nitrogen",
      equal_ec: "all at the same EC",
      equal_cost: "all at the same cost a litre",
    } satisfies Record<Schemas["Basis"], string>,
    careRule: "They are cared for",
    cares: {
      identical: "all alike, whatever they seem to need",
      as_needed: "each as it needs; what it took is recorded",
    } satisfies Record<Schemas["CareRule"], string>,
    behind: {
      title: "Behind the names, from Stores",
      n: "nitrogen, mg/L",
      p: "phosphorus, mg/L",
      k: "potassium, mg/L",
      ca: "calcium, mg/L",
      mg: "magnesium, mg/L",
      urea: "of the nitrogen urea, %",
      ec: "EC at 25 °C, mS/cm",
      light: "light, mol/m² a day",
      price: "price a litre",
      unknown: "unknown",
    },
  },
  place: {
    kind: "Grow space",
    kinds: {
      rack: "rack with levels",
      buckets: "buckets in rows",
      bench: "bench with jars",
      sill: "window sills",
      sites: "sites outdoors",
    } satisfies Record<Schemas["SpaceKind"], string>,
    name: "Its name",
    levelsOf: {
      rack: "levels",
      buckets: "rows",
      bench: "rows",
      sill: "sills",
      sites: "sites",
    } satisfies Record<Schemas["SpaceKind"], string>,
    slotsOf: {
      rack: "slots a level",
      buckets: "buckets a row",
      bench: "jars a row",
      sill: "pots a sill",
      sites: "plots a site",
    } satisfies Record<Schemas["SpaceKind"], string>,
    namesOf: {
      rack: "Names and crops of the levels",
      buckets: "Names and crops of the rows",
      bench: "Names and crops of the rows",
      sill: "Names and crops of the sills",
      sites: "Names and crops of the sites",
    } satisfies Record<Schemas["SpaceKind"], string>,
    nameOf: (kind: Schemas["SpaceKind"], n: number) =>
      `${{ rack: "level", buckets: "row", bench: "row", sill: "sill", sites: "site" }[kind]} ${n}`,
    cropOf: (crop: string) => (crop ? `crop: ${crop}` : "crop"),
    cropsWhy:
      "A crop for each level, where not all hold the same: one crop a tray, and every treatment on each crop. Treatments are then compared inside each crop, by how many times as much they make.",
    rounds: "rounds",
    systems: "systems",
    views: "What is shown",
    units: (word: string) => word[0]?.toUpperCase() + word.slice(1),
    viewNames: { light: "Light", start: "Starting size" },
    startHow:
      "The size of what stands in each place before anything is done to it, all in the same unit: mm, g, or leaves. Enter goes on along the walk.",
    startGap: (gap: string) =>
      `In this deal the treatments' mean sizes lie ${gap} % apart.`,
    startUsual: (level: string, size: string) =>
      `A deal inside levels usually leaves ${level} %, one inside size classes ${size} %.`,
    sealedReason:
      "The first record has sealed the plan: why is this measured or changed now?",
    within: "Deal again until they lie no further apart than, %",
    withinHint: "leave empty for any deal",
    sizer: "Size of the grow space: drag, or arrow keys",
    sizerHow: "drag the corner, or use the arrow keys on it",
    sizing: (levels: number, slots: number) => `${levels} x ${slots}`,
    palette: "Treatments to place",
    paletteHow:
      "Drag a treatment to its place, or choose it and then tap places. Tapping again empties one; a tray dragged onto another changes places with it.",
    lightScale: "Measured as",
    umol: "PPFD, µmol/m²/s",
    lux: "lux",
    lightKind: "Kind of light",
    luxKinds: [
      "daylight",
      "white LED",
      "fluorescent",
      "high-pressure sodium",
      "metal halide",
    ],
    lightHow:
      "Hold the sensor at leaf height, level. Enter goes on to the next place of the walk.",
    evenness: (
      n: number,
      least: string,
      mean: string,
      most: string,
      ratio: string,
    ) =>
      `${n} places: ${least} to ${most}, mean ${mean} µmol/m²/s; darkest over mean ${ratio}`,
    noLight:
      "No place is measured yet. With a light map the ledger can tell whether one treatment got more light.",
    lightCaution: "Do not look into bright or UV-bearing lamps.",
    cards: "Site cards",
    cardsWhy:
      "What each site is like. Treatments are compared within a site; the cards say what the result does not cover.",
    card: {
      aspect: "Faces",
      shade: "Shade, and when",
      before: "Grown or sprayed before",
      grows_now: "Grows there now",
      damage: "Damage there already",
    } satisfies Record<Exclude<keyof Schemas["SiteCard"], "level">, string>,
    sprayCaution:
      "Sprays: the label is the law. Protective gear, no wind, no bystanders; mind re-entry and harvest intervals, and your local code.",
    fixture: (factor: string) =>
      `${factor}: set for a whole level at once, so levels are what it was dealt to`,
    oneFixture: "one lamp or pump",
    deal: "Deal the treatments",
    again: "Deal again",
    level: (n: number) => `level ${n}`,
    block: (n: number) => `block ${n}`,
    edge: "edge",
    empty: "empty",
    dealt: "The deal",
    design: "How they are dealt",
    designs: {
      blocks: "each level holds every treatment",
      completely_randomised: "freely over all places",
      pairs: "in pairs of neighbouring slots",
      latin_square: "once on each level and once in each column",
      split_plot: "a lamp or pump serves a whole level, the rest tray by tray",
      fixtures: "whole levels: one lamp, pump or reservoir for each",
      swap_over: "systems swap treatments each round",
      by_size: "inside classes of alike starting size",
      by_hand: "not dealt: I choose the places",
    } satisfies Record<Schemas["RackDesign"], string>,
    ownNumbers: "Not as many trays of each",
    numbers: "Trays of each treatment",
    numbersWhy:
      "Eight trays tell most as four and four. Where one treatment is scarce, more of the other still helps, though less and less: six and two see about as much as three and three.",
    equalNumbers: "As many of each as fit",
    designWhy: {
      blocks:
        "Randomised complete blocks: what a level is like cannot favour a treatment.",
      completely_randomised:
        "Completely randomised: right where levels and places are alike; also where the trays do not divide evenly over the levels.",
      pairs:
        "Matched pairs: neighbours are compared with each other. Of more than two treatments every two meet equally often, and each pair leaves the others out in turn.",
      latin_square:
        "A Latin square: takes out level and column at once. It needs as many slots and levels as treatments.",
      split_plot:
        "A split plot: one factor is set for a whole level, the other tray by tray. For the first it is levels that count, not trays: give each setting two levels or more.",
      fixtures:
        "Whole levels are dealt, and a level counts as one, however many trays stand on it: what one lamp, pump or reservoir does would otherwise look like many results that agree. Give each treatment two levels or more.",
      swap_over:
        "A swap-over: the same systems run again, and each takes the other treatment. What a system is like cannot favour one; scrub it between rounds, so that nothing carries over.",
      by_size:
        "Classes of alike starting size: each holds every treatment once, wherever its members stand. Type the sizes first, under Starting size.",
      by_hand:
        "The ledger says at once what is wrong with the places, and counts it as a serious finding that chance did not choose them.",
    } satisfies Record<Schemas["RackDesign"], string>,
    how: {
      blocks: "at random within each level",
      completely_randomised: "at random over all places",
      pairs: "at random within each pair",
      latin_square: "a Latin square drawn at random",
      split_plot:
        "lamps or pumps at random over the levels, the rest at random within each",
      fixtures: "whole levels at random",
      swap_over:
        "which half of the systems begins with which, at random for each pair of rounds",
      by_size: "at random within each size class",
      by_hand: "placed by hand; only the letters are shuffled",
    } satisfies Record<Schemas["RackDesign"], string>,
    reach: "How far it reaches",
    reachOf: (factor: string, fixture: string, asked: boolean) =>
      fixture === "reservoir"
        ? `What differs (${factor}) comes with the water${asked ? ". Who drinks from one reservoir?" : ":"}`
        : `What differs (${factor}) comes from a ${fixture}${asked ? ". How far does one reach?" : ":"}`,
    reachPlace: (fixture: string) =>
      fixture === "reservoir"
        ? "each tray holds its own"
        : `each tray has its own ${fixture}`,
    reachLevel: (fixture: string) => `one ${fixture} serves a whole level`,
    reachWhy: (fixture: string) =>
      `Trays under one ${fixture} share whatever it does: together they count as one, and whole levels are then dealt.`,
    ways: (n: string) => `one of ${n} ways`,
    labels: "Labels to print",
    seal: "Key sealed",
    sealWhy:
      "This fingerprint of the key and a secret number was fixed when it was dealt. When the key is opened, anybody can check that it was not changed.",
    notDealt: {
      blocks:
        "Nothing is dealt yet. The deal puts every treatment on every level, at random, and gives each tray a letter. Who gets what stays sealed until the harvest is weighed.",
      completely_randomised:
        "Nothing is dealt yet. The deal spreads the treatments over all places at random and gives each tray a letter. Who gets what stays sealed until the harvest is weighed.",
      pairs:
        "Nothing is dealt yet. The deal says at random which two treatments meet in a pair, and who of them stands where, and gives each tray a letter. Who gets what stays sealed until the harvest is weighed.",
      latin_square:
        "Nothing is dealt yet. The deal puts every treatment once on each level and once in each column, at random, and gives each tray a letter. Who gets what stays sealed until the harvest is weighed.",
      split_plot:
        "Nothing is dealt yet. The deal gives each level its lamp or pump at random, then deals the other factor within the level, and gives each tray a letter.",
      fixtures:
        "Nothing is dealt yet. The deal gives each level as a whole to a treatment, at random, and each tray a letter. Who gets what stays sealed until the harvest is weighed.",
      swap_over:
        "Nothing is dealt yet. The deal says which systems begin with which treatment; in every second round they change. A system has another letter in each round, so that the letters do not tell.",
      by_size:
        "Nothing is dealt yet. The deal gives every treatment one tray of each size class, at random, and each tray a letter.",
      by_hand:
        "Nothing is placed yet. Put at least two of each treatment; mixed along the rows, not all on one side.",
    } satisfies Record<Schemas["RackDesign"], string>,
    key: "Key",
    seed: "seed",
    nonce: "secret number",
    verified: "the opened key is the one that was sealed",
    broken: "the opened key is not the one that was sealed",
    sown: "sealed since the first record",
    edges:
      "Edge slots are warmer, drier and darker; how the treatments share them is told when the key is opened.",
    stays: (n: number, units: string) =>
      `${n} slot${n === 1 ? "" : "s"} a level stay${n === 1 ? "s" : ""} empty, so that all treatments have the same number of ${units}.`,
  },
  mix: {
    label: "On the label",
    forms: { liquid: "mL per litre", powder: "g per litre" },
    dose: "Label dose",
    perUnit: "Solution for each tray, mL",
    spare: "Spare, %",
    water: "water only",
    into: (volume: string) => `into ${volume} L of water`,
    perLitre: (value: string, unit: string) => `${value} ${unit} per litre`,
    beside: (
      name: string,
      each: string | null,
      all: string | null,
      unit: string,
    ) =>
      each === null
        ? `${name}: how much each gets is not said at Match`
        : `${name}: ${each} ${unit} each, ${all ?? ""} ${unit} for all`,
    besideInto: (litres: string) => `in ${litres} L of water of its own`,
    pourBeside: (how: string, what: string, dose: string, when: string) =>
      `and ${how}: ${what}, ${dose}, ${when}`,
    gallons: (teaspoons: string, us: string, imperial: string) =>
      `a US gallon ${teaspoons} tsp or ${us} mL, an imperial gallon ${imperial} mL`,
    ecScales: {
      ms_per_cm: "mS/cm",
      "500": "ppm, 500",
      "640": "ppm, 640",
      "700": "ppm, 700",
    } satisfies Record<Schemas["EcScale"], string>,
    ecOn: "EC, as shown",
    ecScale: "in",
    parts: {
      tanks: "Tanks",
      recipe: "Recipe bench",
      filling: "Filling and order",
      water: "pH of the water",
      topup: "Top-up",
      uptake: "Uptake",
    },
    partsNav: "Parts of Mix",
    unlike: (elements: string) => `Unlike the control: ${elements}`,
    cost: (cost: string) => `costs ${cost}`,
    target: (name: string) =>
      `The pale band is the target profile ${name}, 20 % either way; it is for full strength. The tick is the control.`,
    temperature: "°C",
    batch: "Batch",
    wentIn: "As weighed",
    wentInHint:
      "What really went in, and the lot on its label. Left alone, the figures above are taken.",
    measuredOf: (name: string, unit: string) => `${name}, ${unit}`,
    lot: "lot",
    gapWhy: "What was it? Recorded with the mix:",
    gapReasons: {
      scale: "the scale",
      water: "the water",
      probe: "the probe",
      label: "the label",
      unknown: "not found",
    } satisfies Record<Schemas["GapWhy"], string>,
    gapNote: "In your own words, if you like",
    because: (why: string) => `, gap: ${why}`,
    ofRecipe: (percent: string) => `${percent} % of the recipe`,
    ofLabel: (percent: string) => `${percent} % of the label dose`,
    computed: (ec: string) => ` (computed ${ec})`,
    phBottle: "Bottle",
    phProducts: {
      nitric: "nitric acid",
      phosphoric: "phosphoric acid",
      sulfuric: "sulfuric acid",
      citric: "citric acid",
      potassium_hydroxide: "potassium hydroxide",
      potassium_carbonate: "potassium carbonate",
    } satisfies Record<Schemas["PhProduct"], string>,
    phPercent: "Strength, % by mass",
    phDensity: "Density, kg/L",
    phTarget: "pH wanted",
    phNoWater: "Name the water at Match, and its pH and alkalinity in Stores.",
    phSaid: (volume: string, water: string, perLitre: string) =>
      `for ${volume} L of ${water} (${perLitre} mL per litre), before the feed goes in.`,
    phBrings: (amount: string, element: string) =>
      `It brings ${amount} mg/L of ${element}.`,
    phCount: "Count it in every tank",
    phCountThis: "Count this instead",
    phCounted: (name: string, percent: string, ph: string) =>
      `Counted in every tank: ${name}, ${percent} %, to pH ${ph}.`,
    phTakeOut: "use the water as it comes",
    firstToPh: (ph: string, perLitre: string) =>
      `first, into the water, to pH ${ph}: ${perLitre} mL per litre`,
    phLeaves: (alkalinity: string) =>
      `It leaves ${alkalinity} mg/L of alkalinity, as CaCO3.`,
    phCaution:
      "Gloves and goggles. Acid into water, never water into acid. Give half, stir, measure, then the rest: feeds move the pH as well. What stands on the bottle and its safety sheet comes first; lock it away from children.",
    typedDose: "not in Stores, by the label dose typed above",
    holds: "What the solution holds, mg/L",
    ppm: (values: string) => `${values} ppm on the 500 / 640 / 700 scale`,
    unknown: (names: string) =>
      `What it holds is not known: ${names}. Put the label into Stores and it is worked out.`,
    measured: "Measured after mixing",
    record: "Record this mix",
    unlikely: "Yes, record it",
    lastMix: (day: number, volume: string) => `day ${day}: ${volume} L`,
    pourTitle: "Pouring sheet",
    pourWhy:
      "It says which trays get which solution, and so tells the key. Best let one person pour and another read and weigh. Opening it is written down.",
    pourOpen: "Open the pouring sheet",
    pourClose: "Put it away",
    poured: "Solutions are poured",
    applied: "The rest is sprayed, drenched or dusted",
    pour: (ml: string) => `${ml} mL each to`,
    notToday: "not today:",
    materials: "What the whole trial takes, spare included",
    materialsCost: (total: string, open: number) =>
      `${total} in all${open > 0 ? `, without ${open} that ${open === 1 ? "has" : "have"} no price in Stores` : ""}.`,
    materialsNoPrice: "Prices stand in Stores; with them the costs follow.",
    needsDeal: "Deal the treatments at Place first.",
    caution:
      "Gloves and goggles with concentrates and pH products. Concentrate into water, acid into water, never the other way round; never bleach with acid, vinegar or ammonia. Label every jug. The feed's own label and safety sheet come first. Keep feed away from children and pets.",
  },
  uptake: {
    why: "What went from each tray between its first filling and the last level read: what the plants took, and what evaporated. A tray without plants beside the others shows how much of it is evaporation.",
    notMeasured:
      "This trial does not ask for levels. Name “water used” or “harvest per litre of water” among the further measures, and the record grid asks for what is filled in, added and left.",
    toAsk: "Go to Ask",
    nothing:
      "Nothing is filled in or read yet. The record grid asks for it: fresh solution filled in, what is left before pouring, water, solution and feed added.",
    toTend: "Go to Tend",
    water: "Water used",
    feed: "Feed gone",
    perLitre: "Cut for each litre",
    of: (given: string, from: number, to: number) =>
      `of ${given} L given, day ${from} to ${to}`,
    nitrogen: (mg: string) => `about ${mg} mg N`,
    untouched: (ec: string) => `untouched its EC would be ${ec}`,
    key: "The pale bar is all that was given, the strong one what of it is gone. The feed is reckoned from level and EC as if every nutrient went alike, which EC cannot tell.",
    blind:
      "The pale bar is all that was given, the strong one what of it is gone. Feed and harvest follow when the key is opened: what went of the feed would tell which trays are fed.",
  },
  bench: {
    start: "Start from",
    startHint: "a recipe or feed",
    recipes: "Recipes",
    feeds: "Feeds",
    water: "Water",
    pure: "nothing in it",
    target: "Aim at",
    noTarget: "no target",
    volume: "Litres",
    temperature: "At °C",
    columns: "Ingredients",
    add: "Put on the bench",
    addHint: "feed or salt",
    label: "type in a label",
    aim: (target: string) => `Find the doses for ${target}`,
    aimWhy: "The doses of these ingredients that come closest, none below zero",
    back: "put back what stood here",
    brings: (name: string, list: string) =>
      `${name} brings, in mg/L: ${list || "nothing that counts"}`,
    doseOf: (name: string) => `Dose of ${name}`,
    remove: "take off",
    removeOf: (name: string) => `Take ${name} off`,
    ownSpoons: (n: string) => `or ${n} of your spoons`,
    drops: (n: string) => `or ${n} drops of 0.05 mL`,
    tablespoons: (n: string) => `or ${n} tbsp`,
    teaspoonsIn: (n: string) => `or ${n} tsp`,
    empty:
      "Put a feed or a salt on the bench, or start from a recipe. The tank fills while you type.",
    tank: "What the tank holds, mg/L",
    fromWater: (mg: string) => `${mg} of it from the water`,
    bandKey:
      "mg/L; the pale band is the target, 20 % either way; the lighter start of a bar comes from the water.",
    noBandKey: "mg/L; the lighter start of a bar comes from the water.",
    atTemperature: (t: string, own: string, metered: string) =>
      `at ${t} °C it conducts ${own}; a meter that corrects 2 % a degree shows ${metered}`,
    nToK: "N : K",
    kCaMg: "K : Ca : Mg",
    forms: "N as nitrate, ammonium, urea",
    formsAre: (no3: string, nh4: string, urea: string) =>
      `${no3}, ${nh4}, ${urea} %`,
    osmotic: "osmotic pressure",
    ionic: "ionic strength",
    balance: "charge balance",
    cost: "cost of a litre",
    mmol: "in mmol/L",
    reached: "Every element of the target is met.",
    missed: (got: string, wanted: string) =>
      `${got} instead of ${wanted} mg/L:`,
    name: "Name of the recipe",
    keep: "Keep as recipe",
    keepAgain: "Keep the change",
    kept: "Kept in Stores",
    give: (names: string) => `Feed the trial with it: ${names}`,
    given: "The trial is fed with it",
    takeBack: (feed: string) => `take that back, feed ${feed} again`,
    sealed: "The plan of this trial is sealed; the recipe is for the next one.",
    stock: "Stock concentrates",
    stockWhy:
      "Calcium falls out with sulfate and phosphate, so they stand in two tanks and meet only in the water.",
    times: "Times as strong",
    stockLitres: "Litres of each",
    printLabels: "Print the shelf labels",
    most: (times: string) =>
      `Up to ${times} times as strong stays well dissolved at 20 °C.`,
    changed: (name: string) => `changed from ${name}`,
    strength: (name: string, times: string) =>
      `${name}${name ? ", " : ""}${times} times`,
    perLitre: (ml: string, tanks: string, times: string) =>
      `${ml} mL ${tanks.includes("and") ? `each of ${tanks}` : ""} in a litre of water (injector 1 : ${times}), one after the other, stirring between`,
    fillUp: (litres: string) =>
      `In this order into two thirds of the water, each dissolved before the next; then fill up to ${litres} L.`,
    fullness: (percent: string, what: string | null) =>
      what === null
        ? `the liquids fill ${percent} % of the tank`
        : `${percent} % of what stays dissolved (${what})`,
    labelCaution: (date: string) =>
      `Made ${date}. Never mix A and B undiluted. Concentrate into water. Not for drinking; keep from children and pets, dark and cool. The safety sheets of its salts come first.`,
    caution:
      "Powders: damp them, dust mask. Concentrates: gloves and goggles; concentrate into water, never A and B together undiluted. Keep nitrates dry, away from heat and anything that burns. Label every bottle. Labels, safety sheets and local rules come first.",
  },
  filling: {
    vessel: "Largest vessel, L",
    none: "Every tank holds plain water: nothing to weigh.",
    batches: (n: number, litres: string) =>
      n === 1
        ? `One batch of ${litres}`
        : `${n} batches of ${litres}, each shared over every tray`,
    into: (of: string, percent: string) =>
      `${of} at ${percent} % of its dose, for all who get it:`,
    take: (litres: string) => `${litres} of the batch`,
    water: (litres: string) => `+ ${litres} water`,
    asIs: "as it is",
    each: (ml: string) => `${ml} mL to each tray`,
    plain: (litres: string) => `Plain water: ${litres}.`,
    firstToPh: (ph: string, perLitre: string, name: string) =>
      `Bring all the water to pH ${ph} first, that for thinning and plain water too: ${perLitre} mL of ${name} in each litre.`,
    ways: {
      shared: "each batch shared over all",
      by_treatment: "a tank weighed for each treatment",
      unit_by_unit: "weighed tray by tray",
    } satisfies Record<Schemas["FillingWay"], string>,
    weighings: "weighings",
    between: "two treatments part by",
    against: "dose against water is off by",
    chance: "and by chance, if each errs",
    error: (percent: string) => `If one weighing is ${percent} % off`,
    sharedSaid:
      "A batch that is off is off for every treatment alike: the comparison stays fair. A tank weighed for each treatment puts the whole slip on that treatment, and it looks like an effect.",
    orderTitle: "In this order, with shared tools",
    orderWhy:
      "Control first, then from the mildest to what clings or lives longest. For jug, sprayer, blade and stirring rod.",
    rinses: {
      next_solution:
        "shake out, a little of the next solution through it, throw that away",
      water: "rinse three times with clean water",
      soap: "hot water and washing-up liquid, then clean water",
      bleach:
        "bleach as its label says, by itself: never with acid, vinegar, ammonia or feed",
      flush: "flush with clean water until nothing is left",
    } satisfies Record<Schemas["Rinse"], string>,
    caution:
      "Bleach with acid, vinegar or ammonia gives off poisonous gas: flush with water before and after it, fresh air, gloves and goggles. Sprays: the label is the law; mind wind, bystanders and re-entry. Leftovers and rinse water by label and local rule, not into drains or streams.",
  },
  topup: {
    why: "From the level and EC now to those wanted. EC cannot tell one nutrient from another: after some top-ups a fresh solution is the only sure one.",
    treatment: "Tank of",
    start: "Litres when mixed",
    now: "Litres now",
    nowEc: "EC now, mS/cm",
    wanted: "Litres wanted",
    wantedEc: "EC wanted, mS/cm",
    drain: (litres: string) => `Take out ${litres} L first.`,
    water: (litres: string) => `${litres} L of water`,
    nothing: "Nothing to add.",
    share: (now: string, wanted: string) =>
      `It stands at ${now} % of the recipe and comes to ${wanted} %.`,
    used: (litres: string, feed: string) =>
      `Since it was mixed ${litres} L of water are gone, and ${feed} % of the feed that was in it.`,
    work: "Work it out",
  },
  tend,
  tracks,
  loggers,
  lineUp,
  looks,
  ownMeasure,
  guesses,
  registers,
  seal,
  taste,
  tasting,
  weigh,
  waves,
  aside,
  instruments,
  judge: {
    spent: (amount: string, unit: string, name: string, tray: string) =>
      `${amount} ${unit} of ${name} a ${tray} more than the control`,
    perEffect: (amount: string, unit: string, measure: string) =>
      `, ${amount} ${unit} for each ${measure === "g" ? "gram" : measure} gained`,
    costPerEffect: (cost: string) => `, which costs ${cost}`,
    sealedTitle: (n: number, all: number) =>
      n < all
        ? `Sealed: ${n} of ${all} trays are weighed.`
        : "Everything is weighed. The key can be opened.",
    sealedText:
      "Until the key is opened nobody can tell which tray had what, so nobody can lean on the scale. Opening it ends the records of this trial.",
    early: "Opening now is an early look and will stand in the ledger.",
    open: "Open the key",
    openAnyway: "Open it all the same",
    decides: "decides",
    enough: "How much is enough?",
    against: "compared with",
    agree: "Do the crops agree?",
    cropsWhy: (n: number) =>
      `Each of the ${n} verdicts is held a little stricter than a single one would be, so that all of them together hold as often as one.`,
    noAgreement:
      "Whether the crops agree is worked out for weights and heights of units dealt one by one.",
    cropShown: (crop: string) => `Each tray, ${crop}:`,
    later: "added later",
    addedWhy: (name: string) =>
      `${name} was added after the first record: it may raise a question, and settles none.`,
    addedMidway: "added later: it may raise a question, and settles none",
    onDay: (name: string, day: number | null) =>
      day === null ? name : `${name} on day ${day}`,
    cropByCrop: "Crop by crop",
    cropByCropWhy:
      "The verdict is on all crops together, inside each of them. On a single crop so few tell little: this is what was seen, not what was shown.",
    eachTray: "each tray, beside its block mates",
    eachByLevel: "each tray, level by level",
    eachTrayPlain: "each tray",
    moreThan: (control: string) => `more than ${control} by`,
    margin: (given: string) => `${given} margin`,
    luck: "Could it be luck?",
    luckText: (treatment: string, ways: string, p: string) =>
      `Dealing ${treatment} and the control anew, ${ways} ways, gives a gap this wide in ${p} of 100.`,
    luckNone: "No level holds both, so there is nothing to deal anew.",
    model: (p: string) => `The model alone says ${p} of 100.`,
    whole: (p: string) => `Dealing all treatments anew together, ${p} of 100.`,
    ownSpread:
      "One of the two scatters otherwise than the rest; the limits allow for it.",
    heldAgainstPlaces:
      "A difference is held against how much the treatments differ from place to place, not only from one tray to the next.",
    spread: "How much trays differ",
    spreadText: (cv: string, sd: string, unit: string) =>
      `Trays of one treatment differ by about ${sd} ${unit} (${cv} %).`,
    dispersionText: (times: string) =>
      `Trays of one treatment scatter ${times} times as much as chance alone would make them.`,
    spreadUnknown:
      "Nothing shows how far two of one treatment would differ: there are no two of one that count.",
    spreadNone:
      "For this measure trays are compared by their order or their days, not by a spread.",
    next: "Next",
    nextSettle: (units: number, margin: string) =>
      `${units} trays a side would settle a ${margin} difference eight times in ten.`,
    again: (control: string, told: readonly (readonly [string, string])[]) =>
      `Run again with as many, ahead of ${control} in about ${told.map(([name, of]) => `${of} of 100 (${name})`).join(", ")}, as far as this trial tells.`,
    nextRepeat: "Repeat it in another week, to see whether it holds.",
    best: (names: string) => `May be the best: ${names}.`,
    numbers: "numbers",
    picture: "picture",
    svg: "SVG",
    csv: "CSV",
    same: "The same figures come from the exported file:",
    columns: ["treatment", "trays", "mean", "sd"],
    pictures: {
      growth: "Day by day",
      steps: "Who had it by which day",
      doses: "What each dose gave",
    },
    enoughAt: "enough",
    diffColumns: (percent: string) => [
      "against the control",
      "difference",
      "%",
      `low, ${percent} %`,
      `high, ${percent} %`,
      "p (all together)",
      "p re-dealt",
      "df",
      "ahead again",
    ],
    ahead: (of: string) => `${of} of 100`,
    points: "points",
    pairings: "of 100 pairings",
    factors: (names: string) => `${names}, crossed`,
    effectColumns: [
      "what",
      "against",
      "difference",
      "very likely",
      "luck, of 100 deals",
    ],
    overAll: (what: string) => `${what}, over all`,
    range: (low: string, high: string) => `${low} to ${high}`,
    nothing: "Nothing is weighed yet.",
    toWeigh: "Go to Weigh",
    dot: (code: string, value: string) => `tray ${code}: ${value}`,
  },
  tell: {
    decided: "What was decided",
    onDays: (name: string, days: string) => `${name} on day ${days}`,
    print: "Print",
    csv: "Download CSV",
    planFile: "Download how it is analysed",
    trialPlan: "Download the trial's plan",
    nextRound: "plan the next round",
    plan: "The plan",
    question: "Question",
    expected: "Expected",
    decides: "Decides",
    counts: (margin: string) => `a difference of ${margin} or more counts`,
    layout: "The layout",
    matched: "What each treatment got",
    care: "Care and records",
    done: (label: string, all: number[]) =>
      `${label}: ${all.length === 1 ? `on day ${all[0] ?? 0}` : `${all.length} times, on days ${all.join(", ")}`}`,
    careText: (readings: number, notes: number, weighed: number, all: number) =>
      `${readings} readings, ${notes} note${notes === 1 ? "" : "s"}; ${weighed} of ${all} trays weighed.`,
    results: "Results",
    fairness: "How far it can be trusted",
    verdicts: "What was learned",
    seal: "The sealed key",
    notYet:
      "The verdict follows when the key is opened. Until then this page is the plan.",
    made: (date: string) => `Iron Twin, ${date}`,
    changes: "Changed after sealing",
    none: "none",
    codes: "Tray letters",
    everyTray: (measure: string, unit: string) =>
      `Every tray: letter and ${measure}, ${unit}`,
    solutions: "The solutions",
    solutionColumns: [
      "treatment",
      "mixed on",
      "water, L",
      "what went in",
      "EC, mS/cm",
      "EC computed",
      "pH",
      "gap laid to",
    ],
  },
} as const;
