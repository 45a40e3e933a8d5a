import {
  BatchJson,
  JsonBytes,
  type JsonChunk,
  type JsonFrame,
  type Message,
  type MessageBatch
} from '../records';
import {
  type FreedPart,
  type LargeLeaves,
  packPlain,
  placeKey,
  type PlainFreed,
  type PlainPlace,
  type PlainRows,
  type PlainSink,
  plainUnique,
  type RecordCursor,
  type SharedFreedStep,
  type SharedStep,
  type StoreThread,
  type Wait
} from '../profiles';
import type { Assembly } from './assembly';
import type { FoldedMessage, StreamFolder } from './fold';
import { Learned } from './learned';
import type { LinesCrew } from './line-crew';
import {
  type FreedPlan,
  type LinesFound,
  type LinesPlan,
  type LinesTask,
  LineThread,
  type RowsToWrite
} from './line-thread';
import { isAskedFor, ordinaryMoment } from './ordinary';
import { RowWriter } from './row-writer';
import { Stretches } from './stretches';
import { WrittenRows } from './written-rows';

/** Messages, and bytes of their texts, after which what this thread put together should leave. */
const FULL = 8192;
const FULL_TEXT = 1 << 20;
/** Leaves of one stretch: enough that handing it over costs little, few enough that what is written of it stays at hand. */
const LEAVES = 192;
/** Freed rows of one stretch. */
const FREED = 2048;
/** Stretches that may wait for their turn. */
const WINDOW = 12;

/** Records on their way out: batches, or JSON made of them. */
export interface RecordsOut {
  batches: MessageBatch[];
  json: JsonChunk[];
  /** How many messages they hold. */
  written: number;
}

/**
 * Puts the messages of a large store into batches: ordinary rows straight
 * from their bytes, the others as the records that were made of them. What a
 * row means beside its text and times is learned from the first message of
 * its kind that was made in full, so that both ways tell the same. Other
 * threads do the same with what was learned so far.
 */
export class PlainLines implements PlainSink {
  private readonly writer: RowWriter;
  private readonly learned = new Learned();
  private readonly json: BatchJson | null;
  /** What others put together since the last call. */
  private ready: RecordsOut = { batches: [], json: [], written: 0 };
  private readonly rooms = new Rooms();
  /** Live rows that this thread wrote, and whose they are. */
  private readonly ownLive = new WrittenRows();
  private counting: PlainRows | null = null;
  /** The thread of a context, for each table. */
  private readonly threads = new Map<PlainRows, (context: number) => string>();

  /** @param frame what JSON records stand in; null for batches. */
  constructor(
    private readonly frame: JsonFrame | null,
    private readonly assembly: Assembly,
    private readonly folder: StreamFolder,
    private readonly crew: LinesCrew | null
  ) {
    const { id, source } = assembly.facts;
    this.writer = new RowWriter(id, source);
    this.json = frame && new BatchJson(frame);
  }

  get isFull(): boolean {
    const { batches, json } = this.ready;
    const { count, textSize } = this.writer.out;
    return batches.length + json.length > 0 || count >= FULL || textSize >= FULL_TEXT;
  }

  /** What was put together since the last call. */
  take(): RecordsOut {
    this.endOwn();
    this.endCounting();
    const { ready } = this;
    this.ready = { batches: [], json: [], written: 0 };
    return ready;
  }

  /** Gives out what this thread put together. */
  private endOwn(): void {
    const { out } = this.writer;
    if (out.count === 0) return;
    this.ready.written += out.count;
    if (!this.json) {
      this.ready.batches.push(out.take());
      return;
    }
    const room = this.rooms.take();
    const json = new JsonBytes(room);
    this.json.write(out.view(), json);
    out.clear();
    this.push(json.written(), room);
  }

  /** `room` is free once that was stored. */
  private push(bytes: Uint8Array, room: SharedArrayBuffer | null): void {
    const stored = (): void => {
      if (room) this.rooms.give(room);
    };
    this.ready.json.push({ bytes, stored });
  }

