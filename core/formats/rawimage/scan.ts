import type { ByteSource } from '../../host';
import {
  cellsOfTrunk,
  fillsItsSize,
  isBtreePage,
  isFilledExactly,
  isPageKind,
  isPageSize,
  PAGE_SIZES,
  rowsOfTrunk
} from '../../sqlite';

/** What identifies itself in a raw medium, by its offset. */
export interface MediumFinds {
  /** First bytes of databases. */
  databases: number[];
  /** First bytes of write-ahead logs. */
  logs: number[];
  pages: FoundPage[];
}

/** A page that identifies itself. */
export interface FoundPage {
  offset: number;
  size: number;
  /** Its first byte; {@link TRUNK} for a leaf that became a trunk of the free list. */
  kind: number;
}

export const TRUNK = 0;

const SMALLEST_PAGE = 512;
const CHUNK = 1 << 20;
const LARGEST_PAGE = 65536;
const MAGIC = [...'SQLite format 3\0'].map((char) => char.charCodeAt(0));

/** Reads a medium once from end to end and lists what identifies itself; yields the bytes read so far. */
export function* scanMedium(source: ByteSource): Generator<number, MediumFinds> {
  const finds: MediumFinds = { databases: [], logs: [], pages: [] };
  let next = 0;
  for (let base = 0; base < source.size; base += CHUNK) {
    // What begins at the end of a chunk reaches into the next one.
    const bytes = source.read(base, CHUNK + LARGEST_PAGE);
    const end = Math.min(CHUNK, bytes.length);
    // A dump of memory, or a part that was cut out, need not begin at a sector's bound.
    let at = Math.max(0, next - base);
    while (at < end) at += look(bytes, at, base, finds);
    next = base + at;
    yield Math.min(base + CHUNK, source.size);
  }
  return finds;
}

/** Looks at one offset; returns how far the next one is: behind a page that was found, else the next byte. */
function look(bytes: Uint8Array, at: number, base: number, finds: MediumFinds): number {
  const kind = bytes[at]!;
  if (kind === MAGIC[0] && MAGIC.every((byte, i) => bytes[at + i] === byte)) {
    finds.databases.push(base + at);
    // The rest of a first page is declarations, whose pointers count from here.
    return firstPageSize(bytes, at);
  } else if (kind === 0x37 && isLog(bytes, at)) finds.logs.push(base + at);
  else if (isPageKind(kind) && mayBePage(bytes, at)) {
    const size = sizeAt(bytes, at, (base + at) % SECTOR === 0);
    if (size > 0) finds.pages.push({ offset: base + at, size, kind });
    return Math.max(1, size);
  } else if (kind <= HIGHEST_BYTE && mayBeTrunk(bytes, at)) {
    const size = trunkSizeAt(bytes, at, finds.pages.at(-1)?.size ?? 0);
    if (size > 0) finds.pages.push({ offset: base + at, size, kind: TRUNK });
    return Math.max(1, size);
  }
  return 1;
}

/** What the header says (file format, section 1.3.2), where it says anything. */
function firstPageSize(bytes: Uint8Array, at: number): number {
  const stated = (bytes[at + 16]! << 8) | bytes[at + 17]!;
  const size = stated === 1 ? LARGEST_PAGE : stated;
  return isPageSize(size) ? size : 1;
}

/** First byte of page numbers that a trunk is believed to list. */
const HIGHEST_BYTE = 0;

/** A quick refusal: a trunk of the free list names pages, and says how many; one of none has pointers right behind that. */
function mayBeTrunk(bytes: Uint8Array, at: number): boolean {
  if (bytes[at + 4] !== 0 || bytes[at + 5] !== 0) return false;
  const first = bytes[at + 8]!;
  return bytes[at + 6]! + bytes[at + 7]! > 0 ? first <= HIGHEST_BYTE : first > 0;
}

/**
 * The size of a page that became a trunk, or 0: that of the page before, for
 * pages of one file mostly lie together; where there is none the least that
 * leads to about as many cells as any, for in a larger one some are met by
 * chance.
 */
function trunkSizeAt(bytes: Uint8Array, at: number, before: number): number {
  const page = (size: number): Uint8Array => bytes.subarray(at, at + size);
  const holds = (size: number): boolean => at + size <= bytes.length;
  if (before > 0) {
    const isTrunk = holds(before) && cellsOfTrunk(page(before), before) > 0;
    return isTrunk || (holds(before) && rowsOfTrunk(page(before), before) > 0) ? before : 0;
  }
  const counts = PAGE_SIZES.map((size) => (holds(size) ? cellsOfTrunk(page(size), size) : 0));
  const most = Math.max(...counts);
  return most < LEAST_ALONE ? 0 : PAGE_SIZES[counts.findIndex((count) => 2 * count > most)]!;
}

/** Cells that a trunk must lead to where no page before it says how large it is. */
const LEAST_ALONE = 4;

/** Cells that a page of 64 KiB can hold; more is no header (file format, section 1.6). */
const MOST_CELLS = 16_384;

const SECTOR = 512;
/** Off the bounds of sectors there are 512 times as many places for chance: a page of fewer cells must show more. */
const LEAST_OFF_BOUNDS = 4;

function cellsAt(bytes: Uint8Array, at: number): number {
  return (bytes[at + 3]! << 8) | bytes[at + 4]!;
}

/** A quick refusal: counts that no page header has. */
function mayBePage(bytes: Uint8Array, at: number): boolean {
  const cells = cellsAt(bytes, at);
  return cells > 0 && cells <= MOST_CELLS && bytes[at + 7]! <= 60;
}

function isLog(bytes: Uint8Array, at: number): boolean {
  return bytes[at + 1] === 0x7f && bytes[at + 2] === 0x06 && (bytes[at + 3]! & 0xfe) === 0x82;
}

/**
 * The page size under which the bytes from `at` are a b-tree page, or 0. One
 * that accounts for every byte is sure; cells that lie in the first half of a
 * page may look like a smaller one.
 */
function sizeAt(bytes: Uint8Array, at: number, isAtBound: boolean): number {
  let likely = 0;
  for (let size = SMALLEST_PAGE; size <= LARGEST_PAGE && at + size <= bytes.length; size *= 2) {
    const page = bytes.subarray(at, at + size);
    if (!isBtreePage(page, size)) continue;
    if (isFilledExactly(page, size)) return size;
    if (likely === 0 && fillsItsSize(page, size)) likely = size;
  }
  return isAtBound || cellsAt(bytes, at) >= LEAST_OFF_BOUNDS ? likely : 0;
}
