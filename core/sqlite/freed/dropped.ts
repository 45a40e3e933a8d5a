import type { Database } from '../database';
import { mapPages } from './owners';
import type { TableSchema } from '../schema';
import { guessTables, looseTrees, suitsTable, type LooseTree } from '../damaged/guess-tables';

/** Free pages that are looked at; more of them are more of the same. */
const MOST_PAGES = 2000;
/** Rows of a kind that are no accident. */
const LEAST_ROWS = 10;

/**
 * Tables that were dropped and whose declarations are wiped: free pages that
 * still are whole leaves of rows which no known table could hold. Their
 * columns are called by their places, and have the kinds of value seen in them.
 */
export function guessDropped(database: Database): TableSchema[] {
  const { pages, header, tables } = database;
  if (!pages.linksHold || database.guessed) return [];
  const uses = mapPages(database);
  let looked = 0;
  const isTaken = (number: number): boolean => {
    const { role } = uses.get(number);
    return (role !== 'free' && role !== 'unknown') || looked++ > MOST_PAGES;
  };
  const trees = looseTrees(pages, header.encoding, isTaken);
  const strange = trees.filter((tree) => !tables.some((table) => couldHold(table, tree)));
  const guessed = guessTables(strange, []).tables.map((table) => ({ ...table, root: 0 }));
  return guessed.filter((table) => countRows(table, strange) >= LEAST_ROWS);
}

/** Rows can be older than columns that were added. */
function couldHold(table: TableSchema, { columns }: LooseTree): boolean {
  return columns.length === 0 || suitsTable(columns, table);
}

function countRows(table: TableSchema, trees: readonly LooseTree[]): number {
  return trees
    .filter(({ columns }) => columns.length === table.order.length && suitsTable(columns, table))
    .reduce((sum, { columns: [first] }) => {
      const { null: none, integer, real, text, blob } = first!;
      return sum + none + integer + real + text + blob;
    }, 0);
}