  /** Adds a message that was made in full. */
  add(message: Message): void {
    this.writer.out.add(message);
  }

  /** Learns from a message that was made in full, where its row was asked for just before. */
  learn(message: FoldedMessage, record: Message): void {
    this.learned.learn(message, record);
  }

  live(rows: PlainRows, cursor: RecordCursor, place: PlainPlace): boolean {
    this.learned.forget();
    const { rowid } = place;
    if (isAskedFor(this.assembly.asked, rows, cursor, rowid)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || this.folder.indexes.concern(rows, cursor, sentAt, rowid))
      return false;
    const shared = this.learned.meaning(rows, cursor, false, place);
    if (!shared || !this.writer.live(rows, cursor, place, sentAt, shared.context)) return false;
    this.countLive(rows, rowid, sentAt, shared.index);
    return true;
  }

  private countLive(rows: PlainRows, rowid: number, sentAt: number | null, context: number): void {
    if (this.counting !== rows) this.endCounting();
    this.counting = rows;
    this.ownLive.add(rowid, sentAt, context);
  }

  /** Rows of this thread are counted together, as those of others are. */
  private endCounting(): void {
    const { counting } = this;
    if (!counting) return;
    this.assembly.countLive(counting.name, this.ownLive.take(), this.threadsOf(counting));
    this.counting = null;
  }

