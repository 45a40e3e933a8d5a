import { NumberIndex } from '../bytes';
import type { JsonFrame } from '../records';
import {
  isNamed,
  isPlain,
  LeafRows,
  plainUnique,
  RecordCursor,
  unpackPlain,
  WholeRows,
  type FreedFacts,
  type Leaves,
  type LiveBounds,
  type PackedPlain,
  type PackedRows,
  type PlainPlace,
  type PlainRows,
  type TableSchema
} from '../stores';
import type { PackedContext } from './contexts';
import { FreedIndexes, type PackedFreed } from './freed-indexes';
import { LineWriter } from './line-writer';
import { isAskedFor, ordinaryMoment, type Asked } from './ordinary';
import type { WrittenColumns } from './placed';
import { ToldContexts } from './told-contexts';
import { WrittenRows } from './written-rows';

/** Everything that another thread needs to know before it can write rows of a table. */
export interface LinesPlan {
  frame: JsonFrame;
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
  /** Where to write. */
  room: SharedArrayBuffer;
}

/** What came of them: the rows that were written, and those that were left. */
export interface LinesFound extends WrittenColumns {
  /** In the room that was given, or where that was too small in memory of its own. */
  json: Uint8Array;
  left: LeftRow[];
}

/** A row that has to be read as messages. */
export interface LeftRow {
  /** The page of a live row; of a freed one its place among those of the task. */
  page: number;
  /** Where the live row's cell begins; null for the whole leaf, and for freed rows. */
  start: number | null;
  /** Bytes of JSON before it. */
  at: number;
}

/** A thread that writes ordinary rows of one table; what it does not know it leaves. */
export class LineThread {
  private readonly rows: PlainRows;
  private readonly writer: LineWriter;
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
    this.writer = new LineWriter(plan.frame, plan.store, plan.source);
    this.known = known ?? (plan.known && FreedIndexes.unpack(plan.known));
    this.reactedTo = plan.reactedTo.length > 0 ? new NumberIndex(plan.reactedTo) : null;
    this.leafRows = new LeafRows(leaves);
    const { freed } = plan;
    this.whole = freed && WholeRows.of(freed.schema, this.rows.encoding, freed.rows);
  }

  write({ rows, contexts, room }: LinesTask): LinesFound {
    this.writer.out.begin(room);
    for (const context of contexts) this.contexts.add(context);
    const left: LeftRow[] = [];
    if ('leaves' in rows) this.writeLeaves(rows.leaves, left);
    else this.writeFreed(rows.freed, left);
    return { json: this.writer.out.written(), ...this.written.take(), left };
  }

  private writeLeaves(leaves: Uint32Array, left: LeftRow[]): void {
    const { leafRows } = this;
    for (const page of leaves) {
      const leaf = this.leaves.passingLeaf(page);
      if (!leaf || !leafRows.open(leaf)) {
        left.push({ page, start: null, at: this.writer.out.length });
        continue;
      }
      for (let i = 0; i < leafRows.count; i++) {
        if (leafRows.point(i) && this.writeLive(leafRows.cursor, leafRows.place)) continue;
        left.push({ page, start: leafRows.start(i), at: this.writer.out.length });
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
    if (!contexts.find(rows, cursor, false)) return false;
    if (!this.writer.live(rows, cursor, place, sentAt, contexts.told)) return false;
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
      left.push({ page, start: null, at: this.writer.out.length });
    }
  }

  private writeOneFreed(facts: FreedFacts, bounds: LiveBounds): boolean {
    const { rows, cursor } = this;
    const { rowid } = facts;
    if (typeof rowid === 'bigint' || !this.isOrdinary(cursor, rowid, true)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || Number.isNaN(plainUnique(rows, cursor))) return false;
    const { contexts } = this;
    if (!contexts.find(rows, cursor, true)) return false;
    const { told, linked } = contexts;
    if (!this.writer.freed(rows, cursor, facts, { id: null, sentAt, told, bounds, linked }))
      return false;
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
export function linesTransfer({ json, rowids, moments, contexts }: LinesFound): ArrayBuffer[] {
  const own = [json, rowids, moments, contexts].map(({ buffer }) => buffer);
  // A room is shared, unless it was too small.
  return own.filter((buffer) => buffer instanceof ArrayBuffer);
}
