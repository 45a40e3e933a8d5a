/** A moment whose local time on this machine is that of UTC: times in archives have no zone, and are to be the same everywhere. */
export function inUtc(at: number): Date {
  return new Date(at + new Date(at).getTimezoneOffset() * 60_000);
}