  freed(rows: PlainRows, cursor: RecordCursor, freed: PlainFreed): boolean {
    this.learned.forget();
    const { facts, bounds } = freed;
    const { rowid } = facts;
    if (typeof rowid === 'bigint' || isAskedFor(this.assembly.asked, rows, cursor, rowid))
      return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || Number.isNaN(plainUnique(rows, cursor))) return false;
    const [place] = facts.proofs;
    const shared = this.learned.meaning(rows, cursor, true, place!);
    if (!shared) return false;
    const { context, thread } = shared;
    const key = placeKey(rows.name, place!);
    const id = this.assembly.idFor(key);
    const isPlace = id === `${this.assembly.facts.id}/${key}`;
    const linked = freed.isLinked(thread);
    const line = { id: isPlace ? null : id, sentAt, context, bounds, linked };
    if (!this.writer.freed(rows, cursor, facts, line)) return false;
    this.assembly.claim(id);
    const { name: table } = rows;
    const state = 'recovered';
    this.assembly.count({ table, rowid, sentAt, thread: context.thread, id, state });
    return true;
  }

  *shared(
    rows: PlainRows,
    leaves: LargeLeaves,
    reactedTo: Float64Array
  ): Generator<SharedStep, void> {
    const pages = leaves.leaves();
    if (pages.length <= 2 * LEAVES) return yield { type: 'own', leaves: pages };
    // What the first rows mean is learned here: before that the others could write nothing.
    yield { type: 'own', leaves: pages.subarray(0, LEAVES) };
    const others = pages.subarray(LEAVES);
    const take = (at: number): RowsToWrite => ({
      leaves: others.slice(at * LEAVES, (at + 1) * LEAVES)
    });
    const plan = this.planOf(rows, reactedTo, null);
    const here = new LineThread(leaves, plan, this.folder.indexes);
    const work = this.stretches(rows, plan, here, Math.ceil(others.length / LEAVES), take);
    for (const step of work.inOrder()) {
      if (step.type === 'wait') yield step;
      else {
        this.assembly.countLive(rows.name, step.value, this.threadsOf(rows));
        this.adopt(step.value);
        for (const { page, start } of step.value.left) yield { type: 'left', page, start };
        yield PAUSE;
      }
    }
  }

  *sharedFreed(part: FreedPart, indexes: Uint32Array): Generator<SharedFreedStep, void> {
    const { rows, reactedTo, leaves } = part;
    if (indexes.length <= 2 * FREED) return yield { type: 'own', indexes };
    yield { type: 'own', indexes: indexes.subarray(0, FREED) };
    const others = indexes.subarray(FREED);
    const some = (at: number): Uint32Array => others.subarray(at * FREED, (at + 1) * FREED);
    const take = (at: number): RowsToWrite => ({ freed: part.placesOf(some(at)) });
    const plan = this.planOf(rows, reactedTo, part);
    const here = new LineThread(leaves, plan, null);
    const count = Math.ceil(others.length / FREED);
    const work = this.stretches(rows, plan, here, count, take, part.isLinked);
    for (const step of work.inOrder()) {
      if (step.type === 'wait') yield step;
      else {
        yield* this.adoptFreed(part, some(step.at), step.value);
        yield PAUSE;
      }
    }
  }

  /** Takes over freed rows that another thread wrote, and gives those that it left. */
  private *adoptFreed(
    part: FreedPart,
    indexes: Uint32Array,
    found: LinesFound
  ): Generator<SharedFreedStep> {
    const left = new Set(found.left.map(({ page }) => page));
    const written = indexes.filter((_, i) => !left.has(i));
    const idOf = (i: number): string =>
      this.assembly.idFor(placeKey(part.rows.name, part.factsAt(written[i]!).proofs[0]!));
    this.assembly.countFreed(part.rows.name, found, this.threadsOf(part.rows), idOf);
    this.adopt(found);
    for (const { page } of found.left)
      yield { type: 'own', indexes: indexes.slice(page, page + 1) };
  }

  private threadsOf(rows: PlainRows): (context: number) => string {
    let known = this.threads.get(rows);
    if (!known) this.threads.set(rows, (known = (context) => this.learned.threadOf(rows, context)));
    return known;
  }

  private stretches(
    rows: PlainRows,
    plan: LinesPlan,
    here: LineThread,
    count: number,
    take: (at: number) => RowsToWrite,
    isLinked: (thread: StoreThread) => boolean = () => false
  ): Stretches<LinesFound> {
    const tasks = (): ((at: number) => LinesTask) => {
      let told = 0;
      return (at) => {
        const contexts = this.learned.packed(rows, told, isLinked);
        told += contexts.length;
        return { rows: take(at), contexts, room: this.json && this.rooms.take() };
      };
    };
    const doers = (this.crew?.(plan) ?? []).map((helper) => {
      const task = tasks();
      return (at: number): Promise<LinesFound> => helper.write(task(at));
    });
    const task = tasks();
    return new Stretches(count, (at) => here.write(task(at)), doers, WINDOW);
  }

  private planOf(rows: PlainRows, reactedTo: Float64Array, freed: FreedPart | null): LinesPlan {
    const { facts, asked } = this.assembly;
    const { id: store, source } = facts;
    const common = { frame: this.frame, store, source, rows: packPlain(rows), reactedTo, asked };
    return freed
      ? { ...common, known: null, freed: freedPlan(freed) }
      : { ...common, known: this.folder.indexes.pack(), freed: null };
  }

  /** Takes over what another thread, or this one in its place, wrote of one stretch. */
  private adopt({ records, rowids }: LinesFound): void {
    this.ready.written += rowids.length;
    if ('batch' in records) {
      if (records.batch.count > 0) this.ready.batches.push(records.batch);
      return;
    }
    const { buffer } = records.json;
    this.push(records.json, buffer instanceof SharedArrayBuffer ? buffer : null);
  }
}

function freedPlan({ schema, bounds, packed }: FreedPart): FreedPlan {
  return { schema, bounds, rows: packed() };
}

/** Lets what was written leave, and what others did arrive. */
const PAUSE: Wait = { type: 'wait', until: Promise.resolve() };

/** Enough for what is written of one stretch of rows, as a rule. */
const ROOM = 2 << 20;

/**
 * Memory for JSON on its way out, which is used again: as much as a store
 * holds passes through, and the collector would be busy with it all the time.
 * It is shared, so that other threads write where this one reads.
 */
class Rooms {
  private readonly free: SharedArrayBuffer[] = [];

  take(): SharedArrayBuffer {
    return this.free.pop() ?? new SharedArrayBuffer(ROOM);
  }

  give(room: SharedArrayBuffer): void {
    this.free.push(room);
  }
}
