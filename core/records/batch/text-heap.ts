import { memoryOf, type TextEncoding } from '../../host';

const HIGH = 0x80808080;

/** Texts in UTF-8, one behind the other. */
export class TextHeap {
  private bytes = new Uint8Array(1 << 16);
  private memory = new DataView(this.bytes.buffer);
  length = 0;

  /** Adds stored text. False, with nothing added, when it is not well formed. */
  add(from: Uint8Array, start: number, end: number, encoding: TextEncoding): boolean {
    // A unit of UTF-16 takes three bytes at most; the copy below may go seven past the end.
    this.reserve((end - start) * 2 + 8);
    if (encoding === 'utf-8') return this.addUtf8(from, start, end);
    return this.addUtf16(from, start, end, encoding === 'utf-16be' ? 1 : 0);
  }

  /** Adds text that is known to be well formed. */
  addString(text: string): void {
    this.reserve(text.length * 3);
    this.length += encoder.encodeInto(text, this.bytes.subarray(this.length)).written;
  }

  /** Adds bytes that are known to be well formed. */
  addBytes(from: Uint8Array, start: number, end: number): void {
    this.reserve(end - start);
    if (end - start < SHORT) {
      const { bytes } = this;
      let at = this.length;
      for (let i = start; i < end; i++) bytes[at++] = from[i]!;
      this.length = at;
      return;
    }
    this.bytes.set(from.subarray(start, end), this.length);
    this.length += end - start;
  }

  view(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }

  private reserve(more: number): void {
    const needed = this.length + more;
    if (needed <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(needed, this.bytes.length * 2));
    larger.set(this.view());
    this.bytes = larger;
    this.memory = new DataView(larger.buffer);
  }

  private addUtf8(from: Uint8Array, start: number, end: number): boolean {
    if (!this.copiesAscii(from, start, end)) {
      if (!isWellFormed(from, start, end)) return false;
      this.bytes.set(from.subarray(start, end), this.length);
    }
    this.length += end - start;
    return true;
  }

  /** Copies text, eight bytes at a time, and tells whether all of it was ASCII. Bodies are most of what a store holds. */
  private copiesAscii(from: Uint8Array, start: number, end: number): boolean {
    const { memory } = this;
    const { view, base } = memoryOf(from);
    const last = base + end;
    let at = this.length;
    let seen = 0;
    let i = base + start;
    for (; i + 8 <= last; i += 8, at += 8) {
      const word = view.getInt32(i, true);
      const next = view.getInt32(i + 4, true);
      seen |= word | next;
      memory.setInt32(at, word, true);
      memory.setInt32(at + 4, next, true);
    }
    for (; i < last; i++, at++) {
      const byte = view.getUint8(i);
      seen |= byte;
      memory.setUint8(at, byte);
    }
    return (seen & HIGH) === 0;
  }

  private addUtf16(from: Uint8Array, start: number, end: number, big: 0 | 1): boolean {
    if ((end - start) % 2 !== 0) return false;
    const before = this.length;
    for (let i = start; i < end; i += 2) {
      const unit = (from[i + 1 - big]! << 8) | from[i + big]!;
      if (unit < 0xd800 || unit > 0xdfff) {
        this.character(unit);
        continue;
      }
      const next = i + 3 < end ? (from[i + 3 - big]! << 8) | from[i + 2 + big]! : 0;
      if (unit > 0xdbff || next < 0xdc00 || next > 0xdfff) {
        this.length = before;
        return false;
      }
      this.character(0x10000 + ((unit - 0xd800) << 10) + (next - 0xdc00));
      i += 2;
    }
    return true;
  }

  private character(code: number): void {
    const { bytes } = this;
    if (code < 0x80) {
      bytes[this.length++] = code;
      return;
    }
    if (code < 0x800) bytes[this.length++] = 0xc0 | (code >> 6);
    else {
      if (code < 0x10000) bytes[this.length++] = 0xe0 | (code >> 12);
      else {
        bytes[this.length++] = 0xf0 | (code >> 18);
        bytes[this.length++] = 0x80 | ((code >> 12) & 0x3f);
      }
      bytes[this.length++] = 0x80 | ((code >> 6) & 0x3f);
    }
    bytes[this.length++] = 0x80 | (code & 0x3f);
  }
}

/** Below this a loop is quicker than a call that copies. */
const SHORT = 48;
const encoder = new TextEncoder();

/** Whether bytes are well-formed UTF-8 (Unicode, table 3-7). */
function isWellFormed(from: Uint8Array, start: number, end: number): boolean {
  for (let i = start; i < end; i++) {
    if (from[i]! < 0x80) continue;
    const size = sequenceSize(from, i, end);
    if (size === 0) return false;
    i += size - 1;
  }
  return true;
}

/** Bytes of the well-formed sequence at `at`; 0 when there is none. */
function sequenceSize(b: Uint8Array, at: number, end: number): number {
  const lead = b[at]!;
  const size = lead < 0xc2 ? 0 : lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : lead < 0xf5 ? 4 : 0;
  if (size === 0 || at + size > end) return 0;
  const second = b[at + 1]!;
  const least = lead === 0xe0 ? 0xa0 : lead === 0xf0 ? 0x90 : 0x80;
  const most = lead === 0xed ? 0x9f : lead === 0xf4 ? 0x8f : 0xbf;
  if (second < least || second > most) return 0;
  for (let i = 2; i < size; i++) if ((b[at + i]! & 0xc0) !== 0x80) return 0;
  return size;
}
