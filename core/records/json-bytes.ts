import { memoryOf } from '../host';
import { isoTime } from './convert';

const FIRST_ROOM = 1 << 20;
const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const COLON = 0x3a;
const HIGH = 0x80808080;
/** A byte of a word that is a control code or a quote, and no other, is less than BELOW once its second bit is turned. */
const TURNED = 0x02020202;
const BELOW = 0x21212121;
const BACKSLASHES = 0x5c5c5c5c;
const ONES = 0x01010101;
/** Bytes that a number or a time takes at most. */
const LONGEST = 32;
const DAY = 86_400_000;
/** The last moment of the year 9999, up to which dates have one form. */
const LAST_PLAIN = 253_402_300_799_999;
/** Control codes with a short escape, by their letter; others are written as \u00xx (RFC 8259, section 7). */
const SHORT_ESCAPES: Record<number, string> = { 8: 'b', 9: 't', 10: 'n', 12: 'f', 13: 'r' };

const encoder = new TextEncoder();

export function utf8(text: string): Uint8Array {
  return encoder.encode(text);
}

/** What stands around each record of a list: `before` up to its first field, the opening brace included. */
export interface JsonFrame {
  before: string;
  after: string;
}

/** JSON that leaves; its memory may be used again once `stored` was called. */
export interface JsonChunk {
  bytes: Uint8Array;
  stored(): void;
}

/**
 * Text that is written again and again, in words of eight bytes so that it is
 * copied quickly. That they are floating-point numbers does no harm: only NaN
 * may change on the way, whose bytes are not well-formed UTF-8.
 */
export interface Piece {
  /** Little-endian, the last one filled up with zeros. */
  words: Float64Array;
  /** The first of its words. */
  from: number;
  /** In bytes. */
  length: number;
}

export function pieceOf(text: string): Piece {
  const bytes = utf8(text);
  const { length } = bytes;
  const padded = new Uint8Array(Math.ceil(length / 8) * 8);
  padded.set(bytes);
  const view = new DataView(padded.buffer);
  const words = new Float64Array(padded.length / 8);
  for (let i = 0; i < words.length; i++) words[i] = view.getFloat64(8 * i, true);
  return { words, from: 0, length };
}

const NOTHING = pieceOf('');

/** The digits of numbers below a hundred, the tens in the lower byte. */
const PAIRS = Uint16Array.from(
  { length: 100 },
  (_, n) => 0x3030 + ((n / 10) | 0) + ((n % 10) << 8)
);

/** Decimal digits of a whole number that is not negative. */
function sizeOf(value: number): number {
  if (value < 1e4) return value < 100 ? (value < 10 ? 1 : 2) : value < 1000 ? 3 : 4;
  let size = 5;
  for (let limit = 1e5; size < 16 && value >= limit; limit *= 10) size++;
  return size;
}

/** Writes JSON in UTF-8 piece by piece, without making strings of what lies there as bytes. */
export class JsonBytes {
  private bytes: Uint8Array;
  private view: DataView;
  length = 0;
  private readonly dates = new Map<number, Piece>();
  private lastDay = NaN;
  private lastDate: Piece = NOTHING;

  /** @param room memory to begin with. */
  constructor(room: ArrayBufferLike = new ArrayBuffer(FIRST_ROOM)) {
    this.bytes = new Uint8Array(room);
    this.view = new DataView(room);
  }

  /** What was written since the last call; goes on in other memory. */
  take(room: ArrayBufferLike = new ArrayBuffer(FIRST_ROOM)): Uint8Array {
    const taken = this.written();
    this.begin(room);
    return taken;
  }

  /** What was written, until more is written. */
  written(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }

  /** Begins anew in that memory. */
  begin(room: ArrayBufferLike): void {
    this.bytes = new Uint8Array(room);
    this.view = new DataView(room);
    this.length = 0;
  }

  private reserve(more: number): void {
    if (this.length + more <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(this.bytes.length * 2, this.length + more));
    larger.set(this.written());
    this.bytes = larger;
    this.view = new DataView(larger.buffer);
  }

  raw(bytes: Uint8Array): void {
    this.reserve(bytes.length);
    this.bytes.set(bytes, this.length);
    this.length += bytes.length;
  }

  piece({ words, from, length }: Piece): void {
    this.reserve(length + LONGEST);
    const { view } = this;
    const end = from + ((length + 7) >> 3);
    let at = this.length;
    let i = from;
    for (; i + 2 <= end; i += 2, at += 16) {
      view.setFloat64(at, words[i]!, true);
      view.setFloat64(at + 8, words[i + 1]!, true);
    }
    if (i < end) view.setFloat64(at, words[i]!, true);
    this.length += length;
  }

  /** A whole number of up to 2^53. */
  integer(value: number): void {
    this.reserve(LONGEST);
    if (value < 0) {
      this.bytes[this.length++] = 0x2d;
      value = -value;
    }
    this.digits(value, sizeOf(value));
  }

  /** A whole number in base 16, as `toString(16)` gives it. */
  hex(value: number): void {
    if (value > 0x7fff_ffff || value < 0) return this.ascii(value.toString(16));
    this.reserve(LONGEST);
    let size = 1;
    while (size < 8 && value >>> (4 * size) > 0) size++;
    for (let i = size - 1; i >= 0; i--) {
      const digit = (value >>> (4 * i)) & 15;
      this.bytes[this.length++] = digit < 10 ? 0x30 + digit : 0x57 + digit;
    }
  }

