import { u16be } from '../../host';
import { LeafCells } from '../format/leaf-cells';
import { readCell, readPageHeader, TABLE_LEAF, type PageHeader } from '../format/page';
import { isBlank } from './blank';
import type { Hints, Region } from './candidate';
import type { PageUse } from './owners';

/** What of a page is to be searched, and where cells are known to begin. */
export interface SearchArea {
  regions: Region[];
  hints: Hints;
  /** Free blocks as spans, to say where a row was found. */
  blocks: Region[];
}

/** The parts of a page of the committed state that nothing uses. */
export function freeArea(
  page: Uint8Array,
  number: number,
  use: PageUse,
  usable: number
): SearchArea {
  switch (use.role) {
    case 'tree':
      return liveTreeArea(page, number, usable);
    case 'overflow':
    case 'trunk':
      return { ...nothing(), regions: [{ start: use.slack, end: usable }] };
    case 'free':
    case 'unknown':
      return staleArea(page, number, usable);
    case 'map':
    case 'lock':
      return nothing();
  }
}

/** A whole page image that is not part of the committed state: its cells count too. */
export function staleArea(page: Uint8Array, number: number, usable: number): SearchArea {
  const area: SearchArea = {
    ...nothing(),
    regions: [{ start: number === 1 ? 100 : 0, end: usable }]
  };
  const header = readPageHeader(page, number);
  if (!header) return area;
  const pointers = new Set<number>();
  for (let i = 0; i < header.cellCount; i++)
    pointers.add(recordStart(header, u16be(page, header.pointers + 2 * i)));
  area.blocks = freeBlocks(page, header, usable);
  area.hints = { pointers, blocks: startsOf(area.blocks) };
  return area;
}

/** Interior index cells carry a child page number before the record. */
function recordStart(header: PageHeader, at: number): number {
  return header.kind === 0x02 ? at + 4 : at;
}

function liveTreeArea(page: Uint8Array, number: number, usable: number): SearchArea {
  const area = nothing();
  const header = readPageHeader(page, number);
  if (!header) return area;
  area.blocks = freeBlocks(page, header, usable);
  area.hints.blocks = startsOf(area.blocks);
  const first = header.pointers + 2 * header.cellCount;
  const isPlain = header.kind === TABLE_LEAF && leaf.read(page, header, usable, usable);
  area.regions = isPlain
    ? betweenCells(leaf, first, usable)
    : complement(usedBy(page, header, usable), usable);
  const [gap] = area.regions;
  if (gap?.start === first && holdsPointersOnly(page, gap, usable)) area.regions.shift();
  return area;
}

const leaf = new LeafCells();
const starts = new Float64Array(leaf.start.length);

/** What lies between the cells of a leaf and behind its pointers. */
function betweenCells({ count, start, end }: LeafCells, first: number, usable: number): Region[] {
  // Ends go with their starts through the sorting: a page has fewer than 2^17 bytes.
  let isFalling = true;
  for (let i = 0; i < count; i++) {
    // Rows that are appended lie one before the other.
    const place = count - 1 - i;
    starts[place] = start[i]! * 0x2_0000 + end[i]!;
    if (i > 0 && starts[place]! > starts[place + 1]!) isFalling = false;
  }
  if (!isFalling) starts.subarray(0, count).sort();
  const free: Region[] = [];
  let at = first;
  for (let i = 0; i < count; i++) {
    const cell = starts[i]!;
    const from = Math.floor(cell / 0x2_0000);
    if (from - at >= 4) free.push({ start: at, end: from });
    at = Math.max(at, cell % 0x2_0000);
  }
  if (usable - at >= 4) free.push({ start: at, end: usable });
  return free;
}

function usedBy(page: Uint8Array, header: PageHeader, usable: number): Region[] {
  const used: Region[] = [{ start: 0, end: header.pointers + 2 * header.cellCount }];
  for (let i = 0; i < header.cellCount; i++) {
    const at = u16be(page, header.pointers + 2 * i);
    const cell = readCell(page, header.kind, at, usable);
    if (cell) used.push({ start: cell.start, end: cell.end });
  }
  return used;
}

/** Most bytes of pointers that deleted cells leave behind their array for this to be looked for. */
const MOST_POINTERS = 256;

/** Whether nothing but old cell pointers lies before the cells, as on every page from which cells were deleted. */
function holdsPointersOnly(page: Uint8Array, { start, end }: Region, usable: number): boolean {
  let at = start;
  while (at + 2 <= end && at - start < MOST_POINTERS) {
    const pointer = u16be(page, at);
    if (pointer < end || pointer >= usable) break;
    at += 2;
  }
  return isBlank(page, at, end);
}

/** Follows the chain of free blocks; it runs upwards, so a step back ends it. */
function freeBlocks(page: Uint8Array, header: PageHeader, usable: number): Region[] {
  const blocks: Region[] = [];
  let at = header.firstFreeBlock;
  let floor = header.pointers;
  while (at >= floor && at + 4 <= usable) {
    const size = u16be(page, at + 2);
    if (size < 4 || at + size > usable) break;
    blocks.push({ start: at, end: at + size });
    floor = at + size;
    at = u16be(page, at);
  }
  return blocks;
}

function complement(used: Region[], usable: number): Region[] {
  used.sort((a, b) => a.start - b.start);
  const free: Region[] = [];
  let at = 0;
  for (const { start, end } of used) {
    if (start > at) free.push({ start: at, end: start });
    at = Math.max(at, end);
  }
  if (at < usable) free.push({ start: at, end: usable });
  return free.filter((region) => region.end - region.start >= 4);
}

function startsOf(blocks: Region[]): ReadonlySet<number> {
  if (blocks.length === 0) return NONE;
  const starts = new Set<number>();
  for (const { start } of blocks) starts.add(start);
  return starts;
}

const NONE: ReadonlySet<number> = new Set();

function nothing(): SearchArea {
  return { regions: [], hints: { pointers: NONE, blocks: NONE }, blocks: [] };
}
