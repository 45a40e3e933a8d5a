import type { Database } from './database';
import { sketchRange } from '../format/hash';
import { LeafCells } from '../format/leaf-cells';
import { passingLeafAt, readLeaf } from './leaves';
import { readCell, TABLE_LEAF } from '../format/page';
import { RowColumns, type PackedColumns } from './row-columns';

/** The live rows of some leaves, in a form that can be handed from thread to thread. */
export interface LeafColumns extends PackedColumns {
  /** First page of each chain of overflow pages, and the bytes of payload on it, in turn. */
  spills: Float64Array;
}

/** Another thread that reads leaves of a database; rejects where it failed. */
export interface LeafReader {
  read(leaves: Uint32Array): Promise<LeafColumns | Damaged>;
}

/** A leaf has to be read cell by cell, or something is missing from an overflow chain: the tree has to be gone over in one go. */
export type Damaged = 'damaged';

/** Reads leaves of a table's tree in the order in which they are given. */
export function readColumns(database: Database, leaves: Uint32Array): LeafColumns | Damaged {
  const cells = new LeafCells();
  const rows = new RowColumns();
  const spills: number[] = [];
  // What is damaged is told by who goes over the tree in one go.
  const known = database.damage.length;
  let isSound = true;
  for (const number of leaves) {
    const page = passingLeafAt(database, number);
    isSound &&= page !== null && readLeaf(cells, database, page);
    if (!page || !isSound) break;
    addCells(rows, spills, database, number, page.bytes, cells);
  }
  isSound &&= database.damage.length === known;
  database.damage.length = known;
  return isSound ? { ...rows.packed(), spills: Float64Array.from(spills) } : 'damaged';
}

function addCells(
  rows: RowColumns,
  spills: number[],
  database: Database,
  number: number,
  page: Uint8Array,
  cells: LeafCells
): void {
  const { offset } = database.pages.place(number);
  const { rowid, start, payloadStart, payload, local, overflow } = cells;
  for (let i = 0; i < cells.count; i++) {
    const from = payloadStart[i]!;
    const isLocal = overflow[i] === 0;
    if (!isLocal) spills.push(overflow[i]!, payload[i]! - local[i]!);
    const sketch = isLocal
      ? sketchRange(page, from, from + local[i]!)
      : spilledSketch(database, page, start[i]!);
    rows.add(rowid[i]!, sketch, number, offset + start[i]!);
  }
}

function spilledSketch(database: Database, page: Uint8Array, start: number): number {
  const cell = readCell(page, TABLE_LEAF, start, database.pages.usable)!;
  const payload = database.payload(page, cell);
  return sketchRange(payload, 0, payload.length);
}

/** Memory that can be handed over instead of being copied. */
export function columnsTransfer(columns: LeafColumns | Damaged): ArrayBuffer[] {
  if (columns === 'damaged') return [];
  return Object.values(columns).map(({ buffer }) => buffer as ArrayBuffer);
}
