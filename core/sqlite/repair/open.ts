import { ChunkedSource, type ByteSource } from '../../host';
import { Database, type DatabaseFiles } from '../read/database';
import { SqliteFormatError } from '../format/errors';
import { headerAt, type DatabaseHeader } from '../format/header';
import { readJournal } from '../format/journal';
import { readPageHeader, TABLE_INTERIOR, TABLE_LEAF } from '../format/page';
import { PageSet } from '../format/pages';
import type { TableSchema } from '../format/schema';
import { readWal } from '../format/wal';
import { openCompanions } from './from-companions';
import { guessHeader, guessPageSize } from './guess-header';
import type { OpenedDatabase } from './opened';
import { isBtreePage, pageKeys } from '../format/page-check';

/**
 * Opens a database whether or not its first page is whole: page size,
 * encoding and free list by what the pages themselves show, and tables by the
 * shape of their rows where no declaration is left.
 * @throws SqliteFormatError when nothing in it identifies itself as a page.
 */
export function openDatabase(files: DatabaseFiles, known: readonly TableSchema[]): OpenedDatabase {
  const plain = tryOpen(files);
  if ('database' in plain && isSound(plain.database)) return { ...plain, told: [] };
  const companions = files.main.size === 0 ? openCompanions(files, known) : null;
  if (companions) return companions;
  const main = new ChunkedSource(files.main);
  const size = guessPageSize(main);
  if (size === null) {
    if ('database' in plain) return { ...plain, told: [] };
    throw plain.error;
  }
  if ('database' in plain && size === plain.database.pages.pageSize && leadsToPages(plain.database))
    return { ...plain, told: [] };
  const stated = headerAt(main, 0);
  const header = headerFor(main, size, stated);
  const wal = files.wal ? readWal(new ChunkedSource(files.wal), size) : null;
  const log = wal?.pageSize === size ? wal : null;
  const read = files.journal ? readJournal(new ChunkedSource(files.journal), size) : null;
  const journal = read?.pageSize === size ? read : null;
  const pages = new PageSet(main, header, log, journal);
  const database = Database.openUnder(header, pages, known, { log, journal });
  return { database, told: toldOf(database, stated) };
}

function tryOpen(files: DatabaseFiles): { database: Database } | { error: SqliteFormatError } {
  try {
    return { database: Database.open(files) };
  } catch (error) {
    if (error instanceof SqliteFormatError) return { error };
    throw error;
  }
}

/** Whether the file is as long as its header says, and its declarations lead to pages. */
function isSound(database: Database): boolean {
  const { file, pageSize, statedCount } = database.pages;
  const isWhole = database.log !== null || statedCount * pageSize === file.size;
  return isWhole && leadsToPages(database);
}

function leadsToPages({ tables, pages, schema }: Database): boolean {
  if (tables.length === 0) return schema.length > 0 || pages.pageCount <= 1 || declaresNone(pages);
  const roots = schema.filter(({ root }) => root > 1).map(({ root }) => pages.page(root));
  const kinds = [0x02, 0x05, 0x0a, 0x0d];
  const there = roots.filter((page) => page !== null);
  const sound = there.filter((page) => kinds.includes(page[0]!)).length;
  return there.length === 0 || sound * 2 >= there.length;
}

/** Whether the first page is a sound list of no tables: all of them were dropped. */
function declaresNone(pages: PageSet): boolean {
  const page = pages.page(1);
  const header = page && readPageHeader(page, 1);
  return header?.kind === TABLE_LEAF && header.cellCount === 0;
}

/** What the header says is believed where the pages bear it out. */
function headerFor(
  main: ChunkedSource,
  size: number,
  stated: DatabaseHeader | null
): DatabaseHeader {
  const guessed = guessHeader(main, size);
  if (!stated) return guessed;
  const { encoding, schemaFormat, autoVacuum, freelistTrunk, freelistCount } = stated;
  const usable = size - stated.reserved;
  const trusted = { encoding, schemaFormat, autoVacuum, freelistTrunk, freelistCount };
  return { ...guessed, ...trusted, reserved: stated.reserved, usable };
}

function toldOf(database: Database, stated: DatabaseHeader | null): string[] {
  const { name, pages, guessed, header } = database;
  const told: string[] = [];
  if (!stated) {
    told.push(
      `The header of ${name} is gone; its pages show a size of ${header.pageSize} bytes and texts in ${header.encoding.toUpperCase()}.`
    );
  } else if (stated.pageSize !== pages.pageSize) {
    told.push(
      `The header of ${name} gives a page size of ${stated.pageSize} bytes, but its pages show ${pages.pageSize}.`
    );
  }
  if (guessed) {
    told.push(
      `The list of tables of ${name} is lost; its ${database.tables.length} tables were recognised by the shape of their rows.`
    );
  }
  return told;
}

/**
 * Whether interior pages lead to leaves that end on the row number that they
 * say: then page numbers count from the beginning of the file.
 */
export function linksAgree(file: ByteSource): boolean {
  const main = new ChunkedSource(file);
  const size = guessPageSize(main);
  if (size === null) return false;
  const pages = Math.floor(main.size / size);
  let asked = 0;
  let agreed = 0;
  for (let number = 2; number <= pages && asked < ENOUGH; number++) {
    const page = main.read((number - 1) * size, size);
    if (page[0] !== TABLE_INTERIOR || !isBtreePage(page, size)) continue;
    for (const { key, child } of pageKeys(page, size)) {
      if (child < 2 || child > pages) continue;
      const leaf = main.read((child - 1) * size, size);
      asked++;
      if (pageKeys(leaf, size).at(-1)?.key === key) agreed++;
    }
  }
  return asked > 0 && agreed * 4 >= asked;
}

const ENOUGH = 400;
const SEARCHED = 256 * 1024;

/** Whether b-tree pages lie near the beginning of bytes that have no database header. */
export function holdsPages(head: Uint8Array): boolean {
  for (let at = 0; at + 512 <= Math.min(head.length, SEARCHED); at += 512) {
    const kind = head[at];
    if (kind !== 0x0d && kind !== 0x0a && kind !== 0x05) continue;
    for (let size = 512; size <= 65536 && at + size <= head.length; size *= 2) {
      if (isBtreePage(head.subarray(at, at + size), size)) return true;
    }
  }
  return false;
}
