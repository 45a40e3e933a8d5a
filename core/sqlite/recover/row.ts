import { decodeCut, decodeText, isPrintable, u32be, type TextEncoding } from '../../host';
import { arrange } from '../read/database';
import { hashBytes, hashRange } from '../format/hash';
import { decodeValue, serialSize, type SqlValue } from '../format/record';
import type { TableSchema } from '../format/schema';
import type { Candidate } from './candidate';
import { IMPOSSIBLE } from './evidence';
import { firstForeign, judgeLetters, overwrittenAt, type Letters } from './letters';
import { judgeText } from './textcheck';

/** Where a freed row was found. */
export interface RowProof {
  file: string;
  page: number;
  /** Offset in the file, in bytes. */
  offset: number;
  length: number;
  method: 'table' | 'log' | 'journal' | 'free-page' | 'free-block' | 'unallocated' | 'carved';
}

/** A row read from space that no live table uses. */
export interface FreedRow {
  table: string;
  rowid: number | bigint | null;
  /** In declared column order; null where lost. */
  values: SqlValue[];
  /** Indexes of columns whose bytes are gone. */
  lost: number[];
  /** Index of the text column that is cut, with how many bytes are gone. */
  cut: { column: number; bytes: number } | null;
  /** Hash of the record, for telling copies; 0 when it is incomplete. */
  hash: number;
  /** Evidence in bits. */
  score: number;
  /** Leading bytes worked out again. */
  rebuilt: number;
  /** First overflow page that the row's end was read from, or 0. */
  spill: number;
  /** The row number was worked out from its neighbours, not read. */
  inferred: boolean;
  proofs: RowProof[];
}

/** Gives a row its number, also in the column that stands for it. */
export function setNumber(row: FreedRow, table: TableSchema, rowid: number): void {
  row.rowid = rowid;
  table.columns.forEach((column, i) => {
    if (column.isRowid) row.values[i] = rowid;
  });
}

/** A row of which every byte was read, undecoded. */
export interface WholeRow {
  table: string;
  rowid: number | bigint | null;
  /** The record as SQLite writes it, header and values; its memory is used again for the next row. */
  record: Uint8Array;
  hash: number;
  score: number;
  rebuilt: number;
  spill: number;
  proof: RowProof;
}

/** Fetches the rest of a payload from overflow pages that nothing uses now. */
export interface SpillReader {
  usable: number;
  encoding: TextEncoding;
  page(number: number): Uint8Array | null;
}

/** The row of a chosen reading, as far as its bytes exist. */
export function readRow(
  candidate: Candidate,
  page: Uint8Array,
  spill: SpillReader,
  proof: RowProof
): FreedRow | WholeRow | null {
  const table = candidate.layout.table;
  if (!table) return null;
  const { rowid, score, rebuilt } = candidate;
  if (candidate.verbatim) {
    const start = candidate.bodyStart - candidate.headerSize;
    const end = start + candidate.payload;
    const [record, hash] = [page.subarray(start, end), hashRange(page, start, end)];
    return { table: table.name, rowid, record, hash, score, rebuilt, proof, spill: 0 };
  }
  const body = gatherBody(candidate, page, spill);
  const isWhole = body.length === candidate.payload - candidate.headerSize;
  if (isWhole && !isOverwritten(candidate, body, spill.encoding)) {
    const record = recordOf(candidate, body);
    const hash = hashBytes(record);
    const common = { table: table.name, rowid, record, hash, score, rebuilt, proof };
    return { ...common, spill: candidate.overflow };
  }
  const row: FreedRow = {
    table: table.name,
    rowid,
    values: [],
    lost: [],
    cut: null,
    hash: 0,
    score,
    rebuilt,
    inferred: false,
    spill: isWhole ? candidate.overflow : 0,
    proofs: [proof]
  };
  row.values = arrange(table, decodeBody(candidate, body, spill.encoding, table, row), row.rowid);
  return row;
}

/**
 * Whether a reading whose serial types were guessed is borne out by its
 * overflow pages: they are all there, and no text holds what no message does.
 * Where a cell spills, its end on the page is the same for many guesses.
 */
export function isCredible(candidate: Candidate, page: Uint8Array, spill: SpillReader): boolean {
  const { payload, headerSize, serials, layout } = candidate;
  const { encoding } = spill;
  const body = gatherBody(candidate, page, spill);
  if (body.length < payload - headerSize) return false;
  let at = 0;
  for (const [i, serial] of serials.entries()) {
    const end = at + serialSize(serial);
    const isText = serial >= 13 && serial % 2 === 1;
    if (isText && judgeText(body, at, end, encoding, false) < 0) return false;
    if (isText && judgeLetters(layout.columns[i]!.letters, body, at, end, encoding) < 0)
      return false;
    at = end;
  }
  return true;
}

/**
 * Whether a text holds what no message does, control codes or letters of many
 * scripts: a later write left them there. The body may be the beginning of one
 * that goes on elsewhere.
 */
export function isOverwritten(
  { serials, layout, overflow }: Candidate,
  body: Uint8Array,
  encoding: TextEncoding
): boolean {
  let at = 0;
  for (const [i, serial] of serials.entries()) {
    const end = Math.min(at + serialSize(serial), body.length);
    const isText = serial >= 13 && serial % 2 === 1;
    const { letters } = layout.columns[i]!;
    if (isText && isWrittenOver(body, at, end, letters, encoding)) return true;
    // What lies on overflow pages was not looked at before.
    const isNew = isText && overflow > 0 && end === at + serialSize(serial);
    if (isNew && judgeText(body, at, end, encoding, false) === IMPOSSIBLE) return true;
    at = end;
  }
  return false;
}

