import { append, readVarint, u16be, varintSize, type Varint } from '../../host';
import type { Candidate, Hints, Region } from './candidate';
import { cellEnd, mayHold, type MatchContext, type Reading, type Searched } from './evaluate';
import { IMPOSSIBLE } from './evidence';
import { groupBy } from './group';
import { bodySize, pushFits, readSerials, type LayoutSet } from './intact';
import { suits, type Layout } from './layout';
import type { Letters } from './letters';
import { serialSize } from '../format/record';

/**
 * Cells whose first four bytes became a free block's header (file format,
 * section 1.6): next block and size took the place of payload length, row
 * number and, when those were short, of the header length and the first
 * serial types. What is lost follows from the rest and from the layout.
 */
export const LOST = 4;
const scratch: Varint = { value: 0, size: 0 };

export const AT_BLOCK = 10;
const AT_OLD_BLOCK = 4;
export const HEADER_LENGTH_AGREES = 7;
export const END_AGREES = 6;
/** Bytes too few for a block of their own are left behind a cell now and then. */
export const NEAR_END_AGREES = 4;
/** A suspected block whose own size leads to a known bound was a block. */
const SIZE_LEADS_TO_BOUND = 6;
const SIZE_IS_CELL = 8;
/** Evidence that no guess at a lost header comes near to. */
export const CERTAIN = 66;

interface Attempt {
  page: Uint8Array;
  start: number;
  region: Region;
  context: MatchContext;
  base: number;
  /** The block is in the page's chain of free blocks, not only alike. */
  certain: boolean;
  /** Offsets at which a neighbour is known to begin. */
  ends: KnownEnds;
  /** End that the block's header declares; only for suspected blocks. */
  declared: number | undefined;
  found: Candidate[];
}

/** Finds overwritten cells at free blocks and at what look like older free blocks that were merged. */
export function findOverwritten(
  { page, region, hints, context }: Searched,
  layouts: LayoutSet,
  intact: Candidate[],
  owner: string | null
): Candidate[] {
  const found: Candidate[] = [];
  const old = oldBlocks(page, region, context.usable);
  const inside = blocksInside(hints, region);
  const ends = knownEnds(region, hints, inside, old, intact);
  const chained = chainedCells(intact, owner);
  for (const start of new Set([...inside, ...old.keys()])) {
    if (start + LOST >= region.end) continue;
    const certain = hints.blocks.has(start);
    if (!certain && isWithin(chained, start)) continue;
    const base = certain ? AT_BLOCK : AT_OLD_BLOCK;
    const declared = certain ? undefined : old.get(start);
    const attempt: Attempt = { page, start, region, context, base, certain, ends, declared, found };
    for (const layout of layouts.all) {
      if (!certain && !layout.wanted) continue;
      // Index entries only help; off their own pages they are not worth guessing.
      if (layout.index && owner !== layout.name) continue;
      const known = certain ? foundBefore(attempt, layout) : null;
      if (known) append(found, known);
      else tryLayout(attempt, layout);
    }
  }
  return found;
}

/** Cells in a row that are no chance any more. */
const SHORTEST_CHAIN = 3;

/**
 * Stretches of intact cells of the page's own tree, each of which begins where
 * the one before ends: what looks like an old block among their bytes is none.
 */
function chainedCells(intact: readonly Candidate[], owner: string | null): Region[] {
  const ends = new Map<number, number>();
  for (const { layout, start, end, cut } of intact)
    if (layout.name === owner && !cut && !ends.has(start)) ends.set(start, end);
  const chains: Region[] = [];
  for (const start of ends.keys()) {
    if (start < (chains.at(-1)?.end ?? 0)) continue;
    let end = start;
    let length = 0;
    for (let next = ends.get(end); next !== undefined; next = ends.get(end), length++) end = next;
    if (length >= SHORTEST_CHAIN) chains.push({ start, end });
  }
  return chains;
}

function isWithin(regions: readonly Region[], at: number): boolean {
  return regions.some(({ start, end }) => at >= start && at < end);
}

/** Looks for readings of a free block as one cell of a given layout that ends with the region. */
type BlockSearch = (
  page: Uint8Array,
  region: Region,
  layout: Layout,
  context: MatchContext
) => Candidate[];

/** All of them. */
export const overwrittenAt: BlockSearch = (page, region, layout, context) => {
  const attempt = attemptAt(page, region, context);
  tryLayout(attempt, layout);
  last = { page, region, layout, found: attempt.found.slice() };
  return attempt.found;
};

