/** A date of the farm, `YYYY-MM-DD`, as the reader's own locale says it; never by way of UTC, which may be another day. */
export function longDate(iso: string, more?: "weekday" | "year"): string {
  const [year = 0, month = 1, day = 1] = iso.split("-").map(Number);
  return new Date(year, month - 1, day).toLocaleDateString([], {
    day: "numeric",
    month: "long",
    ...(more === "weekday" ? { weekday: "long" } : {}),
    ...(more === "year" ? { year: "numeric" } : {}),
  });
}

/** Days from one date to another, both `YYYY-MM-DD`; counted on the calendar, whatever the clocks do between them. */
export function daysBetween(from: string, to: string): number {
  const midnight = (iso: string) => {
    const [year = 0, month = 1, day = 1] = iso.split("-").map(Number);
    return Date.UTC(year, month - 1, day);
  };
  return Math.round((midnight(to) - midnight(from)) / 86_400_000);
}
