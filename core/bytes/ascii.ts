let words = new Uint32Array(1 << 12);
let letters = new Uint8Array(words.buffer);
const BLANK = 0x20202020;
const HIGH = 0x80808080;
const ONES = 0x01010101;
const DELETES = 0x7f7f7f7f;

/** Copies a text to where it can be read in words of four bytes, the last one filled up with blanks; returns how many. */
function load(text: Uint8Array): number {
  if (text.length + 4 > letters.length) {
    words = new Uint32Array((text.length >> 2) * 2 + 2);
    letters = new Uint8Array(words.buffer);
  }
  letters.set(text);
  letters.fill(0x20, text.length, text.length + 3);
  return (text.length + 3) >> 2;
}

/**
 * Whether text is ASCII without controls: four bytes at a time, each test
 * setting the highest bit of a byte that fails it. Bodies are most of what a
 * store holds, and byte by byte this takes several times as long.
 */
export function isPrintable(text: Uint8Array): boolean {
  const count = load(text);
  let failed = 0;
  for (let i = 0; i < count; i++) {
    const word = words[i]!;
    failed |= word | (word - BLANK) | ((word ^ DELETES) - ONES);
  }
  return (failed & HIGH) === 0;
}
