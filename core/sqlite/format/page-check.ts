import { readVarint, u16be, u32be, type Varint } from '../../host';
import {
  INDEX_INTERIOR,
  INDEX_LEAF,
  readCell,
  readPageHeader,
  TABLE_INTERIOR,
  TABLE_LEAF
} from './page';
import { serialSize } from './record';

/** Cells of a page that are looked at; chance cannot pass many. */
const CELLS_TRIED = 6;
const scratch: Varint = { value: 0, size: 0 };

/**
 * Whether bytes identify themselves as a b-tree page of this size: a header
 * whose counts fit, pointers that lead to cells, records whose serial types
 * add up to their payload (file format, sections 1.6 and 2.1). `number` is 1
 * for the first page, whose header comes 100 bytes later.
 */
export function isBtreePage(page: Uint8Array, usable: number, number = 2): boolean {
  const header = readPageHeader(page, number);
  if (!header || header.cellCount === 0 || header.fragmentedBytes > 60) return false;
  const { kind, pointers, cellCount, contentStart, firstFreeBlock } = header;
  const pointersEnd = pointers + 2 * cellCount;
  if (contentStart < pointersEnd || contentStart > usable) return false;
  if (firstFreeBlock !== 0 && (firstFreeBlock < pointersEnd || firstFreeBlock + 4 > usable))
    return false;
  for (let i = 0; i < cellCount; i++) {
    const at = u16be(page, pointers + 2 * i);
    if (at < contentStart || at + 3 > usable) return false;
  }
  const isTable = kind === TABLE_LEAF || kind === TABLE_INTERIOR;
  if (!isLeaf(kind) && !isPageNumber(header.rightChild)) return false;
  let last = -Infinity;
  const step = Math.max(1, Math.floor(cellCount / CELLS_TRIED));
  for (let i = 0; i < cellCount; i += step) {
    const cell = readCell(page, kind, u16be(page, pointers + 2 * i), usable);
    if (!cell) return false;
    // Cells stand in the order of their keys.
    if (isTable && Number(cell.rowid) <= last) return false;
    last = Number(cell.rowid);
    if (!isLeaf(kind) && !isPageNumber(cell.leftChild)) return false;
    if (kind === TABLE_INTERIOR) continue;
    if (!isRecord(page, cell.payloadStart, cell.payloadStart + cell.local, cell.payload)) {
      return false;
    }
  }
  return true;
}

function isLeaf(kind: number): boolean {
  return kind === TABLE_LEAF || kind === INDEX_LEAF;
}

/** A child of a database of up to a quarter of a terabyte with pages of 4 KiB. */
function isPageNumber(number: number): boolean {
  return number >= 2 && number < 1 << 26;
}

/** Whether serial types begin at `at` and account for the whole payload, as far as they lie on the page. */
function isRecord(page: Uint8Array, at: number, end: number, payload: number): boolean {
  const head = readVarint(page, at, end, scratch);
  if (head.size === 0 || head.value < 2 || head.value > payload) return false;
  let sum = head.value;
  const stop = at + head.value;
  if (stop > end) return true;
  for (let pos = at + head.size; pos < stop;) {
    const serial = readVarint(page, pos, stop, scratch);
    if (serial.size === 0 || serial.value === 10 || serial.value === 11) return false;
    sum += serialSize(serial.value);
    pos += serial.size;
  }
  return sum === payload;
}

/** Pointers of a leaf that became a trunk that are followed. */
const POINTERS_TRIED = 32;
/** Cells by which it is told: chance does not lead to two, or where nothing is listed to four. */
const LEAST_OF_TRUNK = 2;
const LEAST_OF_EMPTY = 4;

/**
 * Cells of a table leaf that was freed and made a trunk of the free list: its
 * header and first pointers gave way to page numbers (file format, section
 * 1.5), but the pointers behind those still lead to cells. Returns how many of
 * the first ones do, 0 where bytes are no such page.
 */
