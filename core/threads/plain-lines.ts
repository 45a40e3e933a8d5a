import { JsonBytes, utf8, type JsonFrame, type Message } from '../records';
import {
  isPlainText,
  plainTime,
  plainUnique,
  ROW_NUMBER,
  type PlainFreed,
  type PlainPlace,
  type PlainRows,
  type PlainSink,
  type RecordCursor,
  type StoreThread
} from '../stores';
import type { Assembly } from './assembly';
import type { FoldedMessage, StreamFolder } from './fold';
import { MessagePieces } from './message-pieces';

/** What rows with the same values in their telling columns share. */
interface Context {
  /** The values, as they are stored. */
  key: Uint8Array;
  freed: boolean;
  /** Null where such rows cannot be written as they are. */
  shared: Shared | null;
}

interface Shared {
  thread: StoreThread;
  threadId: string;
  /** Conversation, writer and direction as they stand in each record. */
  told: Uint8Array;
}

/** A row whose context has to be learned from the message that is made of it. */
interface Waiting extends Omit<Context, 'shared'> {
  contexts: Map<number, Context[]>;
  hash: number;
  file: string;
  offset: number;
}

/** Contexts past which columns tell rows apart instead of conversations. */
const MOST_CONTEXTS = 20_000;
/** Bytes after which what was written should leave. */
const FULL = 1 << 20;

/**
 * Writes ordinary messages of a large store as JSON straight from the bytes
 * of their rows. What a row means beside its text and times is learned from
 * the first message of its kind that was made in full, so that both ways
 * tell the same; whatever is out of the ordinary is left to that way.
 */
export class PlainLines implements PlainSink {
  private readonly out = new JsonBytes();
  private readonly values = new JsonBytes();
  private readonly pieces: MessagePieces;
  private readonly contexts = new Map<PlainRows, Map<number, Context[]>>();
  private count = 0;
  private waiting: Waiting | null = null;
  private written = 0;

  constructor(
    frame: JsonFrame,
    private readonly assembly: Assembly,
    private readonly folder: StreamFolder
  ) {
    const { id, source } = assembly.facts;
    this.pieces = new MessagePieces(frame, id, source);
  }

  get isFull(): boolean {
    return this.out.length >= FULL;
  }

  /** What was written since the last call. */
  take(): { json: Uint8Array | null; written: number } {
    const { written } = this;
    this.written = 0;
    return { json: written === 0 ? null : this.out.take(), written };
  }

  live(rows: PlainRows, cursor: RecordCursor, place: PlainPlace): boolean {
    const { rowid } = place;
    const sentAt = this.moment(rows, cursor, rowid);
    if (sentAt === undefined) return false;
    if (this.folder.concerns(sentAt, rowid, plainUnique(rows, cursor))) return false;
    const shared = this.shared(rows, cursor, false, place);
    if (!shared) return false;
    const { out } = this;
    const before = out.length;
    const { quote } = this.pieces;
    const pieces = this.pieces.live(rows.table.schema.name, place.file);
    out.raw(pieces.begin);
    out.integer(rowid);
    out.raw(quote);
    out.raw(shared.told);
    if (!this.writeValues(out, rows, cursor, sentAt)) {
      out.length = before;
      return false;
    }
    out.raw(pieces.state);
    out.integer(rowid);
    out.raw(pieces.proof);
    this.writePlace(place);
    out.raw(pieces.end);
    this.counted(rows, rowid, sentAt, shared, null);
    return true;
  }

  freed(rows: PlainRows, cursor: RecordCursor, { facts, judge }: PlainFreed): boolean {
    const { rowid, proofs } = facts;
    if (typeof rowid === 'bigint') return false;
    const sentAt = this.moment(rows, cursor, rowid);
    if (sentAt === undefined) return false;
    const shared = this.shared(rows, cursor, true, proofs[0]!);
    this.values.length = 0;
    if (!shared || !this.writeValues(this.values, rows, cursor, sentAt)) return false;
    const judgement = judge(shared.thread, sentAt);
    const id = this.assembly.freshId(judgement.key);
    const { out, pieces } = this;
    out.raw(pieces.open);
    out.string(id);
    out.raw(shared.told);
    out.raw(this.values.view());
    out.raw(pieces.recovered);
    out.integer(judgement.certainty);
    this.writeReasons(judgement.reasons);
    this.writeProofs(proofs);
    this.counted(rows, rowid, sentAt, shared, id);
    return true;
  }

  /** When it was sent; undefined where the row has to be read as a message. */
  private moment(
    rows: PlainRows,
    cursor: RecordCursor,
    rowid: number | null
  ): number | null | undefined {
    this.waiting = null;
    const unique = plainUnique(rows, cursor);
    if (Number.isNaN(unique) || !isPlainText(cursor, rows.body)) return undefined;
    if (this.assembly.answersAny && this.isAsked(rows, cursor, rowid)) return undefined;
    return plainTime(rows.sentAt, cursor, rows);
  }

  private isAsked(rows: PlainRows, cursor: RecordCursor, rowid: number | null): boolean {
    const { unique, encoding } = rows;
    if (rowid !== null && this.assembly.isAsked(rowid)) return true;
    return unique >= 0 && this.assembly.isAsked(String(cursor.value(unique, encoding)));
  }

