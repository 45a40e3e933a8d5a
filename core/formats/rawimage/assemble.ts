import { ChunkedSource, type ByteSource } from '../../host';
import {
  Database,
  headerAt,
  isPageKind,
  openLog,
  pageKeys,
  PageSet,
  TABLE_INTERIOR,
  TABLE_LEAF,
  type DatabaseHeader,
  type PagePlace,
  type TableSchema
} from '../../sqlite';
import { isInLog, likeness, logsAt, type MediumLog } from './logs';
import { fromLoosePages, isTablePage, type CarvedDatabase } from './loose';
import type { FoundPage, MediumFinds } from './scan';

/**
 * Puts together what a medium holds: whole databases from their headers on,
 * their pages at the places that the pages themselves bear out, with the logs
 * that go on from them; logs without a database; then the pages that neither
 * claims, read by the shapes of known tables.
 */
export function* assemble(
  source: ByteSource,
  finds: MediumFinds,
  known: TableSchema[]
): Generator<CarvedDatabase> {
  const medium = new ChunkedSource(source);
  const logs = logsAt(medium, finds.logs);
  const pages = finds.pages.filter(({ offset }) => !isInLog(logs, offset));
  const claimed = new Set<number>();
  const found: Database[] = [];
  const { placed, declared } = placeDatabases(medium, { ...finds, pages }, logs, claimed);
  const owners = ownersOf(logs, medium, placed);
  for (const layout of placed) {
    const log = owners.get(layout) ?? null;
    const carved = open(medium, layout, log);
    found.push(carved.database);
    yield carved;
  }
  const taken = new Set(owners.values());
  for (const log of logs) {
    if (taken.has(log)) continue;
    const carved = fromLogAlone(medium, log, known);
    found.push(carved.database);
    yield carved;
  }
  const sizes = new Set(pages.map(({ size }) => size));
  for (const size of sizes) {
    const loose = pages.filter(
      (page) => page.size === size && isTablePage(page.kind) && !claimed.has(page.offset)
    );
    if (loose.length > 0) yield fromLoosePages(medium, size, loose, [...known, ...declared], found);
  }
}

/** Where the pages of a database lie in a medium. */
interface Placed {
  header: DatabaseHeader;
  /** Offset of its first page. */
  offset: number;
  count: number;
  /** By page number. */
  offsets: number[];
}

interface FoundDatabases {
  placed: Placed[];
  /** Tables that first pages declare behind which no database lies, such as those in a journal. */
  declared: TableSchema[];
}

/** Finds out where the pages of each database lie that begins in a medium; `claimed` takes up their offsets. */
function placeDatabases(
  medium: ByteSource,
  { databases, pages }: MediumFinds,
  logs: readonly MediumLog[],
  claimed: Set<number>
): FoundDatabases {
  const byOffset = new Map(pages.map((page) => [page.offset, page]));
  const placed: Placed[] = [];
  const declared: TableSchema[] = [];
  for (const offset of databases) {
    const header = isInLog(logs, offset) ? null : headerAt(medium, offset);
    if (!header) continue;
    const size = header.pageSize;
    const room = Math.floor((medium.size - offset) / size);
    const count = Math.min(header.pageCount || room, Math.ceil(medium.size / size));
    const own = pages.filter((page) => page.size === size && !claimed.has(page.offset));
    const offsets = placePages(medium, header, offset, count, own, byOffset);
    const layout = { header, offset, count, offsets };
    const { database } = open(medium, layout, null);
    if (!leadsToPages(database)) {
      declared.push(...database.tables);
      continue;
    }
    for (let number = 1; number <= count; number++) claimed.add(offsets[number] ?? -1);
    placed.push(layout);
  }
  return { placed, declared };
}

/** Whether a page lies where one of the declared tables has its root. */
function leadsToPages({ tables, pages }: Database): boolean {
  return tables.some(({ root }) => isPageKind(pages.page(root)?.[0] ?? 0));
}

/** The log of each database: of several the one whose pages are most like its own. */
function ownersOf(
  logs: readonly MediumLog[],
  medium: ByteSource,
  placed: readonly Placed[]
): Map<Placed, MediumLog> {
  const best = new Map<Placed, { log: MediumLog; alike: number }>();
  for (const log of logs) {
    const { pageSize } = log.log;
    const ranked = placed
      .filter(({ header }) => header.pageSize === pageSize)
      .map((layout) => ({ layout, alike: likeness(log.log, (n) => pageAt(medium, layout, n)) }))
      .sort((a, b) => b.alike - a.alike);
    const [first] = ranked;
    if (!first || first.alike <= 0 || first.alike <= (best.get(first.layout)?.alike ?? 0)) continue;
    best.set(first.layout, { log, alike: first.alike });
  }
  return new Map([...best].map(([layout, { log }]) => [layout, log]));
}

function pageAt(
  medium: ByteSource,
  { header, offsets }: Placed,
  number: number
): Uint8Array | null {
  const at = offsets[number];
  const page = at === undefined ? null : medium.read(at, header.pageSize);
  return page?.length === header.pageSize ? page : null;
}

function open(medium: ByteSource, layout: Placed, found: MediumLog | null): CarvedDatabase {
  const { offset, offsets, count } = layout;
  const size = layout.header.pageSize;
  const log = found?.log ?? null;
  const committed = log?.frames.slice(0, log.committed) ?? [];
  const first = committed.findLast(({ page }) => page === 1);
  const header = (first && headerAt(medium, first.offset)) ?? layout.header;
  const place = (number: number): PagePlace | null => {
    const at = offsets[number];
    return at === undefined || at + size > medium.size ? null : { source: medium, offset: at };
  };
  // The last frame that counts ends a transaction, and says how many pages there are then.
  const scattered = { count: committed.at(-1)?.commitSize ?? count, place, linksHold: true };
  const set = new PageSet(medium, header, log, null, scattered);
  const database = Database.openUnder(header, set, [], { log, journal: null });
  database.carved = true;
  return { database, offset, told: [toldOf(medium, layout, found)] };
}

function toldOf(
  medium: ByteSource,
  { header, offset, count, offsets }: Placed,
  log: MediumLog | null
): string {
  const { pageSize: size } = header;
  const moved = offsets.filter((at, number) => number > 0 && at !== offset + (number - 1) * size);
  const where = `A database of ${count} pages of ${size} bytes was put together from offset ${offset} of ${medium.name} on`;
  const elsewhere = moved.length > 0 ? `; ${moved.length} of its pages lie elsewhere` : '';
  const laidOver = log
    ? `, with its log of ${log.log.frames.length} frames from offset ${log.start} on`
    : '';
  return `${where}${elsewhere}${laidOver}.`;
}

function fromLogAlone(
  medium: ByteSource,
  { log, start }: MediumLog,
  known: TableSchema[]
): CarvedDatabase {
  const { database } = openLog(medium, log, known);
  database.carved = true;
  const told = `A log of ${log.frames.length} frames lies at offset ${start} of ${medium.name} without its database; the pages that it holds were read.`;
  return { database, offset: start, told: [told] };
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
