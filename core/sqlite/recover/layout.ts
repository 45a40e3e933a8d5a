import { isPrintable, type TextEncoding } from '../../host';
import type { SqlValue } from '../format/record';
import type { Affinity } from '../format/declaration';
import type { IndexSchema, TableSchema } from '../format/schema';
import { IMPOSSIBLE } from './evidence';
import { learnLetters, noLetters, type Letters } from './letters';

/** What one stored column may hold, from its declaration and from the live rows. */
export interface LayoutColumn {
  affinity: Affinity;
  notNull: boolean;
  isRowid: boolean;
  /** How often each class of value was seen in live rows. */
  seen: number[];
  /** Range of the integers seen, to tell a shifted reading from a real one. */
  least: number;
  most: number;
  /** Range of the lengths of texts seen, in UTF-16 units. */
  shortestText: number;
  longestText: number;
  letters: Letters;
}

/** Classes of values, by their places in counts. */
const NULL = 0;
const INTEGER = 1;
const REAL = 2;
const TEXT = 3;
const BLOB = 4;
/** Serial types that no record has. */
const RESERVED = 5;
const CLASSES = [NULL, INTEGER, REAL, TEXT, BLOB, RESERVED] as const;

type ValueClass = (typeof CLASSES)[number];

/** The shape that records of one table or index have; freed bytes are tried against it. */
export interface Layout {
  name: string;
  /** `keyed` cells carry a row number before the record, `bare` ones (index trees, WITHOUT ROWID) do not. */
  shape: 'keyed' | 'bare';
  table: TableSchema | null;
  index: IndexSchema | null;
  columns: LayoutColumn[];
  /** Records older than ALTER TABLE ADD COLUMN hold fewer columns. */
  fewest: number;
  /** Fewest columns that a live record was seen to hold. */
  shortest: number;
  /** Rows of this layout are reported; others only compete for the bytes. */
  wanted: boolean;
  rowsSeen: number;
  /** Bytes of the shortest cell among the live rows, as far as they were seen. */
  leastCell: number;
  /** How well each class of value suits each column, column by column, as of so many rows. */
  fits?: { rowsSeen: number; bits: Fits };
}

export function tableLayout(table: TableSchema, wanted: boolean): Layout {
  const columns = table.order.map((i) => {
    const declared = table.columns[i]!;
    return column(declared.affinity, declared.notNull, declared.isRowid);
  });
  return {
    name: table.name,
    shape: table.declaration.withoutRowid ? 'bare' : 'keyed',
    table,
    index: null,
    columns,
    fewest: fewestColumns(table),
    shortest: columns.length,
    wanted,
    rowsSeen: 0,
    leastCell: Infinity
  };
}

/** Columns can only have been added at the end, and only ones that are nullable or have a default. */
function fewestColumns(table: TableSchema): number {
  let count = table.order.length;
  while (count > 1) {
    const last = table.columns[table.order[count - 1]!]!;
    const inKey = table.declaration.primaryKey.includes(last.name);
    if (inKey || (last.notNull && last.fallback === null)) break;
    count--;
  }
  return table.declaration.withoutRowid ? table.order.length : count;
}

/** Layout of an index of a table that has row numbers: its columns, then the row number. */
export function indexLayout(index: IndexSchema, table: TableSchema): Layout | null {
  if (table.declaration.withoutRowid) return null;
  const columns = index.columns.map((name) => {
    const declared = table.columns.find((c) => c.name.toLowerCase() === name?.toLowerCase());
    if (!declared) return column('blob', false, false);
    return column(declared.affinity, declared.notNull || declared.isRowid, false);
  });
  columns.push(column('integer', true, false));
  return {
    name: index.name,
    shape: 'bare',
    table: null,
    index,
    columns,
    fewest: columns.length,
    shortest: columns.length,
    wanted: false,
    rowsSeen: 0,
    leastCell: Infinity
  };
}