function isWrittenOver(
  body: Uint8Array,
  from: number,
  to: number,
  letters: Letters,
  encoding: TextEncoding
): boolean {
  if (hasControl(body, from, to, encoding)) return true;
  if (encoding === 'utf-8') return false;
  return overwrittenAt(letters, decodeText(body.subarray(from, to), encoding)) >= 0;
}

function hasControl(bytes: Uint8Array, from: number, to: number, encoding: TextEncoding): boolean {
  if (encoding === 'utf-8') {
    if (isPrintable(bytes, from, to)) return false;
    for (let i = from; i < to; i++) if (isControl(bytes[i]!)) return true;
    return false;
  }
  const [high, low] = encoding === 'utf-16be' ? [0, 1] : [1, 0];
  for (let i = from; i + 1 < to; i += 2)
    if (bytes[i + high] === 0 && isControl(bytes[i + low]!)) return true;
  return false;
}

function isControl(code: number): boolean {
  return code < 0x20 ? code !== 9 && code !== 10 && code !== 13 : code === 0x7f;
}

function gatherBody(candidate: Candidate, page: Uint8Array, spill: SpillReader): Uint8Array {
  const localEnd = candidate.bodyStart + candidate.local - candidate.headerSize;
  const here = page.subarray(candidate.bodyStart, Math.min(localEnd, candidate.end));
  if (candidate.overflow === 0) return here;
  const out = new Uint8Array(candidate.payload - candidate.headerSize);
  out.set(here);
  let have = here.length;
  let next = candidate.overflow;
  const seen = new Set<number>();
  while (have < out.length && next > 1 && !seen.has(next)) {
    seen.add(next);
    const bytes = spill.page(next);
    if (!bytes) break;
    const take = Math.min(spill.usable - 4, out.length - have);
    out.set(bytes.subarray(4, 4 + take), have);
    have += take;
    next = u32be(bytes, 0);
  }
  // A chain that was written as one ends with a zero link; another ending means that a page was used again.
  const whole = have === out.length && next === 0;
  return out.subarray(0, whole || have < out.length ? have : here.length);
}

function decodeBody(
  candidate: Candidate,
  body: Uint8Array,
  encoding: TextEncoding,
  table: TableSchema,
  row: FreedRow
): SqlValue[] {
  let at = 0;
  return candidate.serials.map((serial, i) => {
    const size = serialSize(serial);
    const start = at;
    at += size;
    const column = table.order[i]!;
    const { letters } = candidate.layout.columns[i]!;
    if (at <= body.length) {
      const value = decodeValue(body, start, serial, encoding);
      if (typeof value !== 'string') return value;
      const over = encoding === 'utf-8' ? malformedAt(value) : overwrittenAt(letters, value);
      const end = firstOf(over, controlAt(value));
      if (end < 0) return value;
      markCut(row, column, new TextEncoder().encode(value.slice(end)).length);
      return before(value, end, encoding);
    }
    row.lost.push(column);
    if (serial < 13 || serial % 2 === 0 || start >= body.length) return null;
    row.cut ??= { column, bytes: at - body.length };
    const cut = decodeCut(body.subarray(start), encoding);
    // Malformed bytes, a script that no live text holds, or control codes are something else.
    const end = firstOf(malformedAt(cut), firstForeign(letters, cut), controlAt(cut));
    return end < 0 ? cut : before(cut, end, encoding);
  });
}

/** The first of several places, -1 standing for none. */
function firstOf(...places: number[]): number {
  const found = places.filter((at) => at >= 0);
  return found.length === 0 ? -1 : Math.min(...found);
}

/**
 * A text up to where something else shows. What was written over it, a block's
 * header most of the time, begins up to three bytes before that, and perhaps
 * in the middle of a unit of two bytes, which makes other characters of two.
 */
function before(text: string, at: number, encoding: TextEncoding): string {
  return withoutHalf(text.slice(0, encoding === 'utf-8' ? at : Math.max(0, at - 2)));
}

/** Where bytes were no text; in a row that is not whole they are what was written over it. */
function malformedAt(text: string): number {
  return text.indexOf('\ufffd');
}

/** A character of two units of which only the first is left goes too. */
function withoutHalf(text: string): string {
  return /[\ud800-\udbff]$/.test(text) ? text.slice(0, -1) : text;
}

function markCut(row: FreedRow, column: number, bytes: number): void {
  if (!row.lost.includes(column)) row.lost.push(column);
  row.cut ??= { column, bytes };
}

/** Control codes in freed text are what a later write left there: where they begin, or -1. */
function controlAt(text: string): number {
  return text.search(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]/);
}

/** The record as SQLite wrote it, with its header in the shortest form: its hash is that of the live record. */
function recordOf({ payload, headerSize, serials }: Candidate, body: Uint8Array): Uint8Array {
  if (payload > room.length) room = new Uint8Array(payload * 2);
  const bytes = room.subarray(0, payload);
  let at = writeVarint(bytes, 0, headerSize);
  for (const serial of serials) at = writeVarint(bytes, at, serial);
  bytes.fill(0, at, headerSize);
  bytes.set(body, headerSize);
  return bytes;
}

let room = new Uint8Array(4096);

function writeVarint(out: Uint8Array, at: number, value: number): number {
  if (value < 128) {
    out[at] = value;
    return at + 1;
  }
  const groups: number[] = [value % 128];
  for (let rest = Math.floor(value / 128); rest > 0; rest = Math.floor(rest / 128)) {
    groups.unshift((rest % 128) | 0x80);
  }
  out.set(groups, at);
  return at + groups.length;
}
