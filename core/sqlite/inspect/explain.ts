import { readVarint, readVarintSigned, u16be, varintSize, type Varint } from '../../host';
import type { Database } from '../read/database';
import type { Candidate } from '../recover/candidate';
import { pageImages, type PageImage } from '../recover/images';
import type { Layout } from '../recover/layout';
import type { PageUses } from '../recover/owners';
import { readingsOf } from '../recover/sweep';
import { readCell, readPageHeader, TABLE_LEAF } from '../format/page';
import { decodeValue, serialSize, type SqlValue } from '../format/record';
import type { TableSchema } from '../format/schema';

/** What bytes of a record's cell are. Offsets are relative to the page; the end is exclusive. */
export interface CellSpan {
  kind: 'lost' | 'length' | 'rowid' | 'header' | 'value' | 'spill';
  start: number;
  end: number;
  /** Index into {@link ExplainedCell.fields}, for values. */
  field: number | null;
}

/** A value of the record, or what stands before the values. */
export interface CellField {
  name: string;
  value: SqlValue;
  /** Bytes of the value, wherever they lie. */
  bytes: number;
  /** The value's bytes are gone, in part or whole. */
  lost: boolean;
}

/** A record with its page, every byte of its cell named. */
export interface ExplainedCell {
  page: number;
  /** Offset of the page in its file. */
  pageOffset: number;
  bytes: Uint8Array;
  table: string | null;
  spans: CellSpan[];
  fields: CellField[];
  payload: number;
  rowid: number | bigint | null;
  /** Leading bytes that were overwritten and worked out again. */
  rebuilt: number;
  headerBytes: number;
}

/** Where a record lies: what a proof says of it. */
export interface CellPlace {
  file: string;
  offset: number;
  length: number;
}

/** Names every byte of the cell that a proof points to; null when it cannot be read again. */
export function explainCell(
  database: Database,
  layouts: readonly Layout[],
  uses: PageUses,
  place: CellPlace
): ExplainedCell | null {
  const image = imageAt(database, place);
  if (!image) return null;
  const bytes = image.source.read(image.offset, database.pages.pageSize);
  const start = place.offset - image.offset;
  const owner = uses.get(image.number).owner;
  const live = liveCell(database, bytes, image.number, start, place.length, owner);
  if (live) return { ...live, pageOffset: image.offset, bytes };
  for (const reading of readingsOf(database, image, uses, layouts)) {
    if (reading.start === start && reading.layout.table)
      return { ...freedCell(database, image, bytes, reading), pageOffset: image.offset, bytes };
  }
  return null;
}

function imageAt(database: Database, { file, offset }: CellPlace): PageImage | null {
  const { pageSize } = database.pages;
  for (const image of pageImages(database)) {
    if (image.source.name !== file) continue;
    if (offset >= image.offset && offset < image.offset + pageSize) return image;
  }
  return null;
}

const scratch: Varint = { value: 0, size: 0 };

type Explained = Omit<ExplainedCell, 'pageOffset' | 'bytes'>;

/** A cell that the page's pointers lead to. */
function liveCell(
  database: Database,
  page: Uint8Array,
  number: number,
  start: number,
  length: number,
  owner: string | null
): Explained | null {
  const header = readPageHeader(page, number);
  const table = owner === null ? undefined : database.table(owner);
  if (!header || !table || !pointsTo(page, header.pointers, header.cellCount, start)) return null;
  const cell = readCell(page, header.kind, start, database.pages.usable);
  if (!cell || cell.end - cell.start !== length) return null;
  const limit = cell.payloadStart + cell.local;
  const head = readVarint(page, cell.payloadStart, limit, scratch);
  const headerBytes = head.value;
  const serials: number[] = [];
  for (let pos = cell.payloadStart + head.size; pos < cell.payloadStart + headerBytes;) {
    const { value, size } = readVarint(page, pos, limit, scratch);
    if (size === 0) break;
    serials.push(value);
    pos += size;
  }
  const keyed = header.kind === TABLE_LEAF;
  return named(database, page, table, {
    number,
    start,
    end: cell.end,
    rebuilt: 0,
    payload: cell.payload,
    rowid: keyed ? cell.rowid : null,
    headerStart: cell.payloadStart,
    headerBytes,
    serials,
    local: cell.local,
    overflow: cell.overflow
  });
}

function pointsTo(page: Uint8Array, pointers: number, count: number, start: number): boolean {
  for (let i = 0; i < count; i++) if (u16be(page, pointers + 2 * i) === start) return true;
  return false;
}

function freedCell(
  database: Database,
  image: PageImage,
  page: Uint8Array,
  reading: Candidate
): Explained {
  const { start, end, rebuilt, payload, rowid, bodyStart, headerSize, serials } = reading;
  const { local, overflow, layout } = reading;
  return named(database, page, layout.table!, {
    number: image.number,
    start,
    end,
    rebuilt,
    payload,
    rowid,
    headerStart: bodyStart - headerSize,
    headerBytes: headerSize,
    serials,
    local,
    overflow
  });
}

interface Parts {
  number: number;
  start: number;
  end: number;
  rebuilt: number;
  payload: number;
  rowid: number | bigint | null;
  headerStart: number;
  headerBytes: number;
  serials: number[];
  local: number;
  overflow: number;
}

function named(database: Database, page: Uint8Array, table: TableSchema, parts: Parts): Explained {
  const spans = beforeValues(page, table, parts);
  const fields: CellField[] = [];
  const limit = Math.min(parts.headerStart + parts.local, parts.end);
  let at = parts.headerStart + parts.headerBytes;
  parts.serials.forEach((serial, i) => {
    const size = serialSize(serial);
    const stop = at + size;
    const here = Math.min(stop, limit);
    if (here > at) spans.push({ kind: 'value', start: at, end: here, field: i });
    const whole = stop <= limit;
    const value = whole ? decodeValue(page, at, serial, database.header.encoding) : null;
    const column = table.columns[table.order[i] ?? -1];
    const stands = column?.isRowid ? parts.rowid : value;
    fields.push({
      name: column?.name ?? `value ${i + 1}`,
      value: stands,
      bytes: size,
      lost: !whole
    });
    at = stop;
  });
  if (parts.overflow !== 0) {
    spans.push({ kind: 'spill', start: parts.end - 4, end: parts.end, field: null });
  }
  const { number, rebuilt, payload, rowid, headerBytes } = parts;
  return { page: number, table: table.name, spans, fields, payload, rowid, rebuilt, headerBytes };
}

/** Payload length, row number and record header, or what was written over them. */
function beforeValues(page: Uint8Array, table: TableSchema, parts: Parts): CellSpan[] {
  const { start, rebuilt, headerStart, headerBytes, payload } = parts;
  const spans: CellSpan[] = [];
  const add = (kind: CellSpan['kind'], from: number, to: number): void => {
    const begin = Math.max(from, start + rebuilt);
    if (to > begin) spans.push({ kind, start: begin, end: to, field: null });
  };
  if (rebuilt > 0) spans.push({ kind: 'lost', start, end: start + rebuilt, field: null });
  const afterLength = start + varintSize(payload);
  add('length', start, Math.min(afterLength, headerStart));
  if (!table.declaration.withoutRowid) {
    const size =
      rebuilt > 0 ? headerStart - afterLength : rowidSize(page, afterLength, headerStart);
    add('rowid', afterLength, afterLength + size);
  }
  add('header', headerStart, headerStart + headerBytes);
  return spans;
}

function rowidSize(page: Uint8Array, at: number, limit: number): number {
  return readVarintSigned(page, at, limit).size;
}
