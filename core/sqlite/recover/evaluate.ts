import { f64be, intBe, u32be, type TextEncoding } from '../../host';
import { localSize } from '../format/page';
import { serialSize } from '../format/record';
import type { Candidate, Hints, Region } from './candidate';
import { IMPOSSIBLE } from './evidence';
import { judgeLetters } from './letters';
import { judgeText } from './textcheck';
import {
  ENOUGH_ROWS,
  FAR_OFF,
  fitOf,
  fitsOf,
  suitsLength,
  suitsRange,
  unitsOf,
  type Layout
} from './layout';

/** What the matchers need to know of the file. */
export interface MatchContext {
  usable: number;
  pageCount: number;
  encoding: TextEncoding;
  schemaFormat: number;
}

/** A stretch of a page that is searched for cells. */
export interface Searched {
  page: Uint8Array;
  region: Region;
  hints: Hints;
  context: MatchContext;
}

/** A reading before it is judged. */
export interface Reading {
  start: number;
  rowid: number | bigint | null;
  serials: number[];
  headerSize: number;
  /** Where the record header begins; for overwritten cells possibly inside the lost bytes. */
  headerStart: number;
  rebuilt: number;
  guessed?: boolean;
  /** Bits that `base` lacks because any end would have done; they come back where both neighbours are known. */
  doubt?: number;
  base: number;
}

/** Where a cell ends on its page: behind the local payload and the overflow page number. */
export function cellEnd(
  layout: Layout,
  start: number,
  headerStart: number,
  payload: number,
  usable: number
): number {
  const local = localSize(payload, usable, layout.shape === 'keyed');
  return Math.max(headerStart + local + (local < payload ? 4 : 0), start + 4);
}

/** Judges a reading against one layout; null when SQLite could not have written it. */
export function evaluate(
  layout: Layout,
  page: Uint8Array,
  reading: Reading,
  region: Region,
  context: MatchContext
): Candidate | null {
  const { serials, headerSize, headerStart, start } = reading;
  if (serials.length > layout.columns.length || serials.length < layout.fewest) return null;
  let body = 0;
  for (const serial of serials) body += serialSize(serial);
  // Old pointers can be read as any number of empty values.
  if (reading.guessed && body === 0) return null;
  const payload = headerSize + body;
  const local = localSize(payload, context.usable, layout.shape === 'keyed');
  const spills = local < payload;
  const end = cellEnd(layout, start, headerStart, payload, context.usable);
  if (end > context.usable) return null;
  const cut = end > region.end;
  if (cut && reading.guessed) return null;
  const overflow = spills && !cut ? u32be(page, headerStart + local) : 0;
  if (spills && !cut && (overflow < 2 || overflow > context.pageCount)) return null;
  const bodyStart = headerStart + headerSize;
  const bodyEnd = Math.min(headerStart + local, region.end);
  if (bodyStart > region.end) return null;
  const values = judgeValues(layout, page, serials, bodyStart, bodyEnd, context);
  if (values === IMPOSSIBLE) return null;
  if (reading.guessed && isOdd(layout, page, serials, bodyStart, bodyEnd, context)) return null;
  const score = reading.base + values - (cut ? 8 : 0) - shortfall(layout, serials.length);
  return {
    layout,
    start,
    end: Math.min(end, region.end),
    score,
    rowid: reading.rowid,
    serials,
    bodyStart,
    payload,
    headerSize,
    local,
    overflow,
    rebuilt: reading.rebuilt,
    guessed: reading.guessed ?? false,
    doubt: reading.doubt ?? 0,
    base: reading.base,
    cut
  };
}

/** Records with fewer columns than declared are rare: only rows older than an added column are short. */
export function shortfall(layout: Layout, count: number): number {
  const missing = layout.columns.length - count;
  return missing === 0 || layout.shortest <= count ? 0 : 6 + 2 * missing;
}

/** Whether a text is made of other letters than the column's live ones: a guess must not be. */
function isOdd(
  layout: Layout,
  page: Uint8Array,
  serials: number[],
  bodyStart: number,
  bodyEnd: number,
  { encoding }: MatchContext
): boolean {
  let at = bodyStart;
  return serials.some((serial, i) => {
    const from = at;
    at += serialSize(serial);
    if (serial < 13 || serial % 2 === 0) return false;
    const { letters } = layout.columns[i]!;
    return judgeLetters(letters, page, from, Math.min(at, bodyEnd), encoding) < 0;
  });
}

function judgeValues(
  layout: Layout,
  page: Uint8Array,
  serials: number[],
  bodyStart: number,
  bodyEnd: number,
  context: MatchContext
): number {
  const fits = fitsOf(layout);
  let score = 0;
  let at = bodyStart;
  let filled = 0;
  for (let i = 0; i < serials.length; i++) {
    const serial = serials[i]!;
    const end = at + serialSize(serial);
    const value = judgeValue(
      layout,
      i,
      page,
      serial,
      at,
      Math.min(end, bodyEnd),
      end > bodyEnd,
      context
    );
    score += fitOf(fits, i, serial) + value;
    if (score === IMPOSSIBLE) return IMPOSSIBLE;
    if (serial !== 0 && at <= bodyEnd) filled++;
    at = end;
  }
  return filled === 0 ? IMPOSSIBLE : score;
}

