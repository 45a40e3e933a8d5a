import type { Dropped } from '$lib/files';

/** What was dropped on the casebook, on its way to the case that was begun for it. */
let waiting: Dropped | null = null;

export function bring(dropped: Dropped): void {
  waiting = dropped;
}

/** What is waiting; it is given once. */
export function takeIncoming(): Dropped {
  const taken = waiting ?? { places: [], groups: [] };
  waiting = null;
  return taken;
}
