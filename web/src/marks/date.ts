/** A date of the farm, `YYYY-MM-DD`, as the reader's own locale says it; never by way of UTC, which may be another day. */
export function longDate(iso: string, withWeekday = false): string {
  const [year = 0, month = 1, day = 1] = iso.split("-").map(Number);
  return new Date(year, month - 1, day).toLocaleDateString([], {
    ...(withWeekday ? { weekday: "long" } : {}),
    day: "numeric",
    month: "long",
  });
}
