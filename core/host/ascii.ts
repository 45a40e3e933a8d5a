import { memoryOf } from './views';

const BLANK = 0x20202020;
const HIGH = 0x80808080;
const ONES = 0x01010101;
const DELETES = 0x7f7f7f7f;

/**
 * Whether text is ASCII without controls: four bytes at a time, each test
 * setting the highest bit of a byte that fails it. Bodies are most of what a
 * store holds, and byte by byte this takes several times as long.
 */
export function isPrintable(bytes: Uint8Array, from: number, to: number): boolean {
  const { view, base } = memoryOf(bytes);
  let failed = 0;
  let at = from;
  for (; at + 4 <= to; at += 4) {
    const word = view.getUint32(base + at, true);
    failed |= word | (word - BLANK) | ((word ^ DELETES) - ONES);
  }
  for (; at < to; at++) {
    const byte = bytes[at]!;
    if (byte < 0x20 || byte > 0x7e) return false;
  }
  return (failed & HIGH) === 0;
}
