import { u16be, u32be } from '../../host';
import { cellsOf } from '../format/btree';
import { gatherOverflow } from '../format/overflow';
import { readPageHeader, TABLE_INTERIOR, TABLE_LEAF } from '../format/page';
import type { PageSet } from '../format/pages';
import { decodeRecord, type SqlValue } from '../format/record';
import { tableSchema, type TableSchema } from '../format/schema';
import type { TextEncoding } from '../../host';
import { isBtreePage } from '../format/page-check';

/** A tree of rows that no declaration leads to. */
export interface LooseTree {
  root: number;
  /** Leaf pages below the root. */
  leaves: number;
  columns: ColumnShape[];
  /** Smallest and largest row number seen. */
  from: number;
  to: number;
}

/** How often each kind of value stands in a column. */
export interface ColumnShape {
  null: number;
  integer: number;
  real: number;
  text: number;
  blob: number;
}

const SAMPLED_PAGES = 12;

/** Table trees whose root no page refers to. `isTaken` leaves out pages that have a known use. */
export function looseTrees(
  pages: PageSet,
  encoding: TextEncoding,
  isTaken: (number: number) => boolean
): LooseTree[] {
  const children = new Map<number, number[]>();
  const leaves: number[] = [];
  for (let number = 2; number <= pages.pageCount; number++) {
    if (isTaken(number)) continue;
    const page = pages.page(number);
    const kind = page?.[0];
    if (!page || (kind !== TABLE_LEAF && kind !== TABLE_INTERIOR)) continue;
    if (!isBtreePage(page, pages.usable)) continue;
    if (kind === TABLE_LEAF) leaves.push(number);
    // The numbers that pages name which were picked up one by one are those of another place.
    else if (pages.linksHold) children.set(number, childrenOf(page, pages.usable));
  }
  const below = new Set([...children.values()].flat());
  const roots = [...children.keys(), ...leaves].filter((number) => !below.has(number));
  return roots.map((root) => looseTree(pages, encoding, root, children));
}

function childrenOf(page: Uint8Array, usable: number): number[] {
  const header = readPageHeader(page, 2)!;
  const out: number[] = [];
  for (let i = 0; i < header.cellCount; i++) {
    const at = u16be(page, header.pointers + 2 * i);
    if (at + 4 <= usable) out.push(u32be(page, at));
  }
  return [...out, header.rightChild];
}

function looseTree(
  pages: PageSet,
  encoding: TextEncoding,
  root: number,
  children: Map<number, number[]>
): LooseTree {
  const leaves: number[] = [];
  const seen = new Set<number>();
  const visit = (number: number): void => {
    if (seen.has(number)) return;
    seen.add(number);
    const below = children.get(number);
    if (below) for (const child of below) visit(child);
    else leaves.push(number);
  };
  visit(root);
  const tree: LooseTree = {
    root,
    leaves: leaves.length,
    columns: [],
    from: Infinity,
    to: -Infinity
  };
  const step = Math.max(1, Math.floor(leaves.length / SAMPLED_PAGES));
  for (let i = 0; i < leaves.length; i += step) learnPage(tree, pages, encoding, leaves[i]!);
  learnPage(tree, pages, encoding, leaves[leaves.length - 1]!);
  return tree;
}

function learnPage(tree: LooseTree, pages: PageSet, encoding: TextEncoding, number: number): void {
  const bytes = pages.page(number);
  const header = bytes && readPageHeader(bytes, number);
  if (!bytes || header?.kind !== TABLE_LEAF) return;
  for (const cell of cellsOf({ number, bytes, header }, pages, () => undefined)) {
    const local = bytes.subarray(cell.payloadStart, cell.payloadStart + cell.local);
    const payload = cell.overflow
      ? gatherOverflow(pages, local, cell.payload, cell.overflow).payload
      : local;
    decodeRecord(payload, encoding).forEach((value, i) => learnValue(tree, i, value));
    const rowid = Number(cell.rowid);
    tree.from = Math.min(tree.from, rowid);
    tree.to = Math.max(tree.to, rowid);
  }
}