function column(affinity: Affinity, notNull: boolean, isRowid: boolean): LayoutColumn {
  const seen = CLASSES.map(() => 0);
  const ranges = { least: Infinity, most: -Infinity, shortestText: Infinity, longestText: 0 };
  return { affinity, notNull, isRowid, seen, ...ranges, letters: noLetters() };
}

/** Classes of serial types that take one byte (file format, section 2.1). */
const SHORT_CLASSES = Uint8Array.from({ length: 128 }, (_, serial) => {
  if (serial === 0) return NULL;
  if (serial === 7) return REAL;
  if (serial < 10) return INTEGER;
  if (serial < 12) return RESERVED;
  return serial & 1 ? TEXT : BLOB;
});

function classOfSerial(serial: number): number {
  return serial < 128 ? SHORT_CLASSES[serial]! : serial & 1 ? TEXT : BLOB;
}

function classOfValue(value: SqlValue): ValueClass {
  if (value === null) return NULL;
  if (typeof value === 'string') return TEXT;
  if (value instanceof Uint8Array) return BLOB;
  return typeof value === 'bigint' || Number.isInteger(value) ? INTEGER : REAL;
}

/** Takes one live row into the statistics. */
export function learnRow(layout: Layout, values: SqlValue[], stored: number): void {
  if (!layout.table) return;
  layout.rowsSeen++;
  if (stored < layout.shortest) layout.shortest = stored;
  let bytes = KEYED_FRAME + stored;
  layout.table.order.forEach((at, i) => {
    const target = layout.columns[i]!;
    if (target.isRowid) return;
    learnValue(target, values[at]!);
    bytes += leastBytes(values[at]!);
  });
  if (bytes < layout.leastCell) layout.leastCell = bytes;
}

/** Payload length, row number and header length, a byte each. */
const KEYED_FRAME = 3;
const BARE_FRAME = 2;

/** Integers below these take so many bytes (file format, section 2.1). */
const LEAST_WIDTHS = [
  [0x80, 1],
  [0x8000, 2],
  [0x80_0000, 3],
  [0x8000_0000, 4],
  [0x8000_0000_0000, 6]
] as const;

/** Bytes that a value takes in a record, or fewer. */
function leastBytes(value: SqlValue): number {
  if (value === null) return 0;
  if (typeof value === 'string') return value.length;
  if (value instanceof Uint8Array) return value.length;
  const size = Math.abs(Number(value));
  if (!Number.isInteger(size)) return 8;
  if (size <= 1) return 0;
  return LEAST_WIDTHS.find(([most]) => size < most)?.[1] ?? 8;
}

function learnValue(target: LayoutColumn, value: SqlValue): void {
  target.seen[classOfValue(value)]!++;
  if (typeof value === 'number' || typeof value === 'bigint') {
    const number = Number(value);
    if (number < target.least) target.least = number;
    if (number > target.most) target.most = number;
  } else if (typeof value === 'string') {
    if (value.length < target.shortestText) target.shortestText = value.length;
    if (value.length > target.longestText) target.longestText = value.length;
    learnLetters(target.letters, value);
  }
}

/** Takes the values that a live row puts into an index: those of its columns, then its row number. */
export function learnEntry(
  layout: Layout,
  positions: number[],
  values: SqlValue[],
  rowid: number | bigint | null
): void {
  layout.rowsSeen++;
  positions.forEach((at, i) => learnValue(layout.columns[i]!, at < 0 ? null : values[at]!));
  learnValue(layout.columns[layout.columns.length - 1]!, rowid);
  let bytes = BARE_FRAME + layout.columns.length + leastBytes(rowid);
  for (const at of positions) bytes += at < 0 ? 0 : leastBytes(values[at]!);
  if (bytes < layout.leastCell) layout.leastCell = bytes;
}

/** Enough live rows to hold what was never seen against a candidate. */
export const ENOUGH_ROWS = 20;

/** Evidence of each class of value in each column. */
export type Fits = Float64Array;

/** How well values suit the columns of a layout, as far as its rows are known. */
export function fitsOf(layout: Layout): Fits {
  const { fits } = layout;
  return fits?.rowsSeen === layout.rowsSeen ? fits.bits : judgeClasses(layout);
}

