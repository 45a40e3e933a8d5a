import { ChunkedSource, type ByteSource } from '../bytes';
import {
  Database,
  guessEncoding,
  headerAt,
  pageKeys,
  PageSet,
  syntheticHeader,
  TABLE_INTERIOR,
  TABLE_LEAF,
  type DatabaseHeader,
  type TableSchema
} from '../sqlite';
import type { FoundPage, MediumFinds } from './scan';

/** A database put together from a raw medium. */
export interface CarvedDatabase {
  database: Database;
  /** Where its first page lies; null for pages that no database claims. */
  offset: number | null;
  told: string[];
}

/**
 * Puts together what a medium holds: whole databases from their headers on,
 * their pages at the places that the pages themselves bear out; then the
 * pages that no database claims, read by the shapes of known tables.
 */
export function* assemble(
  source: ByteSource,
  finds: MediumFinds,
  known: TableSchema[]
): Generator<CarvedDatabase> {
  const medium = new ChunkedSource(source);
  const claimed = new Set<number>();
  const byOffset = new Map(finds.pages.map((page) => [page.offset, page]));
  for (const offset of finds.databases) {
    const carved = fromHeader(medium, offset, finds.pages, byOffset, claimed);
    if (carved) yield carved;
  }
  const sizes = new Set(finds.pages.map(({ size }) => size));
  for (const size of sizes) {
    const loose = finds.pages.filter(
      (page) => page.size === size && page.kind === TABLE_LEAF && !claimed.has(page.offset)
    );
    if (loose.length > 0) yield fromLoosePages(medium, size, loose, known);
  }
}

function fromHeader(
  medium: ByteSource,
  offset: number,
  pages: readonly FoundPage[],
  byOffset: ReadonlyMap<number, FoundPage>,
  claimed: Set<number>
): CarvedDatabase | null {
  const header = headerAt(medium, offset);
  if (!header) return null;
  const size = header.pageSize;
  const room = Math.floor((medium.size - offset) / size);
  const count = Math.min(header.pageCount || room, Math.ceil(medium.size / size));
  const own = pages.filter((page) => page.size === size && !claimed.has(page.offset));
  const offsets = placePages(medium, header, offset, count, own, byOffset);
  const place = (number: number): { source: ByteSource; offset: number } | null => {
    const at = offsets[number];
    return at === undefined || at + size > medium.size ? null : { source: medium, offset: at };
  };
  const set = new PageSet(medium, header, null, null, { count, place, linksHold: true });
  const database = Database.openUnder(header, set, []);
  if (database.tables.length === 0) return null;
  for (let number = 1; number <= count; number++) claimed.add(offsets[number] ?? -1);
  database.carved = true;
  const moved = offsets.filter((at, number) => number > 0 && at !== offset + (number - 1) * size);
  const where = `A database of ${count} pages of ${size} bytes was put together from offset ${offset} of ${medium.name} on`;
  const told = [
    moved.length > 0 ? `${where}; ${moved.length} of its pages lie elsewhere.` : `${where}.`
  ];
  return { database, offset, told };
}

/**
 * Offsets of the pages by number. A medium may hold a file in pieces: interior
 * pages name their children and the row numbers up to which each goes, so a
 * leaf that ends on that number shows how far its piece was moved.
 */
function placePages(
  medium: ByteSource,
  header: DatabaseHeader,
  start: number,
  count: number,
  pages: readonly FoundPage[],
  byOffset: ReadonlyMap<number, FoundPage>
): number[] {
  const { pageSize, usable } = header;
  const own = start - pageSize;
  const shifts = confirmedShifts(medium, usable, pageSize, pages, own);
  const taken = new Set([...shifts].map(([number, shift]) => shift + number * pageSize));
  const isFree = (number: number, shift: number): boolean => {
    const at = shift + number * pageSize;
    return byOffset.get(at)?.size === pageSize && !taken.has(at);
  };
  const offsets: number[] = [];
  let current = own;
  for (let number = 1; number <= count; number++) {
    const known = shifts.get(number);
    if (known !== undefined) current = known;
    else if (number > 1 && !isFree(number, current)) {
      // What does not identify itself may be an overflow page; the next page that is sure decides.
      const next = nextShift(shifts, number, count);
      if (next !== undefined && isFree(number, next)) current = next;
    }
    offsets[number] = current + number * pageSize;
  }
  return offsets;
}

function nextShift(
  shifts: ReadonlyMap<number, number>,
  number: number,
  count: number
): number | undefined {
  for (let at = number + 1; at <= count; at++) {
    const shift = shifts.get(at);
    if (shift !== undefined) return shift;
  }
  return undefined;
}

const LEAST_VOTES = 2;

/**
 * How far each page was moved that its parent names with the row number on
 * which it ends. Chance agreements do not repeat: a shift needs several.
 */
function confirmedShifts(
  medium: ByteSource,
  usable: number,
  size: number,
  pages: readonly FoundPage[],
  own: number
): Map<number, number> {
  const byLast = new Map<number, number[]>();
  for (const { offset, kind } of pages) {
    if (kind !== TABLE_LEAF) continue;
    const last = pageKeys(medium.read(offset, size), usable).at(-1)?.key;
    if (last !== undefined) byLast.set(last, [...(byLast.get(last) ?? []), offset]);
  }
  const pairs: { number: number; shift: number }[] = [];
  for (const { offset, kind } of pages) {
    if (kind !== TABLE_INTERIOR) continue;
    for (const { key, child } of pageKeys(medium.read(offset, size), usable)) {
      for (const leaf of byLast.get(key) ?? [])
        pairs.push({ number: child, shift: leaf - child * size });
    }
  }
  const votes = new Map<number, number>();
  for (const { shift } of pairs) votes.set(shift, (votes.get(shift) ?? 0) + 1);
  const worth = (shift: number): number => (votes.get(shift) ?? 0) + (shift === own ? 0.5 : 0);
  const confirmed = new Map<number, number>();
  for (const { number, shift } of pairs) {
    if (worth(shift) < LEAST_VOTES) continue;
    const known = confirmed.get(number);
    if (known === undefined || worth(shift) > worth(known)) confirmed.set(number, shift);
  }
  return confirmed;
}

/** Leaves that no database claims: each stands alone, and what it spills onto other pages cannot be followed. */
function fromLoosePages(
  medium: ByteSource,
  size: number,
  pages: readonly FoundPage[],
  known: readonly TableSchema[]
): CarvedDatabase {
  // Page 1 would hold the declarations, which nothing here does.
  const offsets = [-1, -1, ...pages.map(({ offset }) => offset)];
  const count = offsets.length - 1;
  const place = (number: number): { source: ByteSource; offset: number } | null =>
    (offsets[number] ?? -1) < 0 ? null : { source: medium, offset: offsets[number]! };
  const read = (number: number): Uint8Array =>
    number < 2 ? new Uint8Array(0) : medium.read(offsets[number]!, size);
  const header = syntheticHeader(size, count, guessEncoding(read, count, size));
  const set = new PageSet(medium, header, null, null, { count, place, linksHold: false });
  const database = Database.openUnder(header, set, known);
  database.carved = true;
  database.loose = true;
  const told = [
    `${pages.length} pages of ${size} bytes that belong to no database were found in ${medium.name}; nothing says whether their rows were deleted.`
  ];
  return { database, offset: null, told };
}
