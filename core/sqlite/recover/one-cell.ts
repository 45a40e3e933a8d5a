import { isPrintable, readVarint, varintSize, type Varint } from '../../host';
import { serialSize } from '../format/record';
import type { Candidate, Region } from './candidate';
import { judgeBit, judgeInteger, judgeReal, shortfall, type MatchContext } from './evaluate';
import { IMPOSSIBLE } from './evidence';
import { judgeLetters } from './letters';
import { fitOf, fitsOf, suitsLength, unitsOf, type Layout } from './layout';
import { AT_BLOCK, END_AGREES, HEADER_LENGTH_AGREES, LOST, NEAR_END_AGREES } from './overwritten';
import { judgePlain, judgeText } from './textcheck';

/** It has to be looked at in full. */
const UNUSUAL = NaN;
const MOST_COLUMNS = 256;
/** Row numbers whose tail is longer are read in other ways too. */
const LONGEST_TAIL = 5;
/** A header of one byte of length; the length of others is not lost alone. */
const LONGEST_HEADER = 127;

const scratch: Varint = { value: 0, size: 0 };
const types = new Int32Array(MOST_COLUMNS);
/** What the last header said beside its evidence. */
const read = { count: 0, headerSize: 0, payload: 0, end: 0, base: 0, isPlain: false };

/**
 * The reading of a free block as one cell of a keyed layout whose record
 * header survived whole: the only one of that kind that `overwrittenAt` finds,
 * with the same evidence, at a fraction of the cost, for nearly all that is
 * freed is this. Where it is not certain, readings with a lost header may
 * stand beside it. Null where there is none or several, or where anything is
 * out of the ordinary, and everything has to be tried.
 */
export function oneCell(
  page: Uint8Array,
  region: Region,
  layout: Layout,
  context: MatchContext
): Candidate | null {
  const { start } = region;
  const tail = tailOf(page, start + LOST, region.end);
  if (tail < 0 || layout.columns.length > MOST_COLUMNS) return null;
  const near = evidenceAt(page, region, start + LOST, layout, context);
  const found = near > IMPOSSIBLE ? candidateOf(region, start + LOST, near, layout) : null;
  const far = evidenceAt(page, region, start + LOST + tail, layout, context);
  if (Number.isNaN(near) || Number.isNaN(far)) return null;
  if (far === IMPOSSIBLE) return found;
  // Where both could be, which it is is settled elsewhere.
  if (near > IMPOSSIBLE) return null;
  return candidateOf(region, start + LOST + tail, far, layout);
}

/** Length of the surviving end of a row number; -1 where it is long. */
function tailOf(page: Uint8Array, at: number, end: number): number {
  for (let i = 0; i < LONGEST_TAIL && at + i < end; i++) if (page[at + i]! < 0x80) return i + 1;
  return -1;
}

/** Evidence, in bits, that a record header begins at `head`. */
function evidenceAt(
  page: Uint8Array,
  region: Region,
  head: number,
  layout: Layout,
  context: MatchContext
): number {
  const { start, end } = region;
  const headerSize = head < end ? page[head]! : 0;
  if (headerSize > LONGEST_HEADER) return UNUSUAL;
  if (headerSize < 2 || head + headerSize > end) return IMPOSSIBLE;
  const body = readTypes(page, head, headerSize, layout);
  if (!(body >= 0)) return body;
  const payload = headerSize + body;
  const rowidSize = head - start - varintSize(payload);
  if (rowidSize < 1 || rowidSize > 9 || read.count < layout.fewest) return IMPOSSIBLE;
  const cellEnd = Math.max(head + payload, start + LOST);
  // What spills, ends elsewhere or is cut is not this simple.
  if (payload > context.usable - 35 || cellEnd > end || cellEnd <= end - LOST) return UNUSUAL;
  const values = evidenceOfValues(page, head + headerSize, layout, context);
  if (values === IMPOSSIBLE) return IMPOSSIBLE;
  read.headerSize = headerSize;
  read.payload = payload;
  read.end = cellEnd;
  read.base = AT_BLOCK + HEADER_LENGTH_AGREES + (cellEnd < end ? NEAR_END_AGREES : END_AGREES);
  return read.base + values - shortfall(layout, read.count);
}

