import { isPrintable, type TextEncoding } from '../../host';
import { IMPOSSIBLE } from './evidence';

/** From here on the usual case is worth a look of its own. */
const LONG = 16;

/**
 * Judges stored text bytes without making a string: impossible when they are not
 * well formed, else bits of evidence (negative when control codes or a wrong
 * byte order show). `open` allows a character to be cut at the end.
 */
export function judgeText(
  bytes: Uint8Array,
  from: number,
  to: number,
  encoding: TextEncoding,
  open: boolean
): number {
  if (encoding === 'utf-8') return judgeUtf8(bytes, from, to, open);
  return judgeUtf16(bytes, from, to, encoding === 'utf-16le' ? 1 : 0, open);
}

function judgeUtf8(bytes: Uint8Array, from: number, to: number, open: boolean): number {
  if (to - from >= LONG && isPrintable(bytes, from, to)) return score(to - from, 0);
  let controls = 0;
  let at = from;
  while (at < to) {
    const byte = bytes[at]!;
    if (byte < 0x80) {
      if (isControl(byte)) controls++;
      at++;
      continue;
    }
    const more = byte >= 0xf0 ? 3 : byte >= 0xe0 ? 2 : 1;
    if (byte < 0xc2 || byte > 0xf4) return IMPOSSIBLE;
    if (at + more >= to) {
      if (!open && at + more > to - 1) return IMPOSSIBLE;
      if (open) return score(to - from, controls);
    }
    for (let i = 1; i <= more; i++) if ((bytes[at + i]! & 0xc0) !== 0x80) return IMPOSSIBLE;
    if (isOverlongOrSurrogate(byte, bytes[at + 1]!)) return IMPOSSIBLE;
    at += more + 1;
  }
  return score(to - from, controls);
}

function isOverlongOrSurrogate(first: number, second: number): boolean {
  if (first === 0xe0) return second < 0xa0;
  if (first === 0xed) return second > 0x9f;
  if (first === 0xf0) return second < 0x90;
  return first === 0xf4 && second > 0x8f;
}

function isControl(code: number): boolean {
  return code < 0x20 ? code !== 9 && code !== 10 && code !== 13 : code === 0x7f;
}

/** `high` is the offset of the high byte within a unit: 1 for little endian, 0 for big endian. */
function judgeUtf16(
  bytes: Uint8Array,
  from: number,
  to: number,
  high: 0 | 1,
  open: boolean
): number {
  if ((to - from) % 2 !== 0 && !open) return IMPOSSIBLE;
  let controls = 0;
  let swapped = 0;
  let units = 0;
  let pending = false;
  for (let at = from; at + 1 < to; at += 2) {
    const unit = (bytes[at + high]! << 8) | bytes[at + 1 - high]!;
    const low = unit >= 0xdc00 && unit <= 0xdfff;
    if (low !== pending) return IMPOSSIBLE;
    pending = unit >= 0xd800 && unit <= 0xdbff;
    if (unit < 0x80 && isControl(unit)) controls++;
    if ((unit & 0xff) === 0) swapped++;
    units++;
  }
  if (pending && !open) return IMPOSSIBLE;
  // Latin text read in the wrong byte order is all multiples of 256.
  if (units > 1 && swapped * 2 > units) controls += 4;
  return score((to - from) / 2, controls);
}

/** The same for plain ASCII of that length. */
export function judgePlain(length: number): number {
  return score(length, 0);
}

function score(length: number, controls: number): number {
  return Math.min(4, length / 8) - 6 * controls;
}
