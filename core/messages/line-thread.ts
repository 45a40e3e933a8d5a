import { NumberIndex } from '../host';
import {
  type BatchContext,
  BatchJson,
  batchTransfer,
  JsonBytes,
  type JsonFrame,
  type MessageBatch
} from '../records';
import {
  type FreedFacts,
  isNamed,
  isPlain,
  LeafRows,
  type Leaves,
  type LiveBounds,
  type PackedPlain,
  type PackedRows,
  type PlainPlace,
  type PlainRows,
  plainUnique,
  RecordCursor,
  type TableSchema,
  unpackPlain,
  WholeRows
} from '../profiles';
import { Contexts, type PackedContext } from './contexts';
import { FreedIndexes, type PackedFreed } from './freed-indexes';
import { type Asked, isAskedFor, ordinaryMoment } from './ordinary';
import type { WrittenColumns } from './placed';
import { RowWriter } from './row-writer';
import { WrittenRows } from './written-rows';

/** Everything that another thread needs to know before it can write rows of a table. */
export interface LinesPlan {
  /** Rows leave as JSON in this frame; null for batches. */
  frame: JsonFrame | null;
  store: string;
  source: string;
  rows: PackedPlain;
  /** Hashes of the names of messages that are reacted to. */
  reactedTo: Float64Array;
  asked: Asked;
  /** Freed messages that live ones may be copies of; null where freed rows are written. */
  known: PackedFreed | null;
  /** What freed rows are read by; null where live rows are written. */
  freed: FreedPlan | null;
}

export interface FreedPlan {
  schema: TableSchema;
  bounds: LiveBounds;
  rows: PackedRows;
}

/** Rows of live leaves, or freed ones by their places. */
export type RowsToWrite = { leaves: Uint32Array } | { freed: Uint32Array };

/** Rows to be written, and the contexts that were learned since the last ones. */
export interface LinesTask {
  rows: RowsToWrite;
  contexts: PackedContext[];
  /** Where to write JSON; null where batches are asked for. */
  room: SharedArrayBuffer | null;
}

/** What came of them: the rows that were written, and those that were left. */
export interface LinesFound extends WrittenColumns {
  /** The rows, as the plan asks for them. JSON lies in the room that was given, or where that was too small in memory of its own. */
  records: { json: Uint8Array } | { batch: MessageBatch };
  left: LeftRow[];
}

/** A row that has to be read as messages. */
export interface LeftRow {
  /** The page of a live row; of a freed one its place among those of the task. */
  page: number;
  /** Where the live row's cell begins; null for the whole leaf, and for freed rows. */
  start: number | null;
}

/** A thread that writes ordinary rows of one table; what it does not know it leaves. */
export class LineThread {
  private readonly rows: PlainRows;
  private readonly writer: RowWriter;
  private readonly json: { batches: BatchJson; out: JsonBytes } | null;
  private readonly known: FreedIndexes | null;
  private readonly reactedTo: NumberIndex | null;
  private readonly contexts = new ToldContexts();
  private readonly leafRows: LeafRows;
  /** The freed rows; null where live ones are written. */
  private readonly whole: WholeRows | null;
  private readonly cursor = new RecordCursor();
  private readonly written = new WrittenRows();

  /** @param known the indexes of the plan's freed messages, where this thread has them already. */
  constructor(
    private readonly leaves: Leaves,
    private readonly plan: LinesPlan,
    known: FreedIndexes | null = null
  ) {
    this.rows = unpackPlain(plan.rows);
    this.writer = new RowWriter(plan.store, plan.source);
    const { frame } = plan;
    this.json = frame && { batches: new BatchJson(frame), out: new JsonBytes() };
    this.known = known ?? (plan.known && FreedIndexes.unpack(plan.known));
    this.reactedTo = plan.reactedTo.length > 0 ? new NumberIndex(plan.reactedTo) : null;
    this.leafRows = new LeafRows(leaves);
    const { freed } = plan;
    this.whole = freed && WholeRows.of(freed.schema, this.rows.encoding, freed.rows);
  }