function learnValue(tree: LooseTree, i: number, value: SqlValue): void {
  const shape = (tree.columns[i] ??= { null: 0, integer: 0, real: 0, text: 0, blob: 0 });
  if (value === null) shape.null++;
  else if (typeof value === 'string') shape.text++;
  else if (value instanceof Uint8Array) shape.blob++;
  else if (typeof value === 'bigint' || Number.isInteger(value)) shape.integer++;
  else shape.real++;
}

/** Whether rows of this shape could be a declared table's. */
export function suitsTable(columns: readonly ColumnShape[], table: TableSchema): boolean {
  const { order } = table;
  if (table.declaration.withoutRowid || columns.length > order.length) return false;
  return columns.every((shape, i) => {
    const declared = table.columns[order[i]!]!;
    const filled = shape.integer + shape.real + shape.text + shape.blob;
    if (declared.isRowid) return filled === 0;
    if (declared.notNull && shape.null > 0) return false;
    if (declared.affinity === 'text') return shape.integer + shape.real === 0;
    if (declared.affinity === 'blob') return true;
    return shape.text === 0;
  });
}

/** Whether two trees could hold rows of one table. */
function areAlike(a: readonly ColumnShape[], b: readonly ColumnShape[]): boolean {
  if (a.length !== b.length) return false;
  return a.every((shape, i) => {
    const other = b[i]!;
    const words = (s: ColumnShape): boolean => s.text > 0;
    const numbers = (s: ColumnShape): boolean => s.integer + s.real > 0;
    const clash = (words(shape) && numbers(other)) || (numbers(shape) && words(other));
    // A column that is always empty in one and always filled in the other tells them apart only when there is much to go by.
    return !clash;
  });
}

/** Declarations for trees without any: by a known table of that shape, else by the shape itself. */
export function guessTables(
  trees: readonly LooseTree[],
  known: readonly TableSchema[]
): { tables: TableSchema[]; more: Map<string, number[]> } {
  const tables: TableSchema[] = [];
  const more = new Map<string, number[]>();
  const groups: { table: TableSchema; columns: ColumnShape[]; leaves: number }[] = [];
  const ordered = [...trees].sort((a, b) => b.leaves - a.leaves || a.root - b.root);
  for (const tree of ordered) {
    if (tree.columns.length === 0) continue;
    const alike = groups.find(({ columns }) => areAlike(columns, tree.columns));
    // A leaf that a whole tree of its kind does not name was freed: the search of freed space has it.
    if (alike && alike.leaves > 1 && tree.leaves === 1) continue;
    if (alike) {
      more.set(alike.table.name, [...(more.get(alike.table.name) ?? []), tree.root]);
      continue;
    }
    const free = known.filter(({ name }) => !tables.some((table) => table.name === name));
    const table = knownTable(tree, free) ?? shapedTable(tree);
    if (!table) continue;
    tables.push(table);
    groups.push({ table, columns: tree.columns, leaves: tree.leaves });
  }
  return { tables, more };
}

function knownTable(tree: LooseTree, known: readonly TableSchema[]): TableSchema | null {
  const fitting = known.filter(
    (table) => tree.columns.length === table.order.length && suitsTable(tree.columns, table)
  );
  return fitting[0] ? { ...fitting[0], root: tree.root } : null;
}

/** Begins the names of tables whose own are lost. */
export const GUESSED_NAME = 'table_at_page_';

/** Columns that say nothing but what was seen in them. */
function shapedTable({ root, columns }: LooseTree): TableSchema | null {
  const first = columns[0]!;
  const isKey = first.null > 0 && first.integer + first.real + first.text + first.blob === 0;
  const declared = columns.map((shape, i) =>
    i === 0 && isKey ? 'column1 INTEGER PRIMARY KEY' : `column${i + 1} ${typeOf(shape)}`
  );
  const name = `${GUESSED_NAME}${root}`;
  const sql = `CREATE TABLE ${name}(${declared.join(', ')})`;
  return tableSchema({ type: 'table', name, table: name, root, sql });
}

function typeOf(shape: ColumnShape): string {
  if (shape.text > 0 && shape.integer + shape.real === 0) return 'TEXT';
  if (shape.blob > 0 && shape.text === 0 && shape.integer === 0) return 'BLOB';
  if (shape.real > 0 && shape.text === 0) return 'REAL';
  return shape.integer > 0 && shape.text === 0 ? 'INTEGER' : '';
}
