import { readVarint, readVarintSigned, u16be, u32be, type Varint } from '../../host';

/** Kinds of b-tree page by their first byte (file format, section 1.6). */
export const INDEX_INTERIOR = 0x02;
export const TABLE_INTERIOR = 0x05;
export const INDEX_LEAF = 0x0a;
export const TABLE_LEAF = 0x0d;

export interface PageHeader {
  kind: number;
  /** Where the b-tree header starts: 100 on page 1, else 0. */
  start: number;
  firstFreeBlock: number;
  cellCount: number;
  /** Offset of the cell content area; 0 in the file means 65536. */
  contentStart: number;
  fragmentedBytes: number;
  rightChild: number;
  /** Where the cell pointer array begins. */
  pointers: number;
}

function isBtreeKind(kind: number): boolean {
  return (
    kind === TABLE_LEAF || kind === TABLE_INTERIOR || kind === INDEX_LEAF || kind === INDEX_INTERIOR
  );
}

function isLeafKind(kind: number): boolean {
  return kind === TABLE_LEAF || kind === INDEX_LEAF;
}

/** Reads a b-tree page header, or null when the first byte names no kind or its counts cannot fit. */
export function readPageHeader(page: Uint8Array, number: number): PageHeader | null {
  const start = number === 1 ? 100 : 0;
  const kind = page[start]!;
  if (!isBtreeKind(kind)) return null;
  const leaf = isLeafKind(kind);
  const pointers = start + (leaf ? 8 : 12);
  const cellCount = u16be(page, start + 3);
  if (pointers + 2 * cellCount > page.length) return null;
  return {
    kind,
    start,
    firstFreeBlock: u16be(page, start + 1),
    cellCount,
    contentStart: u16be(page, start + 5) || 65536,
    fragmentedBytes: page[start + 7]!,
    rightChild: leaf ? 0 : u32be(page, start + 8),
    pointers
  };
}

/** A cell's parts, all offsets relative to its page. */
export interface Cell {
  start: number;
  /** Exclusive end of the cell's bytes on this page. */
  end: number;
  leftChild: number;
  rowid: number | bigint;
  /** Whole payload in bytes, overflow included. */
  payload: number;
  payloadStart: number;
  /** Payload bytes on this page. */
  local: number;
  /** First overflow page or 0. */
  overflow: number;
}

const scratch: Varint = { value: 0, size: 0 };

/** Bytes of a payload that stay on the page (section 1.6, "P, X, M, K"). */
export function localSize(payload: number, usable: number, tableLeaf: boolean): number {
  const most = tableLeaf ? usable - 35 : Math.floor(((usable - 12) * 64) / 255) - 23;
  if (payload <= most) return payload;
  const least = Math.floor(((usable - 12) * 32) / 255) - 23;
  const fit = least + ((payload - least) % (usable - 4));
  return fit <= most ? fit : least;
}

/** Parses the cell at `at`; null when its parts do not fit into the page. */
export function readCell(page: Uint8Array, kind: number, at: number, usable: number): Cell | null {
  if (at + 4 > usable) return null;
  let pos = at;
  const interior = kind === TABLE_INTERIOR || kind === INDEX_INTERIOR;
  const leftChild = interior ? u32be(page, pos) : 0;
  if (interior) pos += 4;
  let payload = 0;
  if (kind !== TABLE_INTERIOR) {
    const size = readVarint(page, pos, usable, scratch);
    if (size.size === 0) return null;
    payload = size.value;
    pos += size.size;
  }
  let rowid: number | bigint = 0;
  if (kind === TABLE_LEAF || kind === TABLE_INTERIOR) {
    const id = readVarintSigned(page, pos, usable);
    if (id.size === 0) return null;
    rowid = id.value;
    pos += id.size;
  }
  return finishCell(page, kind, usable, { start: at, leftChild, rowid, payload, pos });
}

function finishCell(
  page: Uint8Array,
  kind: number,
  usable: number,
  cell: { start: number; leftChild: number; rowid: number | bigint; payload: number; pos: number }
): Cell | null {
  const { start, leftChild, rowid, payload, pos } = cell;
  if (kind === TABLE_INTERIOR) {
    return {
      start,
      end: pos,
      leftChild,
      rowid,
      payload: 0,
      payloadStart: pos,
      local: 0,
      overflow: 0
    };
  }
  const local = localSize(payload, usable, kind === TABLE_LEAF);
  const spills = local < payload;
  // A cell takes four bytes at least, so that it can become a free block (section 1.6).
  const end = Math.max(pos + local + (spills ? 4 : 0), start + 4);
  if (end > usable) return null;
  const overflow = spills ? u32be(page, pos + local) : 0;
  return { start, end, leftChild, rowid, payload, payloadStart: pos, local, overflow };
}
