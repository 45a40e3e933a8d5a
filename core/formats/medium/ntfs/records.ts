// Records of NTFS: fixups, attributes, runs.
import { u16le, u32le, u64le } from '../../../host';
import { HOLE, type Extent } from '../runs';

const FILE = 0x454c_4946;

/** Types of attributes. */
export const INFORMATION = 0x10;
export const ATTRIBUTE_LIST = 0x20;
export const FILE_NAME = 0x30;
export const DATA = 0x80;
const END = 0xffff_ffff;

export interface Attribute {
  type: number;
  name: string;
  /** Of the instance that a list of attributes names. */
  firstCluster: number;
  isCompressed: boolean;
  isEncrypted: boolean;
  /** Clusters that are packed together, where they are. */
  unit: number;
  size: number;
  /** How much of it was ever written. */
  written: number;
  /** The value itself where it is resident. */
  value: Uint8Array | null;
  /** Where it lies, in clusters. */
  runs: Extent[];
}

export interface MftRecord {
  number: number;
  sequence: number;
  isUsed: boolean;
  isFolder: boolean;
  /** Number of the record that this one continues; 0 for none. */
  base: number;
  attributes: Attribute[];
}

const utf16 = new TextDecoder('utf-16le');

/** A record of the master file table; null where it is none or torn. */
export function recordOf(raw: Uint8Array, number: number): MftRecord | null {
  if (raw.length < 56 || u32le(raw, 0) !== FILE) return null;
  const bytes = withFixups(raw);
  if (!bytes) return null;
  const flags = u16le(bytes, 22);
  return {
    number,
    sequence: u16le(bytes, 16),
    isUsed: (flags & 1) !== 0,
    isFolder: (flags & 2) !== 0,
    base: referenceOf(bytes, 32).number,
    attributes: [...attributesIn(bytes)]
  };
}

/** The last two bytes of each sector are kept apart, and must agree: a record that was half written does not. */
function withFixups(raw: Uint8Array): Uint8Array | null {
  const [at, count] = [u16le(raw, 4), u16le(raw, 6)];
  if (count < 2 || at + 2 * count > raw.length) return null;
  const bytes = new Uint8Array(raw);
  const step = Math.floor(raw.length / (count - 1));
  if (step < 2) return null;
  for (let n = 1; n < count; n++) {
    const end = n * step - 2;
    if (bytes[end] !== raw[at] || bytes[end + 1] !== raw[at + 1]) return null;
    bytes[end] = raw[at + 2 * n]!;
    bytes[end + 1] = raw[at + 2 * n + 1]!;
  }
  return bytes;
}

/** A reference to a record: its number, and how often that was given. */
export function referenceOf(bytes: Uint8Array, at: number): { number: number; sequence: number } {
  return {
    number: u32le(bytes, at) + u16le(bytes, at + 4) * 2 ** 32,
    sequence: u16le(bytes, at + 6)
  };
}

function* attributesIn(bytes: Uint8Array): Generator<Attribute> {
  for (let at = u16le(bytes, 20); at + 16 <= bytes.length;) {
    const [type, length] = [u32le(bytes, at), u32le(bytes, at + 4)];
    if (type === END || length < 16 || at + length > bytes.length) return;
    const attribute = attributeOf(bytes.subarray(at, at + length), type);
    if (attribute) yield attribute;
    at += length;
  }
}

function attributeOf(bytes: Uint8Array, type: number): Attribute | null {
  const isApart = bytes[8] === 1;
  const nameLength = bytes[9]!;
  const nameAt = u16le(bytes, 10);
  const flags = u16le(bytes, 12);
  const common = {
    type,
    name: utf16.decode(bytes.subarray(nameAt, nameAt + 2 * nameLength)),
    isCompressed: (flags & 0xff) !== 0,
    isEncrypted: (flags & 0x4000) !== 0
  };
  if (!isApart) {
    if (bytes.length < 24) return null;
    const [size, at] = [u32le(bytes, 16), u16le(bytes, 20)];
    const value = bytes.subarray(at, at + size);
    return { ...common, firstCluster: 0, unit: 0, size, written: size, value, runs: [] };
  }
  if (bytes.length < 64) return null;
  const firstCluster = u64le(bytes, 16);
  const runs = runsIn(bytes.subarray(u16le(bytes, 32)));
  const unit = bytes[34] === 0 ? 0 : 1 << bytes[34]!;
  const [size, written] = [u64le(bytes, 48), u64le(bytes, 56)];
  return { ...common, firstCluster, unit, size, written, value: null, runs };
}

/** Pairs of a length and the distance from the run before, each with its own width. */
function runsIn(bytes: Uint8Array): Extent[] {
  const runs: Extent[] = [];
  let start = 0;
  for (let at = 0; at < bytes.length && bytes[at] !== 0;) {
    const [lengthBytes, startBytes] = [bytes[at]! & 15, bytes[at]! >> 4];
    if (lengthBytes === 0 || lengthBytes > 8 || startBytes > 8) break;
    const length = numberAt(bytes, at + 1, lengthBytes);
    if (!(length > 0) || length > 2 ** 40) break;
    if (startBytes === 0) runs.push({ start: HOLE, length });
    else {
      start += numberAt(bytes, at + 1 + lengthBytes, startBytes);
      if (start < 0) break;
      runs.push({ start, length });
    }
    at += 1 + lengthBytes + startBytes;
  }
  return runs;
}

/** A number with a sign, little end first. */
function numberAt(bytes: Uint8Array, at: number, width: number): number {
  let value = 0;
  for (let i = width - 1; i >= 0; i--) value = value * 256 + (bytes[at + i] ?? 0);
  return (bytes[at + width - 1] ?? 0) & 0x80 ? value - 2 ** (8 * width) : value;
}

/** A name that a record has, in a folder. */
export interface NameValue {
  parent: { number: number; sequence: number };
  name: string;
  /** The short one, which stands beside a long one. */
  isShort: boolean;
}

export function nameValueOf({ value }: Attribute): NameValue | null {
  if (!value || value.length < 66) return null;
  const name = utf16.decode(value.subarray(66, 66 + 2 * value[64]!));
  return name === '' ? null : { parent: referenceOf(value, 0), name, isShort: value[65] === 2 };
}

/** Hundreds of nanoseconds since 1601, as milliseconds; null where nothing is told. */
export function fileTime(bytes: Uint8Array, at: number): number | null {
  if (at + 8 > bytes.length) return null;
  const value = u32le(bytes, at + 4) * 2 ** 32 + u32le(bytes, at);
  return value === 0 ? null : Math.floor(value / 10_000) - 11_644_473_600_000;
}
