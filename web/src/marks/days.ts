/** Days as they are typed, `7, 12`: each once, rising; null where something else stands there. */
export function daysIn(typed: string): number[] | null {
  const parts = typed
    .split(/[\s,;]+/)
    .filter((part) => part !== "" && part !== "and");
  const days = parts.map(Number);
  return days.every((day) => Number.isInteger(day) && day > 0)
    ? [...new Set(days)].sort((a, b) => a - b)
    : null;
}
