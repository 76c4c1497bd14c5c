/** Reads a number as growers type it, with a decimal point or comma. Null for an empty field, NaN for anything else. */
export function typed(text: string): number | null {
  const plain = text.trim().replace(",", ".");
  return plain === ""
    ? null
    : /^[-+]?\d*\.?\d*$/.test(plain) && /\d/.test(plain)
      ? Number(plain)
      : Number.NaN;
}

/** A number with so many decimals, or a dash. */
export function shown(
  value: number | null | undefined,
  decimals: number,
): string {
  return value === null || value === undefined ? "–" : value.toFixed(decimals);
}

/** A signed number, with a true minus. */
export function signed(value: number, decimals: number): string {
  const plain = Math.abs(value).toFixed(decimals);
  return value < 0 && Number(plain) !== 0 ? `−${plain}` : `+${plain}`;
}

/** A chance as so many of a hundred: never none, never all. */
export const ofAHundred = (chance: number) =>
  Math.min(99, Math.max(1, 100 * chance)).toFixed(0);

/** An amount of money, as the server tells it: three decimals where it is small. */
export function money(currency: string, amount: number): string {
  const digits = amount !== 0 && Math.abs(amount) < 0.1 ? 3 : 2;
  const space = /\p{L}/u.test(currency) ? " " : "";
  return `${amount < 0 ? "−" : ""}${currency}${space}${Math.abs(amount).toFixed(digits)}`;
}
