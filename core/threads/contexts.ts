import type { Piece } from '../records';
import type { PlainRows, RecordCursor, StoreThread } from '../stores';

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
  threadId: string;
  /** What follows the id in each record: conversation, writer and direction. */
  told: Piece;
}

/** A context as another thread needs it. */
export interface PackedContext {
  index: number;
  hash: number;
  key: Uint8Array;
  freed: boolean;
  /** Null where such rows cannot be written as they are. */
  told: Piece | null;
  /** Whether its conversation has live lines; asked of freed rows only. */
  linked: boolean;
}

type Known = Pick<Context, 'hash' | 'key' | 'freed'>;

/** The contexts of one table's rows, found by the bytes of their telling values. */
export class Contexts<T extends Known = Context> {
  private readonly list: T[] = [];
  /** Places in the list, by hash and open addressing; -1 for none. */
  private slots = new Int32Array(64).fill(-1);

  add(context: T): void {
    const place = this.list.push(context) - 1;
    if (this.list.length * 2 > this.slots.length) this.rehash();
    else this.slots[this.freeSlot(context.hash)] = place;
  }

  private rehash(): void {
    this.slots = new Int32Array(this.slots.length * 2).fill(-1);
    for (const [place, { hash }] of this.list.entries()) this.slots[this.freeSlot(hash)] = place;
  }

  private freeSlot(hash: number): number {
    let at = spread(hash) & (this.slots.length - 1);
    while (this.slots[at]! >= 0) at = (at + 1) & (this.slots.length - 1);
    return at;
  }

  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): T | undefined {
    const { list, slots } = this;
    const hash = contextHash(rows, cursor);
    const mask = slots.length - 1;
    for (let at = spread(hash) & mask; slots[at]! >= 0; at = (at + 1) & mask) {
      const context = list[slots[at]!]!;
      if (context.hash !== hash || context.freed !== freed) continue;
      if (hasKey(context.key, rows, cursor)) return context;
    }
    return undefined;
  }
}

function spread(hash: number): number {
  return hash ^ (hash >>> 15);
}

/** Serial types and bytes of the columns that tell a row's context, one behind the other. */
export function contextKey(
  { context }: PlainRows,
  { types, starts, bytes }: RecordCursor
): Uint8Array {
  const parts = context.map((at) => {
    const value = bytes.subarray(starts[at], starts[at + 1]);
    const type = types[at]!;
    return [type & 0xff, (type >> 8) & 0xff, (type >> 16) & 0xff, ...value];
  });
  return Uint8Array.from(parts.flat());
}

export function contextHash(
  { context }: PlainRows,
  { types, starts, bytes }: RecordCursor
): number {
  let hash = 0;
  for (const at of context) {
    hash = Math.imul(hash ^ types[at]!, 0x01000193);
    const end = starts[at + 1]!;
    for (let i = starts[at]!; i < end; i++) hash = Math.imul(hash ^ bytes[i]!, 0x01000193);
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
    const end = starts[at + 1]!;
    for (let i = starts[at]!; i < end; i++) if (key[pos++] !== bytes[i]) return false;
  }
  return pos === key.length;
}
