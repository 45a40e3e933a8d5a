import {
  readVarint,
  u16be,
  u32be,
  type ByteSource,
  type TextEncoding,
  type Varint
} from '../../host';
import { PAGE_SIZES, type DatabaseHeader } from '../format/header';
import { readCell, readPageHeader, TABLE_LEAF } from '../format/page';
import { serialSize } from '../format/record';
import { fillsItsSize, isBtreePage } from '../format/page-check';

/** Places tried for each size; pages identify themselves, so few are enough. */
const TRIED = 160;
const LEAST_PAGES = 2;

/** The page size under which most of a file identifies itself as b-tree pages; null when none does. */
export function guessPageSize(file: ByteSource): number | null {
  let best: { size: number; share: number; pages: number } | null = null;
  for (const size of PAGE_SIZES) {
    const { pages, tried } = countPages(file, size);
    const share = tried === 0 ? 0 : pages / tried;
    const enough = pages >= Math.min(LEAST_PAGES, Math.floor(file.size / size));
    if (enough && pages > 0 && share > (best?.share ?? 0)) best = { size, share, pages };
  }
  return best?.size ?? null;
}

function countPages(file: ByteSource, size: number): { pages: number; tried: number } {
  const all = Math.floor(file.size / size);
  const step = Math.max(1, Math.floor(all / TRIED));
  let pages = 0;
  let tried = 0;
  for (let i = 0; i < all; i += step) {
    const page = file.read(i * size, size);
    tried++;
    if (isBtreePage(page, size) && fillsItsSize(page, size)) pages++;
  }
  return { pages, tried };
}

/**
 * A header for a file whose own is gone: page size as found by trying, text
 * encoding by the texts themselves, free list and pointer maps by their shape.
 */
export function guessHeader(file: ByteSource, pageSize: number): DatabaseHeader {
  const pages = Math.floor(file.size / pageSize);
  const read = (number: number): Uint8Array => file.read((number - 1) * pageSize, pageSize);
  const list = findFreeList(read, pages, pageSize);
  return {
    ...syntheticHeader(pageSize, pages, guessEncoding(read, pages, pageSize)),
    freelistTrunk: list.trunk,
    freelistCount: list.count,
    autoVacuum: pages > 1 && isPointerMap(read(2), pages, pageSize)
  };
}

/** A header for pages that came without one. */
export function syntheticHeader(
  pageSize: number,
  pageCount: number,
  encoding: TextEncoding
): DatabaseHeader {
  return {
    pageSize,
    reserved: 0,
    usable: pageSize,
    pageCount,
    changeCounter: 0,
    versionValidFor: 0,
    freelistTrunk: 0,
    freelistCount: 0,
    schemaFormat: 4,
    encoding,
    autoVacuum: false,
    walMode: false
  };
}

const SAMPLE_BYTES = 20_000;
const scratch: Varint = { value: 0, size: 0 };

/** UTF-16 shows in texts as zero bytes at every other place. */
export function guessEncoding(
  read: (number: number) => Uint8Array,
  pages: number,
  usable: number
): TextEncoding {
  const zeros = [0, 0];
  let seen = 0;
  const step = Math.max(1, Math.floor(pages / 200));
  for (let number = 1; number <= pages && seen < SAMPLE_BYTES; number += step) {
    const page = read(number);
    const at = number === 1 ? 1 : 2;
    if (!isBtreePage(page, usable, at)) continue;
    for (const [start, end] of textsOf(page, usable, at)) {
      for (let i = start; i < end; i++) if (page[i] === 0) zeros[(i - start) & 1]!++;
      seen += end - start;
    }
  }
  if (zeros[1]! > seen * 0.15 && zeros[1]! > zeros[0]! * 2) return 'utf-16le';
  if (zeros[0]! > seen * 0.15 && zeros[0]! > zeros[1]! * 2) return 'utf-16be';
  return 'utf-8';
}

/** Where texts lie on a table leaf, as far as they are on the page itself. */
function* textsOf(page: Uint8Array, usable: number, number: number): Generator<[number, number]> {
  const header = readPageHeader(page, number);
  if (header?.kind !== TABLE_LEAF) return;
  for (let i = 0; i < header.cellCount; i++) {
    const cell = readCell(page, header.kind, u16be(page, header.pointers + 2 * i), usable);
    if (!cell) continue;
    const limit = cell.payloadStart + cell.local;
    const head = readVarint(page, cell.payloadStart, limit, scratch).value;
    let at = cell.payloadStart + head;
    for (let pos = cell.payloadStart + scratch.size; pos < cell.payloadStart + head;) {
      const { value, size } = readVarint(page, pos, limit, scratch);
      if (size === 0) break;
      const end = at + serialSize(value);
      if (end > limit) break;
      if (value >= 13 && value % 2 === 1) yield [at, end];
      at = end;
      pos += size;
    }
  }
}

/** Free-list trunks by their shape: a next trunk, a count, and that many page numbers, each once. */
function findFreeList(
  read: (number: number) => Uint8Array,
  pages: number,
  usable: number
): { trunk: number; count: number } {
  const next = new Map<number, number>();
  let count = 0;
  for (let number = 2; number <= pages; number++) {
    const page = read(number);
    if (page.length < usable || !isTrunk(page, pages, usable)) continue;
    next.set(number, u32be(page, 0));
    count += 1 + u32be(page, 4);
  }
  const followed = new Set(next.values());
  const heads = [...next.keys()].filter((number) => !followed.has(number));
  return heads.length === 1 ? { trunk: heads[0]!, count } : { trunk: 0, count: 0 };
}

const LEAST_LEAVES = 1;

function isTrunk(page: Uint8Array, pages: number, usable: number): boolean {
  const next = u32be(page, 0);
  const count = u32be(page, 4);
  if (next === 1 || next > pages || count < LEAST_LEAVES || count > usable / 4 - 2) return false;
  const seen = new Set<number>();
  for (let i = 0; i < count; i++) {
    const leaf = u32be(page, 8 + 4 * i);
    if (leaf < 2 || leaf > pages || seen.has(leaf)) return false;
    seen.add(leaf);
  }
  return true;
}

/** Entries of one type byte, 1 to 5, and a parent (file format, section 1.8). */
function isPointerMap(page: Uint8Array, pages: number, usable: number): boolean {
  const entries = Math.min(Math.floor(usable / 5), pages - 2, 20);
  if (entries < 1) return false;
  for (let i = 0; i < entries; i++) {
    const type = page[5 * i]!;
    const parent = u32be(page, 5 * i + 1);
    if (type < 1 || type > 5 || parent > pages) return false;
    if ((type === 1 || type === 2) !== (parent === 0)) return false;
  }
  return true;
}
