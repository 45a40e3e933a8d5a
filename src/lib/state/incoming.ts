import type { FileGroup } from '../parts/files';

/** What was dropped on the casebook, on its way to the shelf of the case that was begun for it. */
let waiting: FileGroup[] = [];

export function bring(groups: FileGroup[]): void {
  waiting = groups;
}

/** What is waiting; it is given once. */
export function takeIncoming(): FileGroup[] {
  const taken = waiting;
  waiting = [];
  return taken;
}
