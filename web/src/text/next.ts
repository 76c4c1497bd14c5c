/** Words of measures side by side, the scorecard, decisions and the next trial, a part of the catalogue in `en.ts`. */

export const sideBySide = {
  title: "All measures",
  measure: "measure",
  against: (name: string) => `against ${name}`,
  unit: {
    "%": "%",
    points: "points",
    days: "days",
    pairings: "of 100 pairings",
  } as Record<string, string>,
  verdicts: {
    better_by_margin: "better",
    better: "better, maybe little",
    same: "the same",
    good_enough: "good enough",
    not_good_enough: "falls short",
    worse: "worse, maybe little",
    worse_by_margin: "worse",
    cannot_tell: "can't tell",
  },
  interval: (
    treatment: string,
    low: string,
    high: string,
    unit: string,
    verdict: string,
  ) => `${treatment}: between ${low} and ${high} ${unit}: ${verdict}`,
  open: "no limits",
  why: "Each line has a scale of its own; right of the middle is more. Further measures are held stricter, so that many of them together claim no more by luck than one.",
  luck: (percent: string) =>
    `Were they not, chance alone would make at least one seem to differ in ${percent} of 100 trials.`,
  expected: "What you expected:",
  ofIt: "Sentence in full",
};

export const scorecard = {
  title: "Scorecard",
  why: "Which treatment is best for you depends on what counts, and for how much. Say how much it matters to go from the worst of the treatments to the best, the most important thing 100.",
  proposed:
    "Proposed from what was measured. It is kept once you change something.",
  settings: "Setting",
  counts: "what counts",
  swing: (name: string, setting: string) =>
    `How much ${name} matters (${setting})`,
  share: (percent: string) => `${percent} %`,
  worth: "points of 100",
  wins: "of 100 draws won",
  add: "Add what counts",
  own: "something of your own",
  ownName: "What it is",
  better: { higher: "more is better", lower: "less is better" },
  scoreOf: (criterion: string, treatment: string) =>
    `${criterion} of ${treatment}, 0 to 10`,
  remove: (name: string) => `Leave out ${name}`,
  out: "Out of the question",
  outWhy: ["not certified", "smells", "needs power", "not to be had"],
  outTreatment: "Treatment",
  outReason: "Why",
  outOn: "Since or found out on",
  outProof: "What shows it",
  outAdd: "Rule it out",
  outTake: (name: string) => `Let ${name} back in`,
  everywhere: "in every setting",
  outIn: (setting: string | null) => (setting === null ? "" : ` (${setting})`),
  none: "–",
};

export const next = {
  title: "What now?",
  advice: "The figures say:",
  decides: {
    adopt: "Adopt",
    reject: "Reject",
    repeat: "Repeat",
    further: "Test further",
  },
  advised: (decides: string, treatment: string | null, count: string | null) =>
    `${decides}${treatment === null ? "" : ` ${treatment}`}${count === null ? "" : ` with ${count} of each`}.`,
  treatment: "Which treatment",
  units: "Trays of each treatment",
  reason: "Why, in a few words",
  keep: "Keep this decision",
  kept: "Kept.",
  stands: "Decided",
  earlier: "Before that",
  by: (date: string, who: string) => `${date}, ${who}`,
  because: (reason: string) => `: ${reason}`,
  suggested: "Trials that could follow",
  size: (treatments: number, units: number) =>
    `${treatments} treatments, ${units} tray${units === 1 ? "" : "s"} of each`,
  costs: (money: string) => `about ${money}, work not counted`,
  plan: "Plan it",
  before: (crop: string) => `Decided before on ${crop}`,
};

export const why = {
  title: "Why?",
  thrived: (thrived: string, lagged: string) =>
    `Ahead: ${thrived}. Behind: ${lagged}. What the first share and the others lack may be the reason, and may not be: conjectures, none of them proved.`,
  for: "For it",
  against: "Against it",
  none: "Nothing on sheet, composition or record parts them.",
};

export const moment = {
  title: "The key is open",
  why: "First the letters, from best to worst by what was recorded. Then what they had.",
  guessed: (names: string) => `guessed by ${names}`,
  show: "Show what they had",
  go: "On to the verdict",
  again: "See the letters again",
  none: "nothing recorded",
  better: (guess: string, names: string) => `${names}: ${guess}`,
};
