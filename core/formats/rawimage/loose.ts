import type { ByteSource } from '../../host';
import {
  Database,
  guessEncoding,
  PageSet,
  syntheticHeader,
  TABLE_INTERIOR,
  TABLE_LEAF,
  type TableSchema
} from '../../sqlite';
import { TRUNK, type FoundPage } from './scan';

/** A database put together from a raw medium. */
export interface CarvedDatabase {
  database: Database;
  /** Where its first page, or where that is lost its log, lies; null for pages that no database claims. */
  offset: number | null;
  told: string[];
}

/** Pages that hold rows of tables: also a leaf that became an inner page or a trunk keeps them where nothing was written since. */
export function isTablePage(kind: number): boolean {
  return kind === TABLE_LEAF || kind === TABLE_INTERIOR || kind === TRUNK;
}

/** Pages that no database claims: each stands alone, and what it spills onto other pages cannot be followed. */
export function fromLoosePages(
  medium: ByteSource,
  size: number,
  pages: readonly FoundPage[],
  known: readonly TableSchema[],
  beside: readonly Database[]
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
  database.beside.push(...beside);
  const told = [
    `${pages.length} pages of ${size} bytes that belong to no database were found in ${medium.name}; nothing says whether their rows were deleted.`
  ];
  return { database, offset: null, told };
}
