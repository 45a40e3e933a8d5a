import type { Production } from './model';
import type { Numbering } from './settings';

/** A stamped number as it is written. */
function stampOf({ prefix, digits }: Numbering, number: number): string {
  return prefix + String(number).padStart(digits, '0');
}

/** Where a line stands in the printed record. */
export interface LinePlace {
  volume: number;
  /** Counted from 1 through all volumes. */
  page: number;
}

/** The stamps of a production, and the number after the last. */
export interface Stamps {
  byLine: ReadonlyMap<string, string>;
  first: string | null;
  last: string | null;
  next: number;
}

/**
 * A line has the stamp of the page on which it begins; where nothing is
 * printed each line has one of its own.
 */
export function stampLines(
  production: Production,
  numbering: Numbering | null,
  printed: { places: ReadonlyMap<string, LinePlace>; pages: number } | null
): Stamps {
  const byLine = new Map<string, string>();
  if (numbering === null) return { byLine, first: null, last: null, next: 0 };
  const { start } = numbering;
  let count = 0;
  for (const { lines } of production.threads)
    for (const { id } of lines) {
      const page = printed?.places.get(id)?.page;
      if (printed && page === undefined) continue;
      byLine.set(id, stampOf(numbering, start + (page ?? ++count) - 1));
    }
  const all = printed ? printed.pages : count;
  return {
    byLine,
    first: all === 0 ? null : stampOf(numbering, start),
    last: all === 0 ? null : stampOf(numbering, start + all - 1),
    next: start + all
  };
}
