import { cellsOf, walkTree } from '../format/btree';
import type { Database } from '../read/database';
import { mapPages } from './owners';
import { placesOf, type LiveRows } from '../read/live-rows';
import { TABLE_LEAF } from '../format/page';
import type { TableSchema } from '../format/schema';
import { looseTrees, suitsTable, type LooseTree } from '../read/guess-tables';

/**
 * Gives trees that damage cut off back to their tables: whole pages of rows
 * that nothing refers to and that are not on the free list belonged to a tree
 * whose upper page is gone. Where the free list is broken too, they could be
 * deleted as well, and are left to the search of freed space. Returns the
 * names of tables that gained pages.
 */
export function adoptLooseTrees(
  database: Database,
  liveOf: (table: TableSchema) => LiveRows | null
): Set<string> {
  const grown = new Set<string>();
  const uses = mapPages(database);
  if (uses.countFree() < database.header.freelistCount) return grown;
  const { pages, header } = database;
  const isTaken = (number: number): boolean => uses.get(number).role !== 'unknown';
  const trees = looseTrees(pages, header.encoding, isTaken);
  if (trees.length === 0) return grown;
  const taken = new Map<string, Set<number | bigint>>();
  for (const tree of trees) {
    const rowids = rowidsOf(database, tree);
    const table = database.tables.find(
      (candidate) =>
        couldHold(candidate, tree) && !overlaps(takenBy(candidate, taken, liveOf), rowids)
    );
    if (!table) continue;
    const known = takenBy(table, taken, liveOf);
    for (const rowid of rowids) known.add(rowid);
    database.adopted.set(table.name, [...(database.adopted.get(table.name) ?? []), tree.root]);
    grown.add(table.name);
  }
  return grown;
}

function couldHold(table: TableSchema, { columns }: LooseTree): boolean {
  return columns.length > 0 && suitsTable(columns, table) && isTelling(columns, table);
}

/** Rows with fewer values than columns are only believed when most are there. */
function isTelling(columns: LooseTree['columns'], table: TableSchema): boolean {
  return columns.length * 2 > table.order.length;
}

function rowidsOf(database: Database, { root }: LooseTree): (number | bigint)[] {
  const rowids: (number | bigint)[] = [];
  const ignore = (): void => undefined;
  for (const page of walkTree(database.pages, root, ignore)) {
    if (page.header.kind !== TABLE_LEAF) continue;
    for (const { rowid } of cellsOf(page, database.pages, ignore)) rowids.push(rowid);
  }
  return rowids;
}

function takenBy(
  table: TableSchema,
  taken: Map<string, Set<number | bigint>>,
  liveOf: (table: TableSchema) => LiveRows | null
): Set<number | bigint> {
  let known = taken.get(table.name);
  if (!known) {
    known = new Set();
    for (const { rowid } of placesOf(liveOf(table) ?? [])) if (rowid !== null) known.add(rowid);
    taken.set(table.name, known);
  }
  return known;
}

function overlaps(known: Set<number | bigint>, rowids: (number | bigint)[]): boolean {
  return rowids.some((rowid) => known.has(rowid));
}
