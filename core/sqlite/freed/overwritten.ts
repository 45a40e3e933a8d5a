import { readVarint, u16be, varintSize, type Varint } from '../../bytes';
import type { Candidate, Hints, Region } from './candidate';
import { cellEnd, type MatchContext, type Reading } from './evaluate';
import { bodySize, pushFits, readSerials, type LayoutSet } from './intact';
import { suits, type Layout } from './layout';
import { serialSize } from '../record';

/**
 * Cells whose first four bytes became a free block's header (file format,
 * section 1.6): next block and size took the place of payload length, row
 * number and, when those were short, of the header length and the first
 * serial types. What is lost follows from the rest and from the layout.
 */
const LOST = 4;
const scratch: Varint = { value: 0, size: 0 };

const AT_BLOCK = 10;
const AT_OLD_BLOCK = 4;
const HEADER_LENGTH_AGREES = 7;
const END_AGREES = 6;
/** A suspected block whose own size leads to a known bound was a block. */
const SIZE_LEADS_TO_BOUND = 6;
const SIZE_IS_CELL = 8;

interface Attempt {
  page: Uint8Array;
  start: number;
  region: Region;
  context: MatchContext;
  base: number;
  /** The block is in the page's chain of free blocks, not only alike. */
  certain: boolean;
  /** Offsets at which a neighbour is known to begin. */
  ends: Set<number>;
  /** End that the block's header declares; only for suspected blocks. */
  declared: number | undefined;
  found: Candidate[];
}

/** Finds overwritten cells at free blocks and at what look like older free blocks that were merged. */
export function findOverwritten(
  page: Uint8Array,
  region: Region,
  layouts: LayoutSet,
  hints: Hints,
  context: MatchContext,
  intact: Candidate[],
  owner: string | null
): Candidate[] {
  const found: Candidate[] = [];
  const old = oldBlocks(page, region, context.usable);
  const ends = knownEnds(region, hints, old, intact);
  for (const start of new Set([...hints.blocks, ...old.keys()])) {
    if (start < region.start || start + LOST >= region.end) continue;
    const certain = hints.blocks.has(start);
    const base = certain ? AT_BLOCK : AT_OLD_BLOCK;
    const declared = certain ? undefined : old.get(start);
    const attempt: Attempt = { page, start, region, context, base, certain, ends, declared, found };
    for (const layout of layouts.all) {
      if (!certain && !layout.wanted) continue;
      // Index entries only help; off their own pages they are not worth guessing.
      if (layout.index && owner !== layout.name) continue;
      if (layout.shape === 'keyed') tryKeyed(attempt, layout);
      else tryBare(attempt, layout);
    }
  }
  return found;
}

/** Readings of a free block as one cell of a given layout that ends with the region. */
export function overwrittenAt(
  page: Uint8Array,
  region: Region,
  layout: Layout,
  context: MatchContext
): Candidate[] {
  const { start, end } = region;
  const found: Candidate[] = [];
  // Up to three bytes too few for a block of their own stay behind a cell.
  const ends = new Set([end, end - 1, end - 2, end - 3]);
  const attempt: Attempt = {
    page,
    start,
    region,
    context,
    base: AT_BLOCK,
    certain: true,
    ends,
    declared: undefined,
    found
  };
  if (layout.shape === 'keyed') tryKeyed(attempt, layout);
  else tryBare(attempt, layout);
  return found;
}

/** Offsets whose bytes could be the header of a block that was later merged, with the end it declared. */
function oldBlocks(page: Uint8Array, region: Region, usable: number): Map<number, number> {
  const old = new Map<number, number>();
  for (let at = region.start; at + LOST < region.end; at++) {
    const next = u16be(page, at);
    const size = u16be(page, at + 2);
    if (size < 4 || at + size > usable) continue;
    if (next !== 0 && (next < at + size || next + 4 > usable)) continue;
    old.set(at, at + size);
  }
  return old;
}

function knownEnds(
  region: Region,
  hints: Hints,
  old: Map<number, number>,
  intact: Candidate[]
): Set<number> {
  const ends = new Set<number>(hints.blocks);
  // Up to three bytes too few for a block of their own stay behind a cell.
  for (let i = 0; i < 4; i++) ends.add(region.end - i);
  for (const [start] of old) ends.add(start);
  for (const candidate of intact) ends.add(candidate.start);
  return ends;
}