export function cellsOfTrunk(page: Uint8Array, usable: number): number {
  const end = trunkEnd(page, usable);
  if (end === 0) return 0;
  const stop = Math.min(usable, end + 2 * POINTERS_TRIED);
  let found = 0;
  for (let at = end; at + 2 <= stop; at += 2) {
    const start = u16be(page, at);
    if (start >= end && start + 4 <= usable && isWholeRow(page, start, usable)) found++;
  }
  return found < (end === 8 ? LEAST_OF_EMPTY : LEAST_OF_TRUNK) ? 0 : found;
}

/** Rows by which a trunk without pointers is told; fewer are chance. */
const LEAST_ROWS = 3;

/**
 * The same where the list took all pointers: rows that lie between its end and
 * that of the page.
 */
export function rowsOfTrunk(page: Uint8Array, usable: number): number {
  const end = trunkEnd(page, usable);
  let found = 0;
  for (let at = end; end > 8 && at + 4 <= usable;) {
    const cell = isWholeRow(page, at, usable) ? readCell(page, TABLE_LEAF, at, usable) : null;
    const isLong = cell !== null && cell.payload >= LEAST_OF_ROW;
    if (isLong) found++;
    at = isLong ? cell.end : at + 1;
  }
  return found < LEAST_ROWS ? 0 : found;
}

/** Bytes of a record that is taken for one wherever it lies. */
const LEAST_OF_ROW = 16;

/** Where the list of a trunk ends; 0 where bytes begin with none. */
function trunkEnd(page: Uint8Array, usable: number): number {
  const [next, count] = [u32be(page, 0), u32be(page, 4)];
  const end = 8 + 4 * count;
  if (end + 4 > usable || (next !== 0 && !isListed(next))) return 0;
  for (let at = 8; at < end; at += 4) if (!isListed(u32be(page, at))) return 0;
  return end;
}

/** A list of one or two numbers shows little, so these must be those of a database of up to 16 GiB with pages of 4 KiB. */
function isListed(number: number): boolean {
  return number >= 2 && number < 1 << 22;
}

function isWholeRow(page: Uint8Array, at: number, usable: number): boolean {
  const cell = readCell(page, TABLE_LEAF, at, usable);
  if (!cell) return false;
  return isRecord(page, cell.payloadStart, cell.payloadStart + cell.local, cell.payload);
}

/**
 * Whether cells, free blocks and fragments of a page account for every byte
 * behind its unused gap (file format, section 1.6): chance does not, however
 * few cells there are.
 */
export function isFilledExactly(page: Uint8Array, usable: number): boolean {
  const header = readPageHeader(page, 2);
  if (!header) return false;
  let left = usable - header.contentStart - header.fragmentedBytes;
  for (let i = 0; i < header.cellCount; i++) {
    const cell = readCell(page, header.kind, u16be(page, header.pointers + 2 * i), usable);
    if (!cell) return false;
    left -= cell.end - cell.start;
  }
  for (let at = header.firstFreeBlock; at !== 0 && left > 0;) {
    if (at + 4 > usable) return false;
    left -= u16be(page, at + 2);
    const next = u16be(page, at);
    if (next !== 0 && next <= at) return false;
    at = next;
  }
  return left === 0;
}

/** Whether the cells of a page reach into its second half: a page of half the size would not. */
export function fillsItsSize(page: Uint8Array, usable: number): boolean {
  const header = readPageHeader(page, 2);
  if (!header) return false;
  for (let i = 0; i < header.cellCount; i++) {
    if (u16be(page, header.pointers + 2 * i) >= usable / 2) return true;
  }
  return false;
}

export function isPageKind(kind: number): boolean {
  return (
    kind === TABLE_LEAF || kind === TABLE_INTERIOR || kind === INDEX_LEAF || kind === INDEX_INTERIOR
  );
}

/** The row numbers on a page of a table tree in pointer order, with the child that each leads to (0 on leaves). */
export function pageKeys(page: Uint8Array, usable: number): { key: number; child: number }[] {
  const header = readPageHeader(page, 2);
  const out: { key: number; child: number }[] = [];
  if (!header) return out;
  for (let i = 0; i < header.cellCount; i++) {
    const cell = readCell(page, header.kind, u16be(page, header.pointers + 2 * i), usable);
    if (cell) out.push({ key: Number(cell.rowid), child: cell.leftChild });
  }
  return out;
}
