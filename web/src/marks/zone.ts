/** The time zone of the device that looks at the page. */
export const deviceZone = () =>
  Intl.DateTimeFormat().resolvedOptions().timeZone;

/** What a clock in a zone shows at an instant. */
function shows(zone: string, at: Date): string {
  return new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    dateStyle: "short",
    timeStyle: "short",
  }).format(at);
}

/** Whether clocks in two zones show the same, in winter and in summer: zones have several names. A name nobody knows shows nothing. */
export function sameClock(
  one: string,
  other: string,
  year = new Date().getFullYear(),
): boolean {
  try {
    return [0, 6].every((month) => {
      const at = new Date(Date.UTC(year, month, 15, 12));
      return shows(one, at) === shows(other, at);
    });
  } catch {
    return one === other;
  }
}