/** Reads the serial types of a header; returns the bytes of their values, or that it is no header. */
function readTypes(page: Uint8Array, head: number, headerSize: number, layout: Layout): number {
  const end = head + headerSize;
  const fits = fitsOf(layout);
  let body = 0;
  let count = 0;
  for (let pos = head + 1; pos < end; count++) {
    if (count >= layout.columns.length) return IMPOSSIBLE;
    let type = page[pos]!;
    if (type < 0x80) pos++;
    else {
      const serial = readVarint(page, pos, end, scratch);
      if (serial.size === 0 || type === 0x80) return IMPOSSIBLE;
      type = serial.value;
      if (type > 0x7fff_ffff) return UNUSUAL;
      pos += serial.size;
    }
    if (fitOf(fits, count, type) === IMPOSSIBLE) return IMPOSSIBLE;
    types[count] = type;
    body += serialSize(type);
  }
  read.count = count;
  return body;
}

function evidenceOfValues(
  page: Uint8Array,
  bodyStart: number,
  layout: Layout,
  context: MatchContext
): number {
  const fits = fitsOf(layout);
  let evidence = 0;
  let filled = 0;
  let at = bodyStart;
  read.isPlain = true;
  for (let i = 0; i < read.count; i++) {
    const type = types[i]!;
    evidence += fitOf(fits, i, type);
    if (type === 0) continue;
    evidence += evidenceOfValue(page, at, type, layout, i, context);
    if (evidence === IMPOSSIBLE) return IMPOSSIBLE;
    filled++;
    at += serialSize(type);
  }
  return filled === 0 ? IMPOSSIBLE : evidence;
}

function evidenceOfValue(
  page: Uint8Array,
  at: number,
  type: number,
  layout: Layout,
  i: number,
  context: MatchContext
): number {
  if (type === 8 || type === 9) return judgeBit(layout, i, type, context);
  if (type <= 6) return judgeInteger(layout, i, page, type, at, context);
  if (type === 7) return judgeReal(layout, i, page, at);
  return type % 2 === 0 ? 0 : evidenceOfText(page, at, at + serialSize(type), layout, i, context);
}

function evidenceOfText(
  page: Uint8Array,
  at: number,
  end: number,
  layout: Layout,
  i: number,
  { encoding }: MatchContext
): number {
  if (end <= at) return 0;
  const isPlain = encoding === 'utf-8' && isPrintable(page, at, end);
  if (!isPlain) read.isPlain = false;
  const text = isPlain ? judgePlain(end - at) : judgeText(page, at, end, encoding, false);
  if (text === IMPOSSIBLE) return text;
  const letters = judgeLetters(layout.columns[i]!.letters, page, at, end, encoding);
  const units = isPlain ? end - at : unitsOf(page, at, end, encoding);
  return text + letters + suitsLength(layout, i, units);
}

/** The quickest way to make a list of numbers. */
function firstOf(numbers: Int32Array, count: number): number[] {
  const list = new Array<number>(count);
  for (let i = 0; i < count; i++) list[i] = numbers[i]!;
  return list;
}

/** What was read last, as a candidate. */
function candidateOf(
  { start, end }: Region,
  head: number,
  score: number,
  layout: Layout
): Candidate {
  const { count, headerSize, payload, base, isPlain } = read;
  return {
    layout,
    start,
    end: Math.min(read.end, end),
    score,
    rowid: null,
    serials: firstOf(types, count),
    bodyStart: head + headerSize,
    payload,
    headerSize,
    local: payload,
    overflow: 0,
    rebuilt: LOST,
    guessed: false,
    doubt: 0,
    base,
    cut: false,
    verbatim: isPlain
  };
}