function tryKeyed(attempt: Attempt, layout: Layout): void {
  const { start, page, region } = attempt;
  tryHeaderAt(attempt, layout, start + 4);
  const tail = rowidTail(page, start + LOST, region.end);
  if (tail > 0) tryHeaderAt(attempt, layout, start + LOST + tail);
  tryLostHeader(attempt, layout, start + 3, NOTHING_LOST);
  tryLostHeader(attempt, layout, start + 2, guesses(layout, 1));
}

const NOTHING_LOST: Guess[] = [{ serials: [], half: 0, size: 0 }];

function tryBare(attempt: Attempt, layout: Layout): void {
  const { start } = attempt;
  tryLostHeader(attempt, layout, start + 3, NOTHING_LOST);
  tryLostHeader(attempt, layout, start + 2, guesses(layout, 1));
  tryLostHeader(attempt, layout, start + 1, guesses(layout, 2));
}

/** Length of the surviving end of a long row number: continuation bytes, then one below 0x80. */
function rowidTail(page: Uint8Array, at: number, end: number): number {
  for (let i = 0; i < 8 && at + i < end; i++) {
    if (page[at + i]! < 0x80) return i + 1;
  }
  return 0;
}

/** The record header survived whole. */
function tryHeaderAt(attempt: Attempt, layout: Layout, head: number): void {
  const { page, region } = attempt;
  const record = readSerials(page, head, region.end, layout.columns.length);
  if (!record) return;
  const { headerSize, serials } = record;
  const base = attempt.base + HEADER_LENGTH_AGREES;
  judge(attempt, layout, { head, headerSize, serials, base, guessed: false });
}

/** The header's length, and perhaps the first serial types, are lost; `starts` are the guesses for those. */
function tryLostHeader(attempt: Attempt, layout: Layout, head: number, starts: Guess[]): void {
  const first = starts[0];
  if (!first) return;
  const sure =
    first.serials.length === 0 || (layout.columns[0]!.isRowid && first.serials.length === 1);
  for (let count = layout.columns.length; count >= layout.shortest; count--) {
    for (const half of [false, true]) {
      const group = starts.filter((guess) => guess.half > 0 === half);
      if (group.length > 0) tryGroup(attempt, layout, head, count, group, !sure);
    }
  }
}

/** All guesses of a group leave the same serial types to be read, so those are read once. */
function tryGroup(
  attempt: Attempt,
  layout: Layout,
  head: number,
  count: number,
  group: Guess[],
  guessed: boolean
): void {
  const { page, start, base } = attempt;
  const half = group[0]!.half > 0;
  const low = page[start + LOST]!;
  if (half && low >= 0x80) return;
  const lost = group[0]!.serials.length + (half ? 1 : 0);
  const rest = restSerials(attempt, layout, start + LOST + (half ? 1 : 0), lost, count);
  if (!rest) return;
  for (const guess of group) {
    const last = half ? guess.half * 128 + low : -1;
    const headerSize = 1 + guess.serials.length + (half ? 2 : 0) + rest.bytes;
    if (headerSize > 127) continue;
    const payload = headerSize + guess.size + (half ? serialSize(last) : 0) + rest.body;
    if (!endsRight(attempt, layout, head, payload, guessed)) continue;
    const serials = [...guess.serials, ...(half ? [last] : []), ...rest.serials];
    judge(attempt, layout, { head, headerSize, serials, base, guessed });
  }
}

/** Serial types that lost their bytes: whole ones of one byte each, then perhaps one that kept its second byte. */
interface Guess {
  serials: number[];
  /** High bits of the serial type whose low seven bits survived; 0 when there is none. */
  half: number;
  /** Bytes of the values of `serials`. */
  size: number;
}

interface Rest {
  serials: number[];
  /** Bytes that they take in the header. */
  bytes: number;
  /** Bytes of their values. */
  body: number;
}

