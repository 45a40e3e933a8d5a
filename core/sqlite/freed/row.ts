import { u32be, type TextEncoding } from '../../bytes';
import { arrange } from '../database';
import { hashBytes } from '../hash';
import { decodeValue, serialSize, type SqlValue } from '../record';
import type { TableSchema } from '../schema';
import type { Candidate } from './candidate';

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

/** Fetches the rest of a payload from overflow pages that nothing uses now. */
export interface SpillReader {
  usable: number;
  encoding: TextEncoding;
  page(number: number): Uint8Array | null;
}

/** The values of a chosen reading, as far as their bytes exist. */
export function readRow(
  candidate: Candidate,
  page: Uint8Array,
  spill: SpillReader,
  proof: RowProof
): FreedRow | null {
  const table = candidate.layout.table;
  if (!table) return null;
  const body = gatherBody(candidate, page, spill);
  const wanted = candidate.payload - candidate.headerSize;
  const row: FreedRow = {
    table: table.name,
    rowid: candidate.rowid,
    values: [],
    lost: [],
    cut: null,
    hash: body.length === wanted ? hashRecord(candidate, body) : 0,
    score: candidate.score,
    rebuilt: candidate.rebuilt,
    inferred: false,
    spill: body.length === wanted ? candidate.overflow : 0,
    proofs: [proof]
  };
  row.values = arrange(table, decodeBody(candidate, body, spill.encoding, table, row), row.rowid);
  return row;
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
    if (at <= body.length) {
      const value = decodeValue(body, start, serial, encoding);
      return typeof value === 'string' ? cutAtControl(value, column, row, encoding) : value;
    }
    row.lost.push(column);
    if (serial < 13 || serial % 2 === 0 || start >= body.length) return null;
    row.cut ??= { column, bytes: at - body.length };
    return cutAtControl(decodeCut(body.subarray(start), encoding), column, row, encoding);
  });
}

/** Control codes in freed text are what a later write left there: the text is read up to them. */
function cutAtControl(text: string, column: number, row: FreedRow, encoding: TextEncoding): string {
  const at = text.search(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/);
  if (at < 0) return text;
  if (!row.lost.includes(column)) row.lost.push(column);
  row.cut ??= { column, bytes: new TextEncoder().encode(text.slice(at)).length };
  row.hash = 0;
  // What was written there can begin in the middle of a unit of two bytes, which makes another character of it.
  return text.slice(0, encoding === 'utf-8' ? at : Math.max(0, at - 1));
}

/** Decodes text whose end is gone: a character that was cut in two goes with the lost part. */
function decodeCut(bytes: Uint8Array, encoding: TextEncoding): string {
  return new TextDecoder(encoding, { ignoreBOM: true }).decode(bytes, { stream: true });
}

/** The same hash as a live record's payload has: SQLite writes the header in its shortest form. */
function hashRecord(candidate: Candidate, body: Uint8Array): number {
  const bytes = new Uint8Array(candidate.payload);
  let at = writeVarint(bytes, 0, candidate.headerSize);
  for (const serial of candidate.serials) at = writeVarint(bytes, at, serial);
  bytes.set(body, candidate.headerSize);
  return hashBytes(bytes);
}

function writeVarint(out: Uint8Array, at: number, value: number): number {
  const groups: number[] = [value % 128];
  for (let rest = Math.floor(value / 128); rest > 0; rest = Math.floor(rest / 128)) {
    groups.unshift((rest % 128) | 0x80);
  }
  out.set(groups, at);
  return at + groups.length;
}
