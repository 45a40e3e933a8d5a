import { u16be, u32be, u64beNumber } from '../../host';
import { PackageError } from '../types';

/** One record of the older layout's listing. */
export interface MbdbRecord {
  domain: string;
  path: string;
  /** Wrapped key with its class in front; null where the file is not encrypted. */
  key: Uint8Array | null;
  mode: number;
  modifiedAt: number | null;
  createdAt: number | null;
  size: number;
  protectionClass: number;
}

const utf8 = new TextDecoder();
const MAGIC = 'mbdb';

/**
 * Reads the older listing: a six-byte head, then records of strings with
 * two-byte lengths (0xFFFF for none) and fixed fields, big endian.
 * @throws PackageError when it does not begin like one; a cut tail ends the list.
 */
export function readMbdb(
  bytes: Uint8Array,
  file: string
): { records: MbdbRecord[]; cutAt: number | null } {
  if (utf8.decode(bytes.subarray(0, 4)) !== MAGIC) {
    throw new PackageError(file, 0, 'it does not begin like a backup listing');
  }
  const cursor = new Cursor(bytes);
  const records: MbdbRecord[] = [];
  while (cursor.at < bytes.length) {
    const start = cursor.at;
    const record = cursor.record();
    if (!record) return { records, cutAt: start };
    records.push(record);
  }
  return { records, cutAt: null };
}

/** Fixed fields after the strings: mode, inode, user, group, three times, size, class, properties. */
const FIXED = 40;

class Cursor {
  at = 6;

  constructor(private readonly bytes: Uint8Array) {}

  record(): MbdbRecord | null {
    const domain = this.bytesField();
    const path = this.bytesField();
    this.bytesField();
    this.bytesField();
    const key = this.bytesField();
    if (this.at + FIXED > this.bytes.length) return null;
    const { bytes, at } = this;
    const count = bytes[at + FIXED - 1]!;
    this.at += FIXED;
    for (let i = 0; i < count * 2; i++) this.bytesField();
    if (this.at > bytes.length) return null;
    return {
      domain: utf8.decode(domain),
      path: utf8.decode(path),
      key: key.length > 0 ? key : null,
      mode: u16be(bytes, at),
      modifiedAt: secondsAt(bytes, at + 18),
      createdAt: secondsAt(bytes, at + 26),
      size: u64beNumber(bytes, at + 30),
      protectionClass: bytes[at + 38]!
    };
  }

  private bytesField(): Uint8Array {
    if (this.at + 2 > this.bytes.length) {
      this.at = this.bytes.length + 1;
      return new Uint8Array(0);
    }
    const length = u16be(this.bytes, this.at);
    this.at += 2;
    if (length === 0xffff) return new Uint8Array(0);
    const field = this.bytes.subarray(this.at, this.at + length);
    this.at += length;
    return field;
  }
}

function secondsAt(bytes: Uint8Array, at: number): number | null {
  const seconds = u32be(bytes, at);
  return seconds === 0 ? null : seconds * 1000;
}
