import { JsonBytes, messageJson, utf8, type JsonFrame, type Message } from '../records';
import {
  packPlain,
  plainUnique,
  ROW_NUMBER,
  type PlainFreed,
  type PlainPlace,
  type PlainRows,
  type PlainSink,
  type RecordCursor,
  type SharedStep
} from '../stores';
import type { Assembly } from './assembly';
import {
  contextHash,
  contextKey,
  Contexts,
  type Context,
  type PackedContext,
  type Shared
} from './contexts';
import type { FoldedMessage, StreamFolder } from './fold';
import type { LineHelper, LinesCrew } from './line-crew';
import type { LinesFound } from './line-thread';
import { LineWriter } from './line-writer';
import { isAskedFor, ordinaryMoment } from './ordinary';
import { Stretches } from './stretches';

/** What was learned of one table's rows. */
interface Learned {
  contexts: Contexts;
  list: Context[];
}

/** A row whose context has to be learned from the message that is made of it. */
interface Waiting extends Pick<Context, 'hash' | 'key' | 'freed'> {
  learned: Learned;
  file: string;
  offset: number;
}

/** Contexts past which columns tell rows apart instead of conversations. */
const MOST_CONTEXTS = 20_000;
/** Bytes after which what was written should leave. */
const FULL = 1 << 20;
/** Less than this is copied rather than kept as a piece of its own. */
const SMALL = 1 << 14;
/** Leaves of one stretch: some 25 ms of work, so that handing it over costs little. */
const STRETCH = 512;
/** Stretches that may wait for their turn. */
const WINDOW = 6;

/**
 * Writes ordinary messages of a large store as JSON straight from the bytes
 * of their rows. What a row means beside its text and times is learned from
 * the first message of its kind that was made in full, so that both ways
 * tell the same; whatever is out of the ordinary is left to that way.
 */
export class PlainLines implements PlainSink {
  private readonly writer: LineWriter;
  private readonly values = new JsonBytes();
  private readonly learned = new Map<PlainRows, Learned>();
  private count = 0;
  private waiting: Waiting | null = null;
  /** What was written before what stands in the writer. */
  private chunks: Uint8Array[] = [];
  private chunked = 0;
  private written = 0;

  constructor(
    private readonly frame: JsonFrame,
    private readonly assembly: Assembly,
    private readonly folder: StreamFolder,
    private readonly crew: LinesCrew | null
  ) {
    const { id, source } = assembly.facts;
    this.writer = new LineWriter(frame, id, source);
  }

  get isFull(): boolean {
    return this.chunked + this.writer.out.length >= FULL;
  }

  /** What was written since the last call, in order. */
  take(): { json: Uint8Array[]; written: number } {
    this.endChunk();
    const { written, chunks: json } = this;
    this.written = this.chunked = 0;
    this.chunks = [];
    return { json, written };
  }

  private endChunk(): void {
    if (this.writer.out.length > 0) this.push(this.writer.out.take());
  }

  private push(chunk: Uint8Array): void {
    this.chunks.push(chunk);
    this.chunked += chunk.length;
  }

  /** Writes a message that was made in full. */
  add(message: Message): void {
    const { before, after } = this.frame;
    this.writer.out.raw(utf8(before + messageJson(message).slice(1) + after));
    this.written++;
  }

