import { hashText, NumberIndex } from '../host';
import type { SqlValue } from '../sqlite';

/** Where a column holds a value, by numbers that equal values share. */
export class ColumnIndex {
  private readonly places: NumberIndex;

  constructor(readonly keys: Float64Array) {
    this.places = new NumberIndex(keys);
  }

  /** Whether the column may hold the value; false is certain. */
  has(value: SqlValue): boolean {
    const key = keyNumber(value);
    return !Number.isNaN(key) && this.places.find(key) >= 0;
  }

  find(value: SqlValue): number[] {
    const key = keyNumber(value);
    return Number.isNaN(key) ? [] : [...this.places.all(key)];
  }
}

/** Values compare as text, so that numbers kept in text columns join. */
export function keyOf(value: SqlValue): string {
  return value instanceof Uint8Array ? `x${value.join(',')}` : String(value);
}

/** A number that equal values share: their own, or below zero a hash; NaN for nothing. */
export function keyNumber(value: SqlValue): number {
  if (value === null) return NaN;
  if (typeof value === 'number') return value === 0 ? 0 : value;
  const text = keyOf(value);
  const number = Number(text);
  return String(number) === text && text !== 'NaN' ? number : -1 - hashText(text);
}