function restSerials(
  attempt: Attempt,
  layout: Layout,
  from: number,
  first: number,
  count: number
): Rest | null {
  const { page, region } = attempt;
  const rest: Rest = { serials: [], bytes: 0, body: 0 };
  for (let i = first; i < count; i++) {
    const pos = from + rest.bytes;
    if (page[pos] === 0x80) return null;
    const serial = readVarint(page, pos, region.end, scratch);
    if (serial.size === 0 || suits(layout, i, serial.value) === null) return null;
    rest.serials.push(serial.value);
    rest.bytes += serial.size;
    rest.body += serialSize(serial.value);
  }
  return rest;
}

/** What was guessed, or lies where a block is only suspected, needs a neighbour that begins at its end. */
function endsRight(
  attempt: Attempt,
  layout: Layout,
  head: number,
  payload: number,
  guessed: boolean
): boolean {
  if (!guessed && attempt.certain) return true;
  return attempt.ends.has(cellEnd(layout, attempt.start, head, payload, attempt.context.usable));
}

interface Judged {
  head: number;
  headerSize: number;
  serials: number[];
  base: number;
  /** Serial types were guessed: only a known end makes them believable. */
  guessed: boolean;
}

function judge(attempt: Attempt, layout: Layout, judged: Judged): void {
  const { start, page, region, context, ends, found } = attempt;
  const { head, headerSize, serials } = judged;
  if (serials.some((serial, i) => suits(layout, i, serial) === null)) return;
  const payload = headerSize + bodySize(serials);
  const lengthSize = varintSize(payload);
  const rowidSize = head - start - lengthSize;
  if (layout.shape === 'keyed' ? rowidSize < 1 || rowidSize > 9 : rowidSize !== 0) return;
  if (!endsRight(attempt, layout, head, payload, judged.guessed)) return;
  const end = cellEnd(layout, start, head, payload, context.usable);
  const agrees = ends.has(end);
  const reading: Reading = {
    start,
    rowid: null,
    serials,
    headerSize,
    headerStart: head,
    rebuilt: LOST,
    base: judged.base + (agrees ? END_AGREES : 0) + declaredEvidence(attempt, end)
  };
  pushFits([layout], page, reading, region, context, found);
}

function declaredEvidence({ declared, region }: Attempt, end: number): number {
  if (declared === undefined) return 0;
  if (declared === end) return SIZE_IS_CELL;
  return declared === region.end ? SIZE_LEADS_TO_BOUND : 0;
}

const guessCache = new WeakMap<Layout, Map<number, Guess[]>>();

/** All serial types that the first columns could have had in the `lost` bytes. */
function guesses(layout: Layout, lost: 1 | 2): Guess[] {
  const known = guessCache.get(layout) ?? new Map<number, Guess[]>();
  guessCache.set(layout, known);
  let list = known.get(lost);
  if (!list) {
    list = lost === 1 ? guessOne(layout, 0) : guessTwo(layout);
    known.set(lost, list);
  }
  return list;
}

function guessOne(layout: Layout, at: number): Guess[] {
  const out: Guess[] = shortSerials(layout, at).map((serial) => ({
    serials: [serial],
    half: 0,
    size: serialSize(serial)
  }));
  // Text of more than 57 bytes has a serial type of two bytes, of which the second survived.
  if (takesText(layout, at))
    for (let half = 1; half <= 8; half++) out.push({ serials: [], half, size: 0 });
  return out;
}

function guessTwo(layout: Layout): Guess[] {
  if (layout.columns.length < 2) return [];
  const second = guessOne(layout, 1);
  return shortSerials(layout, 0).flatMap((serial) =>
    second.map((guess) => ({
      serials: [serial, ...guess.serials],
      half: guess.half,
      size: serialSize(serial) + guess.size
    }))
  );
}

function shortSerials(layout: Layout, at: number): number[] {
  const out: number[] = [];
  for (let serial = 0; serial < 128; serial++) {
    const fit = at < layout.columns.length ? suits(layout, at, serial) : null;
    if (fit !== null && fit > -3) out.push(serial);
  }
  return out;
}

function takesText(layout: Layout, at: number): boolean {
  return (suits(layout, at, 129) ?? -9) > -3;
}