  live(rows: PlainRows, cursor: RecordCursor, place: PlainPlace): boolean {
    this.waiting = null;
    const { rowid } = place;
    if (isAskedFor(this.assembly.asked, rows, cursor, rowid)) return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || this.folder.indexes.concern(rows, cursor, sentAt, rowid))
      return false;
    const shared = this.meaning(rows, cursor, false, place);
    if (!shared || !this.writer.live(rows, cursor, place, sentAt, shared.told)) return false;
    const { name: table } = rows;
    this.assembly.count({ table, rowid, sentAt, thread: shared.threadId, id: null, state: 'live' });
    this.written++;
    return true;
  }

  freed(rows: PlainRows, cursor: RecordCursor, { facts, judge }: PlainFreed): boolean {
    this.waiting = null;
    const { rowid, proofs } = facts;
    if (typeof rowid === 'bigint' || isAskedFor(this.assembly.asked, rows, cursor, rowid))
      return false;
    const sentAt = ordinaryMoment(rows, cursor);
    if (sentAt === undefined || Number.isNaN(plainUnique(rows, cursor))) return false;
    const shared = this.meaning(rows, cursor, true, proofs[0]!);
    this.values.length = 0;
    if (!shared || !this.writer.values(this.values, rows, cursor, sentAt)) return false;
    const judgement = judge(shared.thread, sentAt);
    const id = this.assembly.freshId(judgement.key);
    const { out, pieces } = this.writer;
    out.raw(pieces.open);
    out.string(id);
    out.raw(shared.told);
    out.raw(this.values.view());
    out.raw(pieces.recovered);
    out.integer(judgement.certainty);
    this.writeReasons(judgement.reasons);
    this.writeProofs(proofs);
    const { name: table } = rows;
    this.assembly.count({ table, rowid, sentAt, thread: shared.threadId, id, state: 'recovered' });
    this.written++;
    return true;
  }

  private writeReasons(reasons: readonly string[]): void {
    const { out, pieces } = this.writer;
    for (let i = 0; i < reasons.length; i++) {
      const reason = reasons[i]!;
      out.raw(i === 0 ? pieces.reasons : pieces.comma);
      // Those with a number are all different.
      if (reason.startsWith(ROW_NUMBER)) out.string(reason);
      else out.known(reason);
    }
  }

  private writeProofs(proofs: PlainFreed['facts']['proofs']): void {
    const { out, pieces } = this.writer;
    for (let i = 0; i < proofs.length; i++) {
      const proof = proofs[i]!;
      out.raw(i === 0 ? pieces.proofs : pieces.comma);
      out.raw(pieces.proofOf(proof.file));
      this.writer.place(proof);
      out.raw(pieces.methodOf(proof.method));
    }
    out.raw(pieces.rest);
  }

  *shared(
    rows: PlainRows,
    leaves: Uint32Array,
    reactedTo: Float64Array
  ): Generator<SharedStep, void> {
    const helpers = leaves.length > 2 * STRETCH ? this.begin(rows, reactedTo) : [];
    if (helpers.length === 0) return yield { type: 'own', leaves };
    const part = (at: number): Uint32Array => leaves.subarray(at * STRETCH, (at + 1) * STRETCH);
    const doers = helpers.map((helper) => {
      let told = 0;
      return (at: number): Promise<LinesFound> => {
        const contexts = this.contextsFrom(rows, told);
        told += contexts.length;
        return helper.write({ leaves: part(at).slice(), contexts });
      };
    });
    const work = new Stretches(Math.ceil(leaves.length / STRETCH), doers, WINDOW);
    for (const step of work.inOrder()) {
      if (step.type === 'wait') yield step;
      else if (step.type === 'own') yield { type: 'own', leaves: part(step.at) };
      else yield* this.adopt(rows, step.value);
    }
  }

  private begin(rows: PlainRows, reactedTo: Float64Array): LineHelper[] {
    if (!this.crew) return [];
    const { facts, asked } = this.assembly;
    const { id: store, source } = facts;
    const freed = this.folder.columns;
    const { frame } = this;
    return this.crew({ frame, store, source, rows: packPlain(rows), freed, reactedTo, asked });
  }

  /** Contexts of live rows that were learned after the first `told`. */
  private contextsFrom(rows: PlainRows, told: number): PackedContext[] {
    const { list } = this.learnedOf(rows);
    return list.slice(told).map(({ index, hash, key, freed, shared }) => {
      // Those of freed rows keep their place, but say nothing.
      const says = !freed && shared !== null;
      return { index, hash, key, told: says ? shared.told : null };
    });
  }

  /** Takes over what another thread wrote, and gives what it left. */
  private *adopt(rows: PlainRows, { json, left, ...written }: LinesFound): Generator<SharedStep> {
    const { list } = this.learnedOf(rows);
    this.assembly.countLive(rows.name, written, (context) => list[context]!.shared!.threadId);
    this.written += written.rowids.length;
    let from = 0;
    for (const { page, start, at } of left) {
      this.piece(json.subarray(from, at));
      from = at;
      yield { type: 'left', page, start };
    }
    this.piece(json.subarray(from));
  }

  private piece(json: Uint8Array): void {
    if (json.length < SMALL) return this.writer.out.raw(json);
    this.endChunk();
    this.push(json);
  }

  private learnedOf(rows: PlainRows): Learned {
    let learned = this.learned.get(rows);
    if (!learned) this.learned.set(rows, (learned = { contexts: new Contexts(), list: [] }));
    return learned;
  }

  /** What is known of rows like this one; null where it is not known yet, or such rows are no ordinary messages. */
  private meaning(
    rows: PlainRows,
    cursor: RecordCursor,
    freed: boolean,
    { file, offset }: { file: string; offset: number }
  ): Shared | null {
    const learned = this.learnedOf(rows);
    const known = learned.contexts.find(rows, cursor, freed);
    if (known) return known.shared;
    if (this.count < MOST_CONTEXTS) {
      const hash = contextHash(rows, cursor);
      this.waiting = { learned, hash, key: contextKey(rows, cursor), freed, file, offset };
    }
    return null;
  }

  /** Learns from a message that was made in full, where its row was asked for just before. */
  learn(message: FoldedMessage, record: Message): void {
    const { waiting } = this;
    const [proof] = message.proofs;
    if (!waiting || proof?.path !== waiting.file || proof.offset !== waiting.offset) return;
    this.waiting = null;
    this.count++;
    const { learned, hash, key, freed } = waiting;
    const isOrdinary = message.state === (freed ? 'recovered' : 'live') && saysNoMore(record);
    const shared = isOrdinary
      ? { thread: message.thread, threadId: record.thread, told: toldBy(record, freed) }
      : null;
    const context = { index: learned.list.length, hash, key, freed, shared };
    learned.contexts.add(hash, context);
    learned.list.push(context);
  }
}

function saysNoMore({ subject, attachments, replyTo, reactions, location }: Message): boolean {
  return (
    subject === null &&
    replyTo === null &&
    location === null &&
    attachments.length === 0 &&
    reactions.length === 0
  );
}

/** What follows the id of a record; of a live one, whose id ends in its number, with the closing quote. */
function toldBy({ thread, sender, direction }: Message, freed: boolean): Uint8Array {
  const quote = freed ? '' : '"';
  return utf8(
    `${quote},"thread":${JSON.stringify(thread)},"sender":${JSON.stringify(sender)},"direction":"${direction}","sentAt":`
  );
}