/** Those alone that end where the block does: nearly every cell that was freed by itself. */
export const filledAt: BlockSearch = (page, region, layout, context) => {
  const attempt = attemptAt(page, region, context, new Set([region.end]));
  tryLayout(attempt, layout);
  return attempt.found;
};

/** What was found last of a block as one cell: where nothing else can begin in it, it is asked about again at once. */
let last: { page: Uint8Array; region: Region; layout: Layout; found: Candidate[] } | null = null;

function foundBefore({ page, region, start, ends }: Attempt, layout: Layout): Candidate[] | null {
  const isSame = last?.page === page && last.region === region && last.layout === layout;
  // Beside the four ends of the block itself no other is known but its own beginning.
  return isSame && start === region.start && ends.near.size === 5 ? last!.found : null;
}

/** Those of a keyed layout whose record header is lost in part. */
export const guessedAt: BlockSearch = (page, region, layout, context) => {
  const attempt = attemptAt(page, region, context);
  tryKeyedGuesses(attempt, layout);
  return attempt.found;
};

function attemptAt(
  page: Uint8Array,
  region: Region,
  context: MatchContext,
  ends = endsOf(region)
): Attempt {
  const { start } = region;
  return {
    page,
    start,
    region,
    context,
    base: AT_BLOCK,
    certain: true,
    ends: new KnownEnds(ends, NO_BLOCKS),
    declared: undefined,
    found: []
  };
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

/** Where neighbours begin: in a region, and on the rest of its page. */
class KnownEnds {
  constructor(
    readonly near: ReadonlySet<number>,
    private readonly blocks: ReadonlySet<number>
  ) {}

  has(at: number): boolean {
    return this.near.has(at) || this.blocks.has(at);
  }
}

const NO_BLOCKS: ReadonlySet<number> = new Set();

/** Up to three bytes too few for a block of their own stay behind a cell. */
function endsOf({ end }: Region): Set<number> {
  return new Set([end, end - 1, end - 2, end - 3]);
}

function blocksInside({ blocks }: Hints, { start, end }: Region): number[] {
  const inside: number[] = [];
  for (const at of blocks) if (at >= start && at < end) inside.push(at);
  return inside;
}

function knownEnds(
  region: Region,
  hints: Hints,
  inside: readonly number[],
  old: Map<number, number>,
  intact: Candidate[]
): KnownEnds {
  const near = endsOf(region);
  for (const start of inside) near.add(start);
  for (const [start] of old) near.add(start);
  for (const candidate of intact) near.add(candidate.start);
  return new KnownEnds(near, hints.blocks);
}

function tryLayout(attempt: Attempt, layout: Layout): void {
  if (layout.shape === 'keyed') tryKeyed(attempt, layout);
  else tryBare(attempt, layout);
}

function tryKeyed(attempt: Attempt, layout: Layout): void {
  const { start, page, region } = attempt;
  const before = attempt.found.length;
  tryHeaderAt(attempt, layout, start + 4);
  const tail = rowidTail(page, start + LOST, region.end);
  if (tail > 0) tryHeaderAt(attempt, layout, start + LOST + tail);
  for (const length of nineByteTails(page, start + LOST, region.end))
    if (length !== tail) tryHeaderAt(attempt, layout, start + LOST + length);
  // A header that survived and agrees in everything needs no guess beside it.
  if (attempt.certain && attempt.found.slice(before).some(({ score }) => score >= CERTAIN)) return;
  tryKeyedGuesses(attempt, layout);
}

function tryKeyedGuesses(attempt: Attempt, layout: Layout): void {
  const { start } = attempt;
  tryLostHeader(attempt, layout, start + 3, NOTHING_LOST);
  tryLostHeader(attempt, layout, start + 2, guesses(layout, 1));
}

const NOTHING_LOST: Guesses = {
  groups: [{ lost: 0, half: 0, bySize: new Map([[0, [{ serials: [], size: 0 }]]]) }],
  sure: true
};

function tryBare(attempt: Attempt, layout: Layout): void {
  const { start, region, context } = attempt;
  // Payloads whose lengths take two bytes or three do not end within regions this short.
  const spilt = leastSpilt(context.usable);
  if (start + 3 + spilt <= region.end) tryLostHeader(attempt, layout, start + 3, NOTHING_LOST);
  if (start + 2 + Math.min(128, spilt) <= region.end)
    tryLostHeader(attempt, layout, start + 2, guesses(layout, 1));
  tryLostHeader(attempt, layout, start + 1, guesses(layout, 2));
}

/** What stays of a payload on its page at least where it spills (file format, section 1.6). */
function leastSpilt(usable: number): number {
  return Math.floor(((usable - 12) * 32) / 255) - 23;
}

/** Length of the surviving end of a long row number: continuation bytes, then one below 0x80. */
function rowidTail(page: Uint8Array, at: number, end: number): number {
  for (let i = 0; i < 8 && at + i < end; i++) {
    if (page[at + i]! < 0x80) return i + 1;
  }
  return 0;
}

/**
 * What can be left of a row number of nine bytes, as negative ones and those
 * past 2^56 have: all of its bytes but the last are continued, and the last
 * one may be anything.
 */
function nineByteTails(page: Uint8Array, at: number, end: number): number[] {
  let continued = 0;
  while (continued < 7 && at + continued < end && page[at + continued]! >= 0x80) continued++;
  // Payload lengths of one to three bytes stand before it.
  return [6, 7, 8].filter((tail) => continued >= tail - 1);
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
function tryLostHeader(attempt: Attempt, layout: Layout, head: number, starts: Guesses): void {
  for (let count = layout.columns.length; count >= layout.shortest; count--)
    for (const group of starts.groups) tryGroup(attempt, layout, head, count, group, !starts.sure);
}

/** All guesses of a group leave the same serial types to be read, so those are read once. */
function tryGroup(
  attempt: Attempt,
  layout: Layout,
  head: number,
  count: number,
  { lost, half, bySize }: GuessGroup,
  guessed: boolean
): void {
  const { page, start, base, ends } = attempt;
  const low = page[start + LOST]!;
  if (half > 0 && low >= 0x80) return;
  const from = start + LOST + (half > 0 ? 1 : 0);
  const rest = restSerials(attempt, layout, from, lost + (half > 0 ? 1 : 0), count);
  if (!rest) return;
  const last = half > 0 ? [half * 128 + low] : [];
  const headerSize = 1 + lost + 2 * last.length + rest.bytes;
  if (headerSize > 127) return;
  const known = headerSize + bodySize(last) + rest.body;
  const tryAll = (size: number, guesses: readonly Guess[] | undefined): void => {
    if (!guesses || !endsRight(attempt, layout, head, known + size, guessed)) return;
    // A guess may take any size, so that a number needs its size is no evidence for it.
    const doubt = guessed ? DOUBT_A_BYTE * size : 0;
    for (const guess of guesses) {
      const serials = joined(guess.serials, last, rest.serials);
      judge(attempt, layout, { head, headerSize, serials, base: base - doubt, guessed, doubt });
    }
  };
  // What does not spill ends where its size says: of few known ends each gives one size.
  const spills = known + LARGEST_GUESS > leastLocal(layout, attempt.context.usable);
  if (guessed && !spills && ends.near.size < bySize.size)
    for (const end of ends.near) tryAll(end - head - known, bySize.get(end - head - known));
  else for (const [size, guesses] of bySize) tryAll(size, guesses);
}

/** Short lists one behind the other; the engine's own way takes several times as long for them. */
function joined(...lists: readonly number[][]): number[] {
  const all: number[] = [];
  for (const list of lists) for (let i = 0; i < list.length; i++) all.push(list[i]!);
  return all;
}

/** Bytes of the values of serial types that were lost whole: two short texts at most. */
const LARGEST_GUESS = 2 * 57;

/** Payloads up to this size never spill (file format, section 1.6). */
function leastLocal(layout: Layout, usable: number): number {
  return layout.shape === 'keyed' ? usable - 35 : Math.floor(((usable - 12) * 64) / 255) - 23;
}

const DOUBT_A_BYTE = 0.75;

/** Serial types that lost their bytes, of one byte each. */
interface Guess {
  serials: number[];
  /** Bytes of their values. */
  size: number;
}

/** Guesses that leave the same bytes to be read. */
interface GuessGroup {
  /** Serial types that were lost whole. */
  lost: number;
  /** High bits of a serial type of two bytes of which the second survived; 0 when there is none. */
  half: number;
  bySize: Map<number, Guess[]>;
}

interface Guesses {
  groups: GuessGroup[];
  /** There is only one possibility. */
  sure: boolean;
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
    if (serial.size === 0 || suits(layout, i, serial.value) === IMPOSSIBLE) return null;
    rest.serials.push(serial.value);
    rest.bytes += serial.size;
    rest.body += serialSize(serial.value);
  }
  return rest;
}

/** What was guessed, or lies where a block is only suspected, needs a neighbour that begins at its end. */
function needsEnd({ certain }: Attempt, guessed: boolean): boolean {
  return guessed || !certain;
}

function endsRight(
  attempt: Attempt,
  layout: Layout,
  head: number,
  payload: number,
  guessed: boolean
): boolean {
  if (!needsEnd(attempt, guessed)) return true;
  return attempt.ends.has(cellEnd(layout, attempt.start, head, payload, attempt.context.usable));
}

interface Judged {
  head: number;
  headerSize: number;
  serials: number[];
  base: number;
  /** Serial types were guessed: only a known end makes them believable. */
  guessed: boolean;
  doubt?: number;
}

function judge(attempt: Attempt, layout: Layout, judged: Judged): void {
  const { start, page, region, context, ends, found } = attempt;
  const { head, headerSize, serials } = judged;
  const payload = headerSize + bodySize(serials);
  const lengthSize = varintSize(payload);
  const rowidSize = head - start - lengthSize;
  if (layout.shape === 'keyed' ? rowidSize < 1 || rowidSize > 9 : rowidSize !== 0) return;
  const end = cellEnd(layout, start, head, payload, context.usable);
  const agrees = ends.has(end);
  if (!agrees && needsEnd(attempt, judged.guessed)) return;
  const reading: Reading = {
    start,
    rowid: null,
    serials,
    headerSize,
    headerStart: head,
    rebuilt: LOST,
    guessed: judged.guessed,
    doubt: judged.doubt ?? 0,
    base: judged.base + (agrees ? endEvidence(attempt, end) : 0) + declaredEvidence(attempt, end)
  };
  pushFits([layout], page, reading, region, context, found);
}

function endEvidence({ region }: Attempt, end: number): number {
  return end < region.end && end > region.end - LOST ? NEAR_END_AGREES : END_AGREES;
}

function declaredEvidence({ declared, region }: Attempt, end: number): number {
  if (declared === undefined) return 0;
  if (declared === end) return SIZE_IS_CELL;
  return declared === region.end ? SIZE_LEADS_TO_BOUND : 0;
}

/** As of so many rows, by how many serial types were lost. */
const guessCache = new WeakMap<Layout, { rowsSeen: number; byLost: Map<number, Guesses> }>();

/** All serial types that the first columns could have had in the `lost` bytes. */
function guesses(layout: Layout, lost: 1 | 2): Guesses {
  let known = guessCache.get(layout);
  if (known?.rowsSeen !== layout.rowsSeen) {
    known = { rowsSeen: layout.rowsSeen, byLost: new Map() };
    guessCache.set(layout, known);
  }
  let found = known.byLost.get(lost);
  if (!found) known.byLost.set(lost, (found = makeGuesses(layout, lost)));
  return found;
}

function makeGuesses(layout: Layout, lost: 1 | 2): Guesses {
  if (layout.columns.length < lost) return { groups: [], sure: false };
  const before: Guess[] =
    lost === 1
      ? [{ serials: [], size: 0 }]
      : shortSerials(layout, 0).map((serial) => ({ serials: [serial], size: serialSize(serial) }));
  const whole = before.flatMap(({ serials, size }) =>
    shortSerials(layout, lost - 1).map((serial) => ({
      serials: [...serials, serial],
      size: size + serialSize(serial)
    }))
  );
  const groups: GuessGroup[] = [{ lost, half: 0, bySize: groupBySize(whole) }];
  // Text of more than 57 bytes has a serial type of two bytes, of which the second survived.
  if (takesText(layout, lost - 1))
    for (let half = 1; half <= 8; half++)
      groups.push({ lost: lost - 1, half, bySize: groupBySize(before) });
  return { groups, sure: layout.columns[0]!.isRowid && lost === 1 };
}

function groupBySize(list: readonly Guess[]): Map<number, Guess[]> {
  return groupBy(list, ({ size }) => size);
}

function shortSerials(layout: Layout, at: number): number[] {
  const out: number[] = [];
  const length = lengthOfAll(layout.columns[at]!.letters);
  for (let serial = 0; serial < 128; serial++) {
    if (length !== null && serial >= 13 && serial % 2 === 1 && !length.includes(serialSize(serial)))
      continue;
    // Entries of an index only help: what would be far off its column's values is not tried.
    if (layout.index && !mayHold(layout, at, serial)) continue;
    if (suits(layout, at, serial) > -3) out.push(serial);
  }
  return out;
}

/** Bytes, in one encoding or the other, of texts that are all built alike. */
function lengthOfAll({ shape, texts }: Letters): number[] | null {
  return shape && texts >= SURELY_ALIKE ? [shape.length, 2 * shape.length] : null;
}

const SURELY_ALIKE = 20;

function takesText(layout: Layout, at: number): boolean {
  return suits(layout, at, 129) > -3;
}
