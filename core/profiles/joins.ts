import { NumberIndex, roomFor, type PackedIndex } from '../host';

/** Pairs of numbers in a form that can be handed to another thread. */
export interface PackedPairs {
  keys: PackedIndex;
  values: Float64Array;
}

/** Numbers by numbers; NaN stands for a value that is none. */
export class NumberPairs {
  private readonly keys: NumberIndex;

  constructor(readonly packed: PackedPairs) {
    this.keys = new NumberIndex(packed.keys);
  }

  static of(keys: Float64Array, values: Float64Array): NumberPairs {
    return new NumberPairs({ keys: new NumberIndex(keys, roomFor).pack(), values });
  }

  /** The value of a key; undefined where there is none, NaN where there are several. */
  only(key: number): number | undefined {
    const at = this.keys.find(key);
    if (at < 0) return undefined;
    return this.keys.find(key, at) >= 0 ? NaN : this.packed.values[at]!;
  }
}

/** A table that links messages by their row numbers to something else: live rows and freed ones. */
export interface PlainJoin {
  live: NumberPairs;
  freed: NumberPairs;
}

export interface PackedJoin {
  live: PackedPairs;
  freed: PackedPairs;
}

export function packJoin({ live, freed }: PlainJoin): PackedJoin {
  return { live: live.packed, freed: freed.packed };
}

export function unpackJoin({ live, freed }: PackedJoin): PlainJoin {
  return { live: new NumberPairs(live), freed: new NumberPairs(freed) };
}

/**
 * What a message is linked to; NaN where that has to be looked up. A live
 * message follows live links alone, a deleted one those that were deleted with
 * it, where there are any: its number may have been given again.
 */
export function joinedValue({ live, freed }: PlainJoin, rowid: number, isFreed: boolean): number {
  if (Number.isNaN(rowid)) return NaN;
  const own = isFreed ? freed.only(rowid) : undefined;
  return own ?? live.only(rowid) ?? NaN;
}
