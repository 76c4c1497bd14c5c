/** Words of the fairness ledger and of the weather, a part of the catalogue in `en.ts`. */

export const ledger = {
  title: "Fairness ledger",
  sum: (open: number, sound: number) =>
    `${open === 0 ? "Nothing stands open" : open === 1 ? "One finding stands open" : `${open} findings stand open`}; ${sound} found sound.`,
  severity: { minor: "minor", serious: "serious", fatal: "no verdict" },
  sound: "Looked at and found sound",
  waits: "Still to be looked at",
  goTo: (station: string) => `mend it at ${station}`,
  see: (station: string) => `see it at ${station}`,
  answer: "answer",
  answerFor: (title: string) => `Your answer to “${title}”`,
  to: (what: string, title: string) => `${what} “${title}”`,
  answered: "Answer",
  answerWhy:
    "It stands beside the finding, here and on the report; the finding stays.",
  change: "change the answer",
  keep: "Keep it",
  leave: "Leave it",
};

export const weather = {
  title: "Weather",
  why: "Rain and the day's lowest and highest temperature, from your own gauge or a station nearby. Rain on the day of an application or the day after is told by the ledger.",
  day: "Day",
  rain: "Rain, mm",
  low: "Lowest, °C",
  high: "Highest, °C",
  enter: "Enter the weather",
  columns: ["day", "rain, mm", "lowest, °C", "highest, °C", "by"],
  none: "Nothing is on record yet.",
};
