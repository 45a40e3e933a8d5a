import type { BatchContext } from '../records';
import type { PlainRows, RecordCursor, StoreThread } from '../profiles';

/** What rows with the same values in their telling columns share. */
export interface Context {
  /** Its place among all contexts of the table, in the order in which they were learned. */
  index: number;
  hash: number;
  /** The values, as they are stored. */
  key: Uint8Array;
  freed: boolean;
  /** Null where such rows cannot be written as they are. */
  shared: Shared | null;
}

export interface Shared {
  /** That of its context. */
  index: number;
  thread: StoreThread;
  /** Conversation, writer and direction of each record. */
  context: BatchContext;
}

/** A context as another thread needs it. */
export interface PackedContext {
  index: number;
  hash: number;
  key: Uint8Array;
  freed: boolean;
  /** Null where such rows cannot be written as they are. */
  context: BatchContext | null;
  /** Whether its conversation has live lines; asked of freed rows only. */
  linked: boolean;
}

/** What a context is found by. */
type Known = Pick<Context, 'hash' | 'key' | 'freed'>;

/** What tells freed rows from live ones whose values are the same. */
const FREED = 0x5bd1e995;

/**
 * The contexts of one table's rows by the bytes of their telling values. Each
 * row asks for one, in no order: keys and hashes lie close together so that
 * they stay at hand.
 */
export class Contexts {
  private count = 0;
  /** By hash and open addressing: a hash, and a place plus one; 0 for none. */
  private slots = new Int32Array(128);
  /** All keys, one behind the other, and where each ends. */
  private keys = new Uint8Array(1024);
  private ends = new Int32Array(64);

  /** Gives a context the next place. */
  add({ hash, key, freed }: Known): void {
    const place = this.count++;
    this.addKey(place, key);
    if (this.count * 4 > this.slots.length) this.widen();
    this.fill(freed ? hash ^ FREED : hash, place + 1);
  }

  private addKey(place: number, key: Uint8Array): void {
    const start = place === 0 ? 0 : this.ends[place - 1]!;
    const end = start + key.length;
    if (end > this.keys.length) this.keys = grown(this.keys, new Uint8Array(end * 2));
    if (place === this.ends.length) this.ends = grown(this.ends, new Int32Array(place * 2));
    this.keys.set(key, start);
    this.ends[place] = end;
  }

  private widen(): void {
    const { slots } = this;
    this.slots = new Int32Array(slots.length * 2);
    for (let at = 0; at < slots.length; at += 2)
      if (slots[at + 1]! > 0) this.fill(slots[at]!, slots[at + 1]!);
  }

  private fill(hash: number, value: number): void {
    const { slots } = this;
    let at = slotOf(hash, slots);
    while (slots[at + 1] !== 0) at = (at + 2) & (slots.length - 1);
    slots[at] = hash;
    slots[at + 1] = value;
  }

  /** The place of the context of a row; -1 when there is none yet. */
  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): number {
    const { slots, ends } = this;
    const hash = contextHash(rows, cursor);
    const full = freed ? hash ^ FREED : hash;
    const mask = slots.length - 1;
    for (let at = slotOf(full, slots); slots[at + 1] !== 0; at = (at + 2) & mask) {
      if (slots[at] !== full) continue;
      const place = slots[at + 1]! - 1;
      const start = place === 0 ? 0 : ends[place - 1]!;
      if (this.hasKey(start, ends[place]!, rows, cursor)) return place;
    }
    return -1;
  }

  private hasKey(
    start: number,
    keyEnd: number,
    { context, joined }: PlainRows,
    { types, starts, bytes }: RecordCursor
  ): boolean {
    const { keys } = this;
    let pos = start;
    for (const at of context) {
      const type = types[at]!;
      if (keys[pos] !== (type & 0xff)) return false;
      if (keys[pos + 1] !== ((type >> 8) & 0xff) || keys[pos + 2] !== ((type >> 16) & 0xff))
        return false;
      pos += 3;
      const end = starts[at + 1]!;
      for (let i = starts[at]!; i < end; i++) if (keys[pos++] !== bytes[i]) return false;
    }
    for (let i = 0; i < joined.length; i++) {
      scratch[0] = joined[i]!;
      for (let at = 0; at < 8; at++) if (keys[pos++] !== scratchBytes[at]) return false;
    }
    return pos === keyEnd;
  }
}

/** A longer array that begins with what the other holds. */
function grown<A extends Uint8Array | Int32Array | Float64Array>(old: A, into: A): A {
  into.set(old);
  return into;
}

function slotOf(hash: number, slots: Int32Array): number {
  return ((hash ^ (hash >>> 15)) << 1) & (slots.length - 1);
}

const scratch = new Float64Array(1);
const scratchBytes = new Uint8Array(scratch.buffer);

/** Serial types and bytes of the columns that tell a row's context, one behind the other, and what it is joined with. */
export function contextKey(
  { context, joined }: PlainRows,
  { types, starts, bytes }: RecordCursor
): Uint8Array {
  const parts = context.map((at) => {
    const value = bytes.subarray(starts[at], starts[at + 1]);
    const type = types[at]!;
    return [type & 0xff, (type >> 8) & 0xff, (type >> 16) & 0xff, ...value];
  });
  return Uint8Array.from([...parts.flat(), ...new Uint8Array(joined.slice().buffer)]);
}

export function contextHash(
  { context, joined }: PlainRows,
  { types, starts, bytes }: RecordCursor
): number {
  let hash = 0;
  for (const at of context) {
    hash = Math.imul(hash ^ types[at]!, 0x01000193);
    const end = starts[at + 1]!;
    for (let i = starts[at]!; i < end; i++) hash = Math.imul(hash ^ bytes[i]!, 0x01000193);
  }
  for (let i = 0; i < joined.length; i++) hash = Math.imul(hash ^ (joined[i]! | 0), 0x01000193);
  return hash;
}