/**
 * How well a class of value suits a column: bits of evidence, negative when
 * it speaks against, impossible when SQLite could not have stored it there.
 */
export function fitOf(fits: Fits, i: number, serial: number): number {
  return fits[i * CLASSES.length + classOfSerial(serial)]!;
}

/** The same for one value of a layout. */
export function suits(layout: Layout, i: number, serial: number): number {
  return fitOf(fitsOf(layout), i, serial);
}

function judgeClasses(layout: Layout): Fits {
  const { rowsSeen, columns } = layout;
  const bits = Float64Array.from(
    columns.flatMap((target) => CLASSES.map((kind) => classSuits(layout, target, kind)))
  );
  layout.fits = { rowsSeen, bits };
  return bits;
}

function classSuits(layout: Layout, target: LayoutColumn, kind: ValueClass): number {
  if (kind === RESERVED) return IMPOSSIBLE;
  if (target.isRowid) return kind === NULL ? 3 : IMPOSSIBLE;
  if (kind === NULL) return target.notNull ? IMPOSSIBLE : seenScore(layout, target, kind, 0.5);
  const numeric = kind === INTEGER || kind === REAL;
  if (target.affinity === 'text') {
    if (numeric) return IMPOSSIBLE;
    return seenScore(layout, target, kind, kind === TEXT ? 1 : -3);
  }
  if (target.affinity === 'blob') return seenScore(layout, target, kind, 0.5);
  return seenScore(layout, target, kind, numeric ? 1.5 : -8);
}

function seenScore(layout: Layout, target: LayoutColumn, kind: ValueClass, base: number): number {
  if (layout.rowsSeen < ENOUGH_ROWS) return base;
  const share = target.seen[kind]! / layout.rowsSeen;
  if (share === 0) return Math.min(base, 0) - (kind === NULL ? 4 : 5);
  // What live rows do hold is no evidence against a reading, whatever was declared.
  return Math.max(base, 0.5) + (share > 0.9 ? 1 : 0);
}

/** Evidence against a value far off the narrow band of its column. */
export const FAR_OFF = -15;

/** Evidence from an integer's size against the range of live rows. */
export function suitsRange(layout: Layout, i: number, value: number): number {
  const { least, most } = layout.columns[i]!;
  if (!(least <= most)) return 0;
  // A few rows do not speak against a value, but for one.
  if (value >= least && value <= most) return 1.5 * Math.min(1, layout.rowsSeen / ENOUGH_ROWS);
  if (layout.rowsSeen < ENOUGH_ROWS) return 0;
  // Clocks and other large numbers keep to a narrow band; small counters do not.
  const narrow = least > 1e6 && most < least * 4;
  // Zero stands for no time in many stores.
  return narrow && value !== 0 && (value < least / 2 || value > most * 2) ? FAR_OFF : 0;
}

/** Evidence from a text's length in UTF-16 units: columns that hold codes of one length tell a shifted reading apart. */
export function suitsLength(layout: Layout, i: number, units: number): number {
  const { shortestText, longestText } = layout.columns[i]!;
  if (layout.rowsSeen < ENOUGH_ROWS || longestText === 0) return 0;
  if (units >= shortestText && units <= longestText) return 1;
  return longestText - shortestText <= 2 ? -5 : 0;
}

/** Length of well-formed text in UTF-16 units, without decoding it. */
export function unitsOf(page: Uint8Array, at: number, end: number, encoding: TextEncoding): number {
  return encoding === 'utf-8' ? utf8Units(page, at, end) : (end - at) / 2;
}

function utf8Units(page: Uint8Array, at: number, end: number): number {
  if (isPrintable(page, at, end)) return end - at;
  let count = 0;
  for (let i = at; i < end; i++) {
    const byte = page[i]!;
    if ((byte & 0xc0) !== 0x80) count += byte >= 0xf0 ? 2 : 1;
  }
  return count;
}
