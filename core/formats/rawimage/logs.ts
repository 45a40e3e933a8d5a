import type { ByteSource } from '../../host';
import { readWalAt, type WriteAheadLog } from '../../sqlite';

/** A write-ahead log that lies in a medium. */
export interface MediumLog {
  log: WriteAheadLog;
  start: number;
  /** Offset behind its last frame. */
  end: number;
}

/** The logs that begin at some offsets of a medium, each as far as its frames follow each other. */
export function logsAt(medium: ByteSource, offsets: readonly number[]): MediumLog[] {
  const found: MediumLog[] = [];
  for (const start of offsets) {
    // A page of a log may hold what looks like another one.
    if (start < (found.at(-1)?.end ?? 0)) continue;
    const log = readWalAt(medium, start);
    const last = log?.frames.at(-1);
    if (log && last) found.push({ log, start, end: last.offset + log.pageSize });
  }
  return found;
}

/** Tells whether an offset lies in one of the logs, which stand in order. */
export function isInLog(logs: readonly MediumLog[], offset: number): boolean {
  return logs.some(({ start, end }) => offset >= start && offset < end);
}

/** Pages that are compared to tell whose log it is. */
const MOST_COMPARED = 64;

/**
 * How many pages of a log are later states of a database's pages, less those
 * that are not. Nothing in a log names its database, but a page that was
 * changed keeps most of its bytes where they were. The first page says
 * nothing: it is the same in all databases of one app.
 */
export function likeness(
  { source, frames, pageSize }: WriteAheadLog,
  pageOf: (number: number) => Uint8Array | null
): number {
  const seen = new Set<number>();
  let alike = 0;
  for (const { page: number, offset, valid } of frames) {
    if (!valid || number === 1 || seen.has(number)) continue;
    if (seen.size === MOST_COMPARED) break;
    seen.add(number);
    const before = pageOf(number);
    const shared = before && shareKept(before, source.read(offset, pageSize));
    if (shared !== null) alike += shared > ALIKE ? 1 : shared < OTHER ? -1 : 0;
  }
  return alike;
}

/** Share of a page's bytes that a later state of it keeps, and that pages of other databases have by chance. */
const ALIKE = 0.6;
const OTHER = 0.3;
/** A page of which fewer bytes are filled tells nothing. */
const LEAST_FILLED = 64;

/** How many of the bytes of a page that are not zero stand in the same place later; null where there are few. */
function shareKept(before: Uint8Array, after: Uint8Array): number | null {
  let filled = 0;
  let kept = 0;
  for (let i = 0; i < before.length; i++) {
    if (before[i] === 0) continue;
    filled++;
    if (before[i] === after[i]) kept++;
  }
  return filled < LEAST_FILLED ? null : kept / filled;
}
