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
  thread: StoreThread;
  threadId: string;
  /** What follows the id in each record: conversation, writer and direction. */
  told: Uint8Array;
}

/** A context as another thread needs it. */
export interface PackedContext {
  index: number;
  hash: number;
  key: Uint8Array;
  freed: boolean;
  /** Null where such rows cannot be written as they are. */
  told: Uint8Array | null;
  /** Whether its conversation has live lines; asked of freed rows only. */
  linked: boolean;
}

type Known = Pick<Context, 'key' | 'freed'>;

/** The contexts of one table's rows, found by the bytes of their telling values. */
export class Contexts<T extends Known = Context> {
  private readonly byHash = new Map<number, T[]>();

  add(hash: number, context: T): void {
    this.byHash.set(hash, [...(this.byHash.get(hash) ?? []), context]);
  }

  find(rows: PlainRows, cursor: RecordCursor, freed: boolean): T | undefined {
    const same = this.byHash.get(contextHash(rows, cursor));
    if (same === undefined) return undefined;
    for (const context of same)
      if (context.freed === freed && hasKey(context.key, rows, cursor)) return context;
    return undefined;
  }
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
