/** Words of money, a part of the catalogue in `en.ts`. */

export const money = {
  title: "Money",
  noPrice: "Nobody said what a kg brings, so only the costs are told.",
  gradesWithout: (names: string) =>
    `No price was said for ${names}: what a treatment brings that has any of it is not known.`,
  toAsk: "Say it at Ask",
  columns: [
    "treatment",
    "costs a tray",
    "brings",
    "is left",
    "is left a month",
    "beside the control, after costs",
  ],
  ground: "the control",
  interval: (low: string, high: string) =>
    `very likely between ${low} and ${high}`,
  why: (crops: string) =>
    `A month holds as many crops as days and pauses allow: ${crops} a year in the place of one tray. Intervals carry the spread of the yields; prices are taken as they stand.`,
  verdicts: {
    better_by_margin: "pays, by more than matters",
    better: "pays",
    same: "the same, within what matters",
    worse: "does not pay",
    worse_by_margin: "does not pay, by more than matters",
    cannot_tell: "cannot be told",
    good_enough: "pays well enough",
    not_good_enough: "does not pay well enough",
  } as Record<string, string>,
  sold: "What each wave brings",
  wave: "day and grade",
  onDay: (day: number) => `day ${day}`,
  priceOf: (day: string) => ` (price of ${day})`,
  oldest: (day: string) => `The oldest price is of ${day}.`,
  asOf: (day: string) =>
    `Electricity and work as of ${day}; the rest as Stores have it, each with the day of its price.`,
  noDate: "Prices as they stand today.",
  unpriced: (names: string) => `Without a price, and so not counted: ${names}.`,
  toFarm: "electricity and work",
  lines: "What goes into the costs",
  what: "for one tray",
  noPriceOf: "no price",
};

export const prices = {
  title: "Prices",
  why: "For the money at Judge. What seed, media, feed, lamps and trays cost stands at Stores, and what a kg brings at each trial.",
  fields: {
    currency: "Sign of the money",
    per_kwh: "A kWh costs",
    cheap: "A kWh in cheap hours",
    from: "Cheap from, hour",
    until: "Cheap until, hour",
    lamps_on_at: "Lamps go on at, hour",
    per_hour: "An hour of work",
    days_between: "Days between crops",
    as_of: "Prices of",
  },
  keep: "Keep the prices",
  kept: "Kept.",
};
