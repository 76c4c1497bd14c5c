/** Words of looks before the end, a part of the catalogue in `en.ts`. */
import type { Schemas } from "../api/client";

const answers: Record<Schemas["LookAnswer"], string> = {
  differ: "The codes differ.",
  alike: "The codes do the same, within what matters.",
  cannot_tell: "It cannot be told yet.",
  out_of_reach:
    "It cannot be told yet, and even with the best of the rest none is likely to end as far beyond the control as matters.",
};

export const looks = {
  title: "A look before the end",
  why: "It says whether any treatment differs from the control by now, and not which. The key stays shut and the trial goes on. The answer is kept for good.",
  planned: (days: number[]) =>
    days.length === 1
      ? `Planned on day ${days[0]}.`
      : `Planned on days ${days.slice(0, -1).join(", ")} and ${days.at(-1)}.`,
  on: (day: number, measure: string) => `Day ${day}, ${measure}:`,
  answers,
  asPlanned: "as planned",
  beside: "not planned",
  spends: "What the looks spend",
  columns: ["day", "spent by then", "interval", "told"],
  brief: {
    differ: "they differ",
    alike: "alike",
    cannot_tell: "not yet",
    out_of_reach: "out of reach",
  } as Record<Schemas["LookAnswer"], string>,
  end: (day: number) => `${day}, the end`,
  missed: "not had",
  most: "over 99.99",
  ahead: "still to come",
  verdict: "the verdict",
  interval: (percent: string) => `${percent} %`,
  adjusted: (percent: string) =>
    `Of a hundred trials in which nothing differs, five may be told a difference, over all looks and the end together. So the intervals of the verdict stand at ${percent} %, not at 95 %.`,
  spendsWhy:
    "Of a hundred trials in which nothing differs, five may be told a difference. Looks that are planned share those five with the end: early ones take next to none, so they see only what is far apart.",
  outOfReach:
    "Going on costs no trust: this answer spends nothing. It takes for granted that the treatments go on as they have; what works late may still surprise.",
  at: "Look at",
  decides: (name: string) => `${name}, which decides`,
  look: (name: string) => `Look at ${name}`,
  costsNothing:
    "This measure does not decide: a look at it costs the verdict nothing.",
  costsItsShare:
    "A look is planned about now: it spends its small share of the error allowance, and the verdict at the end is that much stricter.",
  costsTrust:
    "No look is planned now: it is logged, and the report will say so. Stopping when it pleases is how growers are fooled.",
  ask: "Days on which it is looked at before the end",
  askDays: "looked at on day",
  none: "no looks",
  askWhy:
    "Looking early and stopping when it pleases fools often. A look that is planned spends its share of the error allowance and is as sound as the end; it says whether the codes differ, and the key stays shut.",
};
