import { f64be, intBe, u16be } from '../../host';
import { PlistError, PlistUid, type PlistDict, type PlistValue } from './types';

const MAGIC = 'bplist0';
const TRAILER = 32;
const EPOCH_2001 = 978_307_200_000;
const DEEPEST = 200;
const ascii = new TextDecoder('latin1');
const utf16 = new TextDecoder('utf-16be');

export function isBinaryPlist(bytes: Uint8Array): boolean {
  return bytes.length > TRAILER + 8 && ascii.decode(bytes.subarray(0, 7)) === MAGIC;
}

/**
 * Reads a binary property list: objects with a type nibble and a size nibble,
 * a table of their offsets, and a trailer of 32 bytes that says where all is.
 * @throws PlistError
 */
export function parseBinaryPlist(bytes: Uint8Array): PlistValue {
  return new BinaryReader(bytes).root();
}

class BinaryReader {
  private readonly offsetSize: number;
  private readonly refSize: number;
  private readonly count: number;
  private readonly top: number;
  private readonly table: number;
  private readonly open = new Set<number>();
  /** Each object is built once, however often others name it. */
  private readonly built = new Map<number, PlistValue>();

  constructor(private readonly bytes: Uint8Array) {
    const at = bytes.length - TRAILER;
    this.offsetSize = bytes[at + 6] ?? 0;
    this.refSize = bytes[at + 7] ?? 0;
    this.count = this.long(at + 8);
    this.top = this.long(at + 16);
    this.table = this.long(at + 24);
    const fits = this.table + this.count * this.offsetSize <= at;
    if (!fits || this.offsetSize < 1 || this.refSize < 1 || this.top >= this.count) {
      throw new PlistError(at, 'the trailer does not fit the file');
    }
  }

  root(): PlistValue {
    return this.object(this.top, 0);
  }

  private long(at: number): number {
    return Number(intBe(this.bytes, at, 8));
  }

  private unsigned(at: number, size: number): number {
    if (at + size > this.bytes.length) throw new PlistError(at, 'a number lies past the end');
    let value = 0;
    for (let i = 0; i < size; i++) value = value * 256 + this.bytes[at + i]!;
    return value;
  }

  private object(index: number, depth: number): PlistValue {
    if (index >= this.count) throw new PlistError(0, `there is no object ${index}`);
    const known = this.built.get(index);
    if (known !== undefined) return known;
    const at = this.unsigned(this.table + index * this.offsetSize, this.offsetSize);
    if (at >= this.bytes.length - TRAILER) throw new PlistError(at, 'an object lies past the end');
    if (this.open.has(index) || depth > DEEPEST)
      throw new PlistError(at, 'objects hold each other');
    this.open.add(index);
    const value = this.value(at, depth);
    this.open.delete(index);
    this.built.set(index, value);
    return value;
  }

  private value(at: number, depth: number): PlistValue {
    const marker = this.bytes[at]!;
    const low = marker & 15;
    switch (marker >> 4) {
      case 0:
        return marker === 8 ? false : marker === 9 ? true : null;
      case 1:
        return this.integer(at + 1, 1 << low);
      case 2:
        return low === 2 ? this.float32(at + 1) : f64be(this.take(at + 1, 8), 0);
      case 3:
        return new Date(EPOCH_2001 + f64be(this.take(at + 1, 8), 0) * 1000);
      case 8:
        return new PlistUid(this.unsigned(at + 1, low + 1));
      default:
        return this.sized(marker >> 4, at, depth);
    }
  }

  private integer(at: number, size: number): number | bigint {
    const bytes = this.take(at, size);
    // One to four bytes are unsigned, eight are signed, sixteen hold what unsigned eight would.
    if (size <= 4) return this.unsigned(at, size);
    return intBe(bytes, size === 16 ? 8 : 0, 8);
  }

  private float32(at: number): number {
    const bytes = this.take(at, 4);
    return new DataView(bytes.buffer, bytes.byteOffset, 4).getFloat32(0);
  }

  /** Values with a count, in the nibble or in the integer behind it. */
  private sized(kind: number, at: number, depth: number): PlistValue {
    const { count, start } = this.countAt(at);
    switch (kind) {
      case 4:
        return this.take(start, count).slice();
      case 5:
        return ascii.decode(this.take(start, count));
      case 6:
        return utf16.decode(this.take(start, count * 2));
      case 10:
      case 11:
      case 12:
        return this.refs(start, count).map((ref) => this.object(ref, depth + 1));
      case 13:
        return this.dict(start, count, depth);
      default:
        throw new PlistError(at, `there is no type ${kind}`);
    }
  }

  private countAt(at: number): { count: number; start: number } {
    const low = this.bytes[at]! & 15;
    if (low !== 15) return { count: low, start: at + 1 };
    const size = 1 << (this.bytes[at + 1]! & 15);
    return { count: this.unsigned(at + 2, size), start: at + 2 + size };
  }

  private refs(start: number, count: number): number[] {
    const bytes = this.take(start, count * this.refSize);
    if (this.refSize === 1) return Array.from(bytes);
    if (this.refSize === 2) return Array.from({ length: count }, (_, i) => u16be(bytes, i * 2));
    return Array.from({ length: count }, (_, i) =>
      this.unsigned(start + i * this.refSize, this.refSize)
    );
  }

  private dict(start: number, count: number, depth: number): PlistDict {
    const refs = this.refs(start, count * 2);
    const dict: PlistDict = new Map();
    for (let i = 0; i < count; i++) {
      const key = this.object(refs[i]!, depth + 1);
      if (typeof key === 'string') dict.set(key, this.object(refs[count + i]!, depth + 1));
    }
    return dict;
  }

  private take(at: number, length: number): Uint8Array {
    if (length < 0 || at + length > this.bytes.length) {
      throw new PlistError(at, `${length} bytes are wanted past the end`);
    }
    return this.bytes.subarray(at, at + length);
  }
}
