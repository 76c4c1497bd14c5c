/** Words of blind tasting, a part of the catalogue in `en.ts`. */

import type { Schemas } from "../api/client";

type Kind = "triangle" | "pair" | "liking" | "covered";

export const tasting = {
  title: "Blind tasting",
  link: "Blind tasting",
  back: "Back to weighing",
  why: "Does it taste different, which is better, how much is each liked? Cups under codes, so that nobody tastes with their eyes.",
  cautions: "Before anybody tastes",
  begin: "Begin a tasting",
  kinds: {
    covered: "Three minutes, by yourself",
    triangle: "Which is the odd one?",
    pair: "Which is better?",
    liking: "How much is each liked?",
  } as Record<Kind, string>,
  kindWhy: {
    covered:
      "One or two people, two cups at a time. You cover them, mix them about, say which is better, and only then look.",
    triangle:
      "Three cups, two of them alike. Tells whether a difference can be tasted at all.",
    pair: "Two cups. Tells which is preferred.",
    liking:
      "Two to eight cups, each from 1 to 9. Tells what is liked better than the first.",
  } as Record<Kind, string>,
  what: "what goes into the cups",
  against: (name: string) => `The others are held against ${name}.`,
  tasters: "tasters",
  servings: "servings",
  servingsEach: "two people share them: four or more each",
  hours: "answers are taken for",
  hourSpans: {
    2: "2 hours",
    6: "6 hours",
    24: "a day",
    72: "three days",
  } as Record<number, string>,
  beside: "asked besides, from 1 to 9",
  planned: (n: number) => `With ${n} it comes about in 4 of 5.`,
  agreed:
    "What goes into the cups is fit to eat by its labels, and the tasters are asked about allergies.",
  start: "Deal the cups",
  waits: {
    two: "Choose two.",
    more: "Choose two or more.",
    agreed: "Say first that it is fit to eat.",
  },
  ownersOnly:
    "The owner begins a tasting: the sheet by which cups are filled tells what is in them.",
  // One that runs.
  runs: (kind: string, n: number) =>
    `${kind} ${n} ${n === 1 ? "serving" : "servings"}`,
  answered: (n: number, of: number) => `${n} of ${of} have answered`,
  until: (when: string) => `Answers are taken until ${when}.`,
  over: "The time is over: close it to see what it tells.",
  cards: "Cards with QR codes for the seats",
  close: "Close it",
  closeSure: (n: number) =>
    `${n} ${n === 1 ? "has" : "have"} not answered. Close it all the same? It can't be opened again.`,
  closeYes: "Close it",
  closeNo: "Go on",
  sheet: "What goes into which cup",
  sheetWhy:
    "For who fills the cups and does not taste. The same amount in each, a little of every tray that is named, at room temperature.",
  sheetShow: "Show what goes into which cup",
  seat: "seat",
  cup: (place: number) =>
    [
      "first from the left",
      "second",
      "third",
      "fourth",
      "fifth",
      "sixth",
      "seventh",
      "eighth",
    ][place] ?? String(place + 1),
  done: "has answered",
  from: (code: number, units: string) => `${code}: ${units}`,
  // Covered cups.
  serving: (n: number, of: number) => `Serving ${n} of ${of}`,
  fill: (one: string, other: string) =>
    `Cut a little of ${one} into one cup and as much of ${other} into another that looks the same. Write each letter on a slip of paper and lay it face down under its cup.`,
  mix: "Shut your eyes and move the cups about each other on the table for ten seconds, slips and all. Somebody else may do it while you look away.",
  first: {
    left: "Taste the left one first, then water, then the right one.",
    right: "Taste the right one first, then water, then the left one.",
  },
  who: "who tastes",
  whichBetter: "Which is better?",
  sides: ["the left one", "the right one"],
  guess: "Guess where you can't tell.",
  howMuch: (cup: string) => `How much do you like ${cup}?`,
  keep: "Keep it, then look",
  look: "Now look under the cups. Which letter stands under the left one?",
  again: "Change what I said",
  coveredDone: "All servings are tasted.",
  // What it tells.
  tells: (no: number) => `What tasting ${no} tells`,
  columns: ["in the cup", "mean", "more", "less", "as many", "luck alone"],
  likedRow: "liked",
  p: (p: string) => `${p} %`,
  pWhy: "How often luck alone gives so great a difference of ranks within tasters, adjusted for all that are compared.",
  earlier: "Earlier tastings",
  cardsTitle: "Cards for the seats",
  cardsWhy: (origin: string) =>
    `Each taster points the phone's camera at the code at their seat. It leads to ${origin}, without a sign-in, until the tasting ends. Phones must be able to reach that address.`,
  cardsGone:
    "These cups are covered by the tasters themselves: there are no cards.",
  cardSeat: (n: number) => `Seat ${n}`,
  cardOrder: "from the left",
};

/** Words of the page that a taster sees. */
export const taste = {
  title: (crop: string) => (crop === "" ? "Tasting" : `Tasting: ${crop}`),
  seat: (n: number) => `Seat ${n}`,
  how: "Taste from left to right. Water between the cups.",
  questions: {
    triangle: "Two of the three are alike. Which is the odd one?",
    pair: "Which one is better?",
    liking: "How much do you like each?",
  } as Record<Schemas["Asked"], string>,
  guess: "Guess where you can't tell.",
  cup: (code: number) => `cup ${code}`,
  attribute: (name: string, code: number) =>
    `${name.charAt(0).toUpperCase()}${name.slice(1)}, cup ${code}`,
  name: "your name, if you like",
  send: "Send",
  sent: "Thank you, it is kept. You may change it until the tasting ends.",
  over: "This tasting is over. Thank you.",
  none: "This address opens no seat. Ask who laid the table.",
  before: "Before you taste",
  missing: "Something is not answered yet.",
  lost: "It could not be sent. What you said stays on this phone: try again.",
};