  private digits(value: number, size: number): void {
    const { bytes, view } = this;
    let at = this.length + size;
    this.length = at;
    while (value > 0x7fff_ffff) {
      const rest = Math.floor(value / 10);
      bytes[--at] = 0x30 + (value - rest * 10);
      value = rest;
      size--;
    }
    let small = value | 0;
    for (; size > 1; size -= 2) {
      const rest = (small / 100) | 0;
      view.setUint16((at -= 2), PAIRS[small - rest * 100]!, true);
      small = rest;
    }
    if (size === 1) bytes[at - 1] = 0x30 + small;
  }

  /** A moment in milliseconds as ISO 8601 in UTC; null where it is unknown (NaN) or no calendar holds it. */
  time(at: number): void {
    if (!Number.isInteger(at) || at < 0 || at > LAST_PLAIN)
      return this.ascii(JSON.stringify(isoTime(at)));
    this.reserve(LONGEST);
    const day = Math.floor(at / DAY);
    this.piece(this.date(day));
    this.reserve(LONGEST);
    this.clock((at - day * DAY) | 0);
  }

  /** The rest of a moment behind the T, of so many milliseconds of its day. */
  private clock(ms: number): void {
    const { bytes, view, length: at } = this;
    const seconds = (ms / 1000) | 0;
    const minutes = (seconds / 60) | 0;
    const hours = (minutes / 60) | 0;
    view.setUint16(at, PAIRS[hours]!, true);
    bytes[at + 2] = COLON;
    view.setUint16(at + 3, PAIRS[minutes - hours * 60]!, true);
    bytes[at + 5] = COLON;
    view.setUint16(at + 6, PAIRS[seconds - minutes * 60]!, true);
    bytes[at + 8] = 0x2e;
    this.length = at + 9;
    this.digits(ms - seconds * 1000, 3);
    bytes[at + 12] = 0x5a;
    bytes[at + 13] = QUOTE;
    this.length = at + 14;
  }

  /** The opening quote and the date up to the T. */
  private date(day: number): Piece {
    // Rows that follow each other are mostly of one day.
    if (day === this.lastDay) return this.lastDate;
    this.lastDay = day;
    return (this.lastDate = this.dateOf(day));
  }

  private dateOf(day: number): Piece {
    let known = this.dates.get(day);
    if (!known) {
      known = pieceOf(`"${isoTime(day * DAY)!.slice(0, 11)}`);
      this.dates.set(day, known);
    }
    return known;
  }

  private ascii(text: string): void {
    this.reserve(text.length);
    for (let i = 0; i < text.length; i++) this.bytes[this.length++] = text.charCodeAt(i);
  }

  /** Well-formed UTF-8 as a JSON string. */
  text(from: Uint8Array, start: number, end: number): void {
    this.reserve((end - start) * 6 + 2);
    this.bytes[this.length++] = QUOTE;
    if (!this.bareText(from, start, end)) this.escapedText(from, start, end);
    this.bytes[this.length++] = QUOTE;
  }

  /**
   * Copies ASCII that stands in a JSON string as it is (RFC 8259, section 7),
   * eight bytes at a time, each test setting the highest bit of a byte that
   * fails it. False, with nothing written, for other text. Bodies are most of
   * what a store holds, and byte by byte this takes several times as long.
   */
  private bareText(text: Uint8Array, start: number, end: number): boolean {
    const { view } = this;
    const { view: from, base } = memoryOf(text);
    const last = base + end;
    let at = this.length;
    let failed = 0;
    let i = base + start;
    for (; i + 8 <= last; i += 8, at += 8) {
      const word = from.getInt32(i, true);
      const next = from.getInt32(i + 4, true);
      failed |= word | ((word ^ TURNED) - BELOW) | ((word ^ BACKSLASHES) - ONES);
      failed |= next | ((next ^ TURNED) - BELOW) | ((next ^ BACKSLASHES) - ONES);
      view.setInt32(at, word, true);
      view.setInt32(at + 4, next, true);
    }
    for (; i < last; i++, at++) {
      const byte = from.getUint8(i);
      failed |= byte < 0x20 || byte >= 0x80 || byte === QUOTE || byte === BACKSLASH ? HIGH : 0;
      view.setUint8(at, byte);
    }
    if ((failed & HIGH) !== 0) return false;
    this.length = at;
    return true;
  }

  private escapedText(from: Uint8Array, start: number, end: number): void {
    const { bytes } = this;
    let at = this.length;
    for (let i = start; i < end; i++) {
      const byte = from[i]!;
      if (byte >= 0x20 && byte !== QUOTE && byte !== BACKSLASH) {
        bytes[at++] = byte;
        continue;
      }
      this.length = at;
      this.escape(byte);
      at = this.length;
    }
    this.length = at;
  }

  private escape(code: number): void {
    this.bytes[this.length++] = BACKSLASH;
    if (code >= 0x20) this.bytes[this.length++] = code;
    else this.ascii(SHORT_ESCAPES[code] ?? `u${code.toString(16).padStart(4, '0')}`);
  }
}
