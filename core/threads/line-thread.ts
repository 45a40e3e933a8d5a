import { NumberIndex } from '../bytes';
import type { JsonFrame } from '../records';
import {
  isNamed,
  isPlain,
  LeafRows,
  unpackPlain,
  type Leaves,
  type PackedPlain,
  type PlainPlace,
  type PlainRows,
  type RecordCursor
} from '../stores';
import { Contexts, type PackedContext } from './contexts';
import { FreedIndexes, type FreedColumns } from './freed-indexes';
import { LineWriter } from './line-writer';
import { isAskedFor, ordinaryMoment, type Asked } from './ordinary';

/** Everything that another thread needs to know before it can write rows of a table. */
export interface LinesPlan {
  frame: JsonFrame;
  store: string;
  source: string;
  rows: PackedPlain;
  freed: FreedColumns;
  /** Hashes of the names of messages that are reacted to. */
  reactedTo: Float64Array;
  asked: Asked;
}

/** Leaves to be written, and the contexts that were learned since the last ones. */
export interface LinesTask {
  leaves: Uint32Array;
  contexts: PackedContext[];
}

/** What came of them. */
export interface LinesFound {
  json: Uint8Array;
  /** Rows that were written. */
  rowids: Float64Array;
  /** When each was sent; NaN where that is unknown. */
  moments: Float64Array;
  /** Index of each one's context. */
  contexts: Uint32Array;
  left: LeftRow[];
}

/** A row, or with `start` null a whole leaf, that has to be read as messages. */
export interface LeftRow {
  page: number;
  start: number | null;
  /** Bytes of JSON before it. */
  at: number;
}

/** A thread that writes ordinary live rows of one table; what it does not know it leaves. */
export class LineThread {
  private readonly rows: PlainRows;
  private readonly writer: LineWriter;
  private readonly freed: FreedIndexes;
  private readonly reactedTo: NumberIndex | null;
  private readonly contexts = new Contexts<PackedContext & { freed: false }>();
  private readonly leafRows: LeafRows;
  private readonly written = new WrittenRows();

  constructor(
    private readonly leaves: Leaves,
    private readonly plan: LinesPlan
  ) {
    this.rows = unpackPlain(plan.rows);
    this.writer = new LineWriter(plan.frame, plan.store, plan.source);
    this.freed = new FreedIndexes(plan.freed);
    this.reactedTo = plan.reactedTo.length > 0 ? new NumberIndex(plan.reactedTo) : null;
    this.leafRows = new LeafRows(leaves);
  }

  write({ leaves, contexts }: LinesTask): LinesFound {
    for (const context of contexts) this.contexts.add(context.hash, { ...context, freed: false });
    const left: LeftRow[] = [];
    for (const number of leaves) {
      const page = this.leaves.leaf(number);
      if (page && this.leafRows.open(page)) this.writeLeaf(number, left);
      else left.push({ page: number, start: null, at: this.writer.out.length });
    }
    return { json: this.writer.out.take(), ...this.written.take(), left };
  }

  private writeLeaf(page: number, left: LeftRow[]): void {
    const { leafRows } = this;
    for (let i = 0; i < leafRows.count; i++) {
      if (leafRows.point(i) && this.writeRow(leafRows.cursor, leafRows.place)) continue;
      left.push({ page, start: leafRows.start(i), at: this.writer.out.length });
    }
  }

  private writeRow(cursor: RecordCursor, place: PlainPlace): boolean {
    const { rows, reactedTo } = this;
    const { rowid } = place;
    if (!isPlain(rows, cursor, rowid)) return false;
    if (reactedTo && isNamed(rows, cursor, reactedTo)) return false;
    if (isAskedFor(this.plan.asked, rows, cursor, rowid)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || this.freed.concern(rows, cursor, sentAt, rowid)) return false;
    const context = this.contexts.find(rows, cursor, false);
    if (!context?.told || !this.writer.live(rows, cursor, place, sentAt, context.told))
      return false;
    this.written.add(rowid, sentAt, context.index);
    return true;
  }
}

/** What is told of the written rows, in columns that grow. */
class WrittenRows {
  private rowids = new Float64Array(1024);
  private moments = new Float64Array(1024);
  private contexts = new Uint32Array(1024);
  private length = 0;

  add(rowid: number, sentAt: number | null, context: number): void {
    if (this.length === this.rowids.length) this.grow();
    this.rowids[this.length] = rowid;
    this.moments[this.length] = sentAt ?? NaN;
    this.contexts[this.length++] = context;
  }

  private grow(): void {
    const grown = <T extends Float64Array | Uint32Array>(old: T, into: T): T => {
      into.set(old);
      return into;
    };
    const size = this.length * 2;
    this.rowids = grown(this.rowids, new Float64Array(size));
    this.moments = grown(this.moments, new Float64Array(size));
    this.contexts = grown(this.contexts, new Uint32Array(size));
  }

  take(): Pick<LinesFound, 'rowids' | 'moments' | 'contexts'> {
    const { length } = this;
    this.length = 0;
    return {
      rowids: this.rowids.slice(0, length),
      moments: this.moments.slice(0, length),
      contexts: this.contexts.slice(0, length)
    };
  }
}

/** Memory that can be handed over instead of being copied. */
export function linesTransfer({ json, rowids, moments, contexts }: LinesFound): ArrayBuffer[] {
  return [json, rowids, moments, contexts].map(({ buffer }) => buffer as ArrayBuffer);
}