  write({ rows, contexts, room }: LinesTask): LinesFound {
    for (const context of contexts) this.contexts.add(context);
    const left: LeftRow[] = [];
    if ('leaves' in rows) this.writeLeaves(rows.leaves, left);
    else this.writeFreed(rows.freed, left);
    return { records: this.records(room), ...this.written.take(), left };
  }

  private records(room: SharedArrayBuffer | null): LinesFound['records'] {
    const { json, writer } = this;
    if (!json || !room) return { batch: writer.out.take() };
    json.out.begin(room);
    json.batches.write(writer.out.view(), json.out);
    writer.out.clear();
    return { json: json.out.written() };
  }

  private writeLeaves(leaves: Uint32Array, left: LeftRow[]): void {
    const { leafRows } = this;
    for (const page of leaves) {
      const leaf = this.leaves.passingLeaf(page);
      if (!leaf || !leafRows.open(leaf)) {
        left.push({ page, start: null });
        continue;
      }
      for (let i = 0; i < leafRows.count; i++) {
        if (leafRows.point(i) && this.writeLive(leafRows.cursor, leafRows.place)) continue;
        left.push({ page, start: leafRows.start(i) });
      }
    }
  }

  private writeLive(cursor: RecordCursor, place: PlainPlace): boolean {
    const { rows, known } = this;
    const { rowid } = place;
    if (!known || !this.isOrdinary(cursor, rowid, false)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || known.concern(rows, cursor, sentAt, rowid)) return false;
    const { contexts } = this;
    const context = contexts.find(rows, cursor, false);
    if (!context || !this.writer.live(rows, cursor, place, sentAt, context)) return false;
    this.written.add(rowid, sentAt, contexts.index);
    return true;
  }

  private writeFreed(places: Uint32Array, left: LeftRow[]): void {
    const whole = this.whole!;
    const { bounds } = this.plan.freed!;
    for (let page = 0; page < places.length; page++) {
      const at = places[page]!;
      const isRead = whole.point(this.cursor, at);
      if (isRead && this.writeOneFreed(whole.facts(at), bounds)) continue;
      left.push({ page, start: null });
    }
  }

  private writeOneFreed(facts: FreedFacts, bounds: LiveBounds): boolean {
    const { rows, cursor } = this;
    const { rowid } = facts;
    if (typeof rowid === 'bigint' || !this.isOrdinary(cursor, rowid, true)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || Number.isNaN(plainUnique(rows, cursor))) return false;
    const { contexts } = this;
    const context = contexts.find(rows, cursor, true);
    if (!context) return false;
    const line = { id: null, sentAt, context, bounds, linked: contexts.linked };
    if (!this.writer.freed(rows, cursor, facts, line)) return false;
    this.written.add(rowid ?? NaN, sentAt, contexts.index);
    return true;
  }

  private isOrdinary(cursor: RecordCursor, rowid: number | null, isFreed: boolean): boolean {
    const { rows, reactedTo, plan } = this;
    if (!isPlain(rows, cursor, rowid ?? NaN, isFreed)) return false;
    if (reactedTo && isNamed(rows, cursor, reactedTo)) return false;
    return !isAskedFor(plan.asked, rows, cursor, rowid);
  }
}

/** Memory that can be handed over instead of being copied. */
export function linesTransfer({ records, rowids, moments, contexts }: LinesFound): ArrayBuffer[] {
  const own = [rowids, moments, contexts].map(({ buffer }) => buffer as ArrayBuffer);
  if ('batch' in records) return [...own, ...batchTransfer(records.batch)];
  // A room is shared, unless it was too small.
  const { buffer } = records.json;
  return buffer instanceof ArrayBuffer ? [...own, buffer] : own;
}

/** What another thread was told of contexts. Rows ask for it in no order. */
export class ToldContexts {
  private readonly contexts = new Contexts();
  private readonly list: PackedContext[] = [];
  index = 0;
  linked = false;

  add(context: PackedContext): void {
    this.contexts.add(context);
    this.list.push(context);
  }

  /** Finds what is known of rows like this one; null where such a row has to be read as a message. */
  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): BatchContext | null {
    const at = this.contexts.find(rows, cursor, freed);
    if (at < 0) return null;
    const { context, index, linked } = this.list[at]!;
    this.index = index;
    this.linked = linked;
    return context;
  }
}
