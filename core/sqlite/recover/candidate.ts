import { groupBy } from './group';
import type { Layout } from './layout';

/** One reading of freed bytes as a cell. Offsets are relative to the page. */
export interface Candidate {
  layout: Layout;
  start: number;
  /** Exclusive end on this page; not past the region. */
  end: number;
  /** Evidence in bits. */
  score: number;
  rowid: number | bigint | null;
  serials: number[];
  /** Where the values begin. */
  bodyStart: number;
  /** Whole payload in bytes as the serial types say. */
  payload: number;
  headerSize: number;
  /** Payload bytes on this page if nothing is cut. */
  local: number;
  overflow: number;
  /** Leading bytes that were overwritten and worked out again, 0 to 4. */
  rebuilt: number;
  /** Serial types were guessed, which nothing but the cell's end confirms. */
  guessed: boolean;
  /** Bits that the score lacks because any end would have done. */
  doubt: number;
  /** Evidence that does not come from the values. */
  base: number;
  /** Later writes took the end of the cell. */
  cut: boolean;
  /** Header and values lie there as SQLite writes them, and all texts are plain ASCII. */
  verbatim?: boolean;
}

/** A stretch of a page that no live cell uses. */
export interface Region {
  start: number;
  end: number;
}

/** Where a cell is known or suspected to begin. */
export interface Hints {
  /** Starts named by an old cell pointer array: cells there were never freed one by one. */
  pointers: ReadonlySet<number>;
  /** Starts of free blocks: the first four bytes are overwritten. */
  blocks: ReadonlySet<number>;
}

/** Bytes too few for a block of their own that can stay behind a region's last cell. */
const LEFT_OVER = 3;

/**
 * Gives guessed readings back what their scores lack for want of a known end:
 * one that begins where a neighbour ends, or where the block does, and ends
 * where the next one begins, has the one size that fits there. Several of
 * them may stand between two neighbours. Believed ones are known already.
 */
export function settleDoubts(
  candidates: readonly Candidate[],
  region: Region,
  { blocks }: Hints,
  isBelieved: (candidate: Candidate) => boolean
): void {
  const starts = new Set(blocks.has(region.start) ? [region.start] : []);
  const ends = new Set<number>();
  for (let left = 0; left <= LEFT_OVER; left++) ends.add(region.end - left);
  const known = new Set<number>();
  for (const candidate of candidates) {
    if (!isBelieved(candidate)) continue;
    starts.add(candidate.end);
    ends.add(candidate.start);
    known.add(candidate.start);
  }
  // Of several guesses at one cell the one that needed the least is asked about.
  const best = new Map<string, Candidate>();
  for (const candidate of candidates) {
    const { start, end, score, doubt } = candidate;
    if (known.has(start) || !isBelieved({ ...candidate, score: score + doubt })) continue;
    const other = best.get(`${start} ${end}`);
    if (!other || score > other.score) best.set(`${start} ${end}`, candidate);
  }
  const doubted = [...best.values()];
  doubted.sort((a, b) => a.start - b.start);
  for (const { start, end } of doubted) if (starts.has(start)) starts.add(end);
  for (const { start, end } of doubted.toReversed()) if (ends.has(end)) ends.add(start);
  for (const candidate of doubted) {
    if (!starts.has(candidate.start) || !ends.has(candidate.end)) continue;
    candidate.score += candidate.doubt;
    candidate.base += candidate.doubt;
    candidate.doubt = 0;
  }
}

/**
 * Picks the readings that together have the most evidence and do not
 * overlap. Cells lie without space between them, so a reading that begins
 * where another ends, or that ends with the region, gains.
 */
export function chooseReadings(candidates: Candidate[], region: Region): Candidate[] {
  const spots = positions(candidates, region);
  const byStart = groupBy(candidates, ({ start }) => start);
  const best = new Map<number, Best>();
  for (let i = spots.length - 1; i >= 0; i--) {
    const at = spots[i]!;
    const next = spots[i + 1];
    const skip = next === undefined ? { loose: 0, tight: ADJACENT } : looseOnly(best.get(next)!);
    best.set(at, bestAt(skip, byStart.get(at) ?? [], best));
  }
  return trace(spots, best, byStart);
}

const ADJACENT = 5;

interface Best {
  /** Most evidence from here on when the byte before belongs to no reading. */
  loose: number;
  /** The same when a reading ends exactly here. */
  tight: number;
  pick?: Candidate | undefined;
}

function looseOnly(after: Best): { loose: number; tight: number } {
  return { loose: after.loose, tight: after.loose };
}

function bestAt(
  skip: { loose: number; tight: number },
  here: Candidate[],
  best: Map<number, Best>
): Best {
  const out: Best = { loose: skip.loose, tight: skip.tight, pick: undefined };
  let top = skip.loose;
  for (const candidate of here) {
    const after = best.get(candidate.end)!;
    const total = candidate.score + after.tight;
    if (total > top) {
      top = total;
      out.pick = candidate;
      out.loose = total;
      out.tight = Math.max(skip.tight, total + ADJACENT);
    }
  }
  return out;
}

function trace(
  spots: number[],
  best: Map<number, Best>,
  byStart: Map<number, Candidate[]>
): Candidate[] {
  const out: Candidate[] = [];
  let i = 0;
  while (i < spots.length) {
    const at = spots[i]!;
    const pick = byStart.has(at) ? best.get(at)!.pick : undefined;
    if (!pick) {
      i++;
      continue;
    }
    out.push(pick);
    while (i < spots.length && spots[i]! < pick.end) i++;
  }
  return out;
}

function positions(candidates: Candidate[], region: Region): number[] {
  const set = new Set<number>([region.end]);
  for (const candidate of candidates) set.add(candidate.start).add(candidate.end);
  return [...set].sort((a, b) => a - b);
}
