/** Words of opening and checking the key, a part of the catalogue in `en.ts`. */

export const seal = {
  title: "Is it the key that was sealed?",
  why: "Check it yourself: this device works it out, step by step, and need not believe the server.",
  begin: "Check the seal",
  next: "Next step",
  sealed:
    "When the treatments were dealt, before the first record, this seal was written down. It has stood at Place and on the report ever since:",
  key: (n: number) =>
    `This is the key that was opened, a line for each of the ${n}: which letter had what.`,
  nonce:
    "With the key a secret number was drawn and locked away. Without it somebody could have tried out all keys until one fits the seal. This is it:",
  worked:
    "Number and key together are put through SHA-256. It is easy to work out this way, and nobody knows how to find another key that gives the same. It comes to:",
  same: "That is the seal, figure for figure: neither a letter nor the name of a treatment was changed since the deal.",
  other:
    "That is not the seal. A letter or the name of a treatment was changed after the deal: don't trust this comparison.",
  elsewhere: "Check it with other tools",
  courses: "What was cut by each day",
  reason: "Why it is opened now",
};
