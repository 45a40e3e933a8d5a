import type { MediaDay } from '../../service/api/media-api';

/** Tiles of one day that stand side by side. */
export interface Segment {
  /** Where the day begins; null where it goes on from the strip above. */
  day: MediaDay | null;
  from: number;
  to: number;
}

/** Puts the files of days into strips of so many tiles; several short days share one. */
export function stripsOf(days: readonly MediaDay[], columns: number): Segment[][] {
  const strips: Segment[][] = [];
  let room = 0;
  for (const day of days) {
    const end = day.from + day.count;
    for (let from = day.from; from < end;) {
      if (room === 0) {
        strips.push([]);
        room = columns;
      }
      const to = Math.min(end, from + room);
      strips.at(-1)!.push({ day: from === day.from ? day : null, from, to });
      room -= to - from;
      from = to;
    }
  }
  return strips;
}