  private writeValues(
    out: JsonBytes,
    rows: PlainRows,
    cursor: RecordCursor,
    sentAt: number | null
  ): boolean {
    const { pieces } = this;
    out.time(sentAt);
    out.raw(pieces.deliveredAt);
    out.time(plainTime(rows.deliveredAt, cursor, rows));
    out.raw(pieces.readAt);
    out.time(plainTime(rows.readAt, cursor, rows));
    out.raw(pieces.body);
    const { starts, bytes } = cursor;
    return out.text(bytes, starts[rows.body]!, starts[rows.body + 1]!, rows.encoding);
  }

  private writePlace({ page, offset, length }: Omit<PlainPlace, 'rowid' | 'file'>): void {
    const { out, pieces } = this;
    out.integer(page);
    out.raw(pieces.offset);
    out.integer(offset);
    out.raw(pieces.length);
    out.integer(length);
  }

  private writeReasons(reasons: readonly string[]): void {
    const { out, pieces } = this;
    reasons.forEach((reason, i) => {
      out.raw(i === 0 ? pieces.reasons : pieces.comma);
      // Those with a number are all different.
      if (reason.startsWith(ROW_NUMBER)) out.string(reason);
      else out.known(reason);
    });
  }

  private writeProofs(proofs: PlainFreed['facts']['proofs']): void {
    const { out, pieces } = this;
    proofs.forEach((proof, i) => {
      out.raw(i === 0 ? pieces.proofs : pieces.comma);
      out.raw(pieces.proofOf(proof.file));
      this.writePlace(proof);
      out.raw(pieces.methodOf(proof.method));
    });
    out.raw(pieces.rest);
  }

  private counted(
    rows: PlainRows,
    rowid: number | null,
    sentAt: number | null,
    { threadId: thread }: Shared,
    id: string | null
  ): void {
    const table = rows.table.schema.name;
    const state = id === null ? 'live' : 'recovered';
    this.assembly.count({ table, rowid, sentAt, thread, id, state });
    this.written++;
  }

  /** What is known of rows like this one; null where it is not known yet, or such rows are no ordinary messages. */
  private shared(
    rows: PlainRows,
    cursor: RecordCursor,
    freed: boolean,
    { file, offset }: { file: string; offset: number }
  ): Shared | null {
    const hash = hashOf(rows, cursor);
    let contexts = this.contexts.get(rows);
    if (!contexts) this.contexts.set(rows, (contexts = new Map()));
    for (const context of contexts.get(hash) ?? NONE)
      if (context.freed === freed && hasKey(context.key, rows, cursor)) return context.shared;
    if (this.count < MOST_CONTEXTS)
      this.waiting = { contexts, hash, key: keyOf(rows, cursor), freed, file, offset };
    return null;
  }

  /** Learns from a message that was made in full, where its row was asked for just before. */
  learn(message: FoldedMessage, record: Message): void {
    const { waiting } = this;
    const [proof] = message.proofs;
    if (!waiting || proof?.path !== waiting.file || proof.offset !== waiting.offset) return;
    this.waiting = null;
    this.count++;
    const { contexts, hash, key, freed } = waiting;
    const isOrdinary = message.state === (freed ? 'recovered' : 'live') && saysNoMore(record);
    const shared = isOrdinary
      ? { thread: message.thread, threadId: record.thread, told: toldBy(record) }
      : null;
    contexts.set(hash, [...(contexts.get(hash) ?? []), { key, freed, shared }]);
  }
}

const NONE: readonly Context[] = [];

function saysNoMore({ subject, attachments, replyTo, reactions, location }: Message): boolean {
  return (
    subject === null &&
    replyTo === null &&
    location === null &&
    attachments.length === 0 &&
    reactions.length === 0
  );
}

function toldBy({ thread, sender, direction }: Message): Uint8Array {
  return utf8(
    `,"thread":${JSON.stringify(thread)},"sender":${JSON.stringify(sender)},"direction":"${direction}","sentAt":`
  );
}

/** Serial types and bytes of the columns that tell a row's context, one behind the other. */
function keyOf({ context }: PlainRows, { types, starts, bytes }: RecordCursor): Uint8Array {
  const parts = context.map((at) => {
    const value = bytes.subarray(starts[at], starts[at + 1]);
    const type = types[at]!;
    return [type & 0xff, (type >> 8) & 0xff, (type >> 16) & 0xff, ...value];
  });
  return Uint8Array.from(parts.flat());
}

function hashOf({ context }: PlainRows, { types, starts, bytes }: RecordCursor): number {
  let hash = 0;
  for (const at of context) {
    hash = Math.imul(hash ^ types[at]!, 0x01000193);
    for (let i = starts[at]!; i < starts[at + 1]!; i++)
      hash = Math.imul(hash ^ bytes[i]!, 0x01000193);
  }
  return hash;
}

function hasKey(
  key: Uint8Array,
  { context }: PlainRows,
  { types, starts, bytes }: RecordCursor
): boolean {
  let pos = 0;
  for (const at of context) {
    const type = types[at]!;
    if (key[pos] !== (type & 0xff)) return false;
    if (key[pos + 1] !== ((type >> 8) & 0xff) || key[pos + 2] !== ((type >> 16) & 0xff))
      return false;
    pos += 3;
    for (let i = starts[at]!; i < starts[at + 1]!; i++) if (key[pos++] !== bytes[i]) return false;
  }
  return pos === key.length;
}