function judgeValue(
  layout: Layout,
  i: number,
  page: Uint8Array,
  serial: number,
  at: number,
  end: number,
  open: boolean,
  context: MatchContext
): number {
  if (serial === 0) return 0;
  if (serial === 8 || serial === 9) return judgeBit(layout, i, serial, context);
  if (serial <= 6) return open ? 0 : judgeInteger(layout, i, page, serial, at, context);
  if (serial === 7) return open ? 0 : judgeReal(layout, i, page, at);
  if (serial % 2 === 0) return 0;
  if (end <= at) return 0;
  const text = judgeText(page, at, end, context.encoding, open);
  if (text === IMPOSSIBLE) return text;
  const letters = judgeLetters(layout.columns[i]!.letters, page, at, end, context.encoding);
  return open
    ? text + letters
    : text + letters + suitsLength(layout, i, unitsOf(page, at, end, context.encoding));
}

const WIDTH = [0, 1, 2, 3, 4, 6, 8];
/** Largest magnitude that the next smaller serial type could hold (file format, section 2.1). */
const SMALLER = [0, 0, 0x7f, 0x7fff, 0x7fffff, 0x7fffffff, 0x7fffffffffff];

/** 0 and 1 have types of their own, without a byte, since schema format 4 (file format, section 2.1). */
export function judgeBit(
  layout: Layout,
  i: number,
  serial: 8 | 9,
  { schemaFormat }: MatchContext
): number {
  return schemaFormat >= 4 ? 0.5 + suitsRange(layout, i, serial - 8) : IMPOSSIBLE;
}

/** Whether integers of a serial type can be near those of live rows, where these keep to a narrow band or are row numbers. */
export function mayHold(layout: Layout, i: number, serial: number): boolean {
  if (layout.index && i === layout.columns.length - 1) return mayBeNumber(layout, serial);
  if (serial === 9) return suitsRange(layout, i, 1) > FAR_OFF;
  if (serial < 1 || serial > 6) return true;
  const { least, most } = layout.columns[i]!;
  const [from, to] = [SMALLER[serial]! + 1, SMALLER[serial + 1] ?? Infinity];
  const nearest = to < least ? to : from > most ? from : Math.max(from, least);
  return suitsRange(layout, i, nearest) > FAR_OFF;
}

/** Row numbers past those of all live rows that are still thought of. */
const FURTHER = 1000;

/** Whether a row number can have a serial type: few were given that lie far behind those of live rows. */
function mayBeNumber({ columns, rowsSeen }: Layout, serial: number): boolean {
  const { least, most } = columns[columns.length - 1]!;
  if (rowsSeen < ENOUGH_ROWS || least < 0 || serial < 1 || serial > 6) return true;
  return SMALLER[serial]! < 2 * most + FURTHER;
}

/** SQLite always picks the smallest type that holds a value, so a roomy one was not written by it. */
export function judgeInteger(
  layout: Layout,
  i: number,
  page: Uint8Array,
  serial: number,
  at: number,
  context: MatchContext
): number {
  const value = roundedInteger(page, at, WIDTH[serial]!);
  const small = SMALLER[serial]!;
  if (serial > 1 && value <= small && value >= -small - 1) return IMPOSSIBLE;
  if (serial === 1 && context.schemaFormat >= 4 && (value === 0 || value === 1)) return IMPOSSIBLE;
  return (serial > 1 ? 1.5 : 0.5) + suitsRange(layout, i, value);
}

/** An integer as a number, rounded where it is past 2^53. */
function roundedInteger(page: Uint8Array, at: number, width: number): number {
  if (width < 8) return Number(intBe(page, at, width));
  return (u32be(page, at) | 0) * 0x1_0000_0000 + u32be(page, at + 4);
}

/** Floating point as people's data hold it: no NaN, no absurd exponent; whole numbers are stored as integers. */
export function judgeReal(layout: Layout, i: number, page: Uint8Array, at: number): number {
  const exponent = ((page[at]! & 0x7f) << 4) | (page[at + 1]! >> 4);
  if (exponent === 0x7ff) return IMPOSSIBLE;
  return (exponent > 0x3c0 && exponent < 0x440 ? 2 : -4) + suitsRange(layout, i, f64be(page, at));
}

/** The same reading when a later write took the bytes from `end` on. */
export function shorten(
  candidate: Candidate,
  page: Uint8Array,
  end: number,
  context: MatchContext
): Candidate | null {
  const headerStart = candidate.bodyStart - candidate.headerSize;
  const region = { start: candidate.start, end };
  return evaluate(candidate.layout, page, { ...candidate, headerStart }, region, context);
}
