import { readVarint, readVarintSigned, type Varint } from '../../host';
import { serialSize } from '../format/record';
import type { Candidate, Region } from './candidate';
import { evaluate, type MatchContext, type Reading, type Searched } from './evaluate';
import type { Layout } from './layout';

const scratch: Varint = { value: 0, size: 0 };

/** The record header that starts at `at`: its size and serial types; null when it does not close exactly. */
export function readSerials(
  page: Uint8Array,
  at: number,
  limit: number,
  most: number
): { headerSize: number; serials: number[] } | null {
  const head = readVarint(page, at, limit, scratch);
  if (head.size === 0 || head.value < 2) return null;
  const headerSize = head.value;
  let pos = at + head.size;
  const end = at + headerSize;
  if (end > limit) return null;
  const serials: number[] = [];
  while (pos < end) {
    const serial = readVarint(page, pos, end, scratch);
    if (serial.size === 0 || serials.length >= most) return null;
    if (serial.size > 1 && page[pos] === 0x80) return null;
    serials.push(serial.value);
    pos += serial.size;
  }
  return { headerSize, serials };
}

/** Groups layouts by shape with the bounds of their header sizes, for a fast refusal. */
export class LayoutSet {
  readonly keyed: Layout[];
  readonly bare: Layout[];
  readonly byName: ReadonlyMap<string, Layout>;
  private readonly bounds: Record<'keyed' | 'bare', Bounds>;

  constructor(readonly all: Layout[]) {
    this.keyed = all.filter((layout) => layout.shape === 'keyed');
    this.byName = new Map(all.map((layout) => [layout.name, layout]));
    this.bare = all.filter((layout) => layout.shape === 'bare');
    this.bounds = { keyed: boundsOf(this.keyed), bare: boundsOf(this.bare) };
  }

  private readonly single = new Map<string, LayoutSet>();

  /** The layout of one table or index alone; none where it is not known. */
  only(name: string): LayoutSet {
    let known = this.single.get(name);
    if (!known) {
      known = new LayoutSet(this.all.filter((layout) => layout.name === name));
      this.single.set(name, known);
    }
    return known;
  }

  boundsOf(shape: 'keyed' | 'bare'): Bounds {
    return this.bounds[shape];
  }
}

interface Bounds {
  least: number;
  most: number;
  columns: number;
}

function boundsOf(layouts: Layout[]): Bounds {
  const bounds = { least: Infinity, most: 0, columns: 0 };
  for (const layout of layouts) {
    bounds.least = Math.min(bounds.least, layout.fewest + 1);
    // A serial type of text up to 2 GiB takes five bytes; wider headers do not occur.
    bounds.most = Math.max(bounds.most, 2 + 5 * layout.columns.length);
    bounds.columns = Math.max(bounds.columns, layout.columns.length);
  }
  return bounds;
}

const LENGTHS_AGREE = 14;
const NAMED_BY_POINTER = 12;

/** Finds cells of which no byte is overwritten, at every offset of the region. */
export function findIntact(searched: Searched, layouts: LayoutSet): Candidate[] {
  const found: Candidate[] = [];
  const { start, end } = searched.region;
  for (let at = start; at + 4 <= end; at++) tryShapes(searched, at, layouts, found);
  return found;
}

/** Cells of which no byte is overwritten that begin at one offset. */
export function intactAt(searched: Searched, at: number, layouts: LayoutSet): Candidate[] {
  const found: Candidate[] = [];
  if (at + 4 <= searched.region.end) tryShapes(searched, at, layouts, found);
  return found;
}

function tryShapes(searched: Searched, at: number, layouts: LayoutSet, found: Candidate[]): void {
  if (searched.page[at] === 0x80) return;
  if (layouts.keyed.length > 0) tryShape('keyed', searched, at, layouts, found);
  if (layouts.bare.length > 0) tryShape('bare', searched, at, layouts, found);
}

function tryShape(
  shape: 'keyed' | 'bare',
  { page, region, hints, context }: Searched,
  at: number,
  layouts: LayoutSet,
  found: Candidate[]
): void {
  const bounds = layouts.boundsOf(shape);
  const size = readVarint(page, at, region.end, scratch);
  if (size.size === 0 || size.value < bounds.least) return;
  const payload = size.value;
  let head = at + size.size;
  const rowStart = head;
  if (shape === 'keyed') head = skipVarint(page, head, region.end);
  if (head < 0 || head >= region.end) return;
  const first = page[head]!;
  if (first < 0x80 && (first < bounds.least || first > bounds.most || first > payload)) return;
  const record = readSerials(page, head, region.end, bounds.columns);
  if (!record || record.headerSize + bodySize(record.serials) !== payload) return;
  const rowid = shape === 'keyed' ? readVarintSigned(page, rowStart, head).value : null;
  const base = LENGTHS_AGREE + (hints.pointers.has(at) ? NAMED_BY_POINTER : 0);
  const reading: Reading = {
    start: at,
    rowid,
    serials: record.serials,
    headerSize: record.headerSize,
    headerStart: head,
    rebuilt: 0,
    base
  };
  pushFits(layouts[shape], page, reading, region, context, found);
}

export function pushFits(
  layouts: Layout[],
  page: Uint8Array,
  reading: Reading,
  region: Region,
  context: MatchContext,
  found: Candidate[]
): void {
  for (const layout of layouts) {
    const candidate = evaluate(layout, page, reading, region, context);
    if (candidate) found.push(candidate);
  }
}

/** Offset behind a varint of minimal length, or -1. */
function skipVarint(page: Uint8Array, at: number, end: number): number {
  if (page[at] === 0x80) return -1;
  for (let i = 0; i < 9 && at + i < end; i++) {
    if (page[at + i]! < 0x80 || i === 8) return at + i + 1;
  }
  return -1;
}

export function bodySize(serials: number[]): number {
  let size = 0;
  for (const serial of serials) size += serialSize(serial);
  return size;
}
