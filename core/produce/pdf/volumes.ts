import type { ProductionThread } from '../model';

/** Lines that one document can hold: an engine in a page runs out of stack at some 25,000. */
const MOST_LINES = 5000;

/** Parts a record into volumes; a conversation that is too long goes on in the next. */
export function volumesOf(
  threads: readonly ProductionThread[],
  most = MOST_LINES
): ProductionThread[][] {
  const volumes: ProductionThread[][] = [[]];
  let room = most;
  for (const thread of threads) {
    for (let from = 0; from < thread.lines.length || from === 0;) {
      if (room === 0) {
        volumes.push([]);
        room = most;
      }
      const lines = thread.lines.slice(from, from + room);
      const isEnd = from + lines.length >= thread.lines.length;
      const gapsAtEnd = isEnd ? thread.gapsAtEnd : [];
      volumes[volumes.length - 1]!.push({ ...thread, lines, gapsAtEnd });
      from += lines.length;
      room -= lines.length;
      if (lines.length === 0) break;
    }
  }
  return volumes;
}
