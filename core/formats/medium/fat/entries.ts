// Entries of FAT's folders: short and long names, those that are deleted among them (sections 6 and 7 of the specification).
import { byteText, u16le, u32le } from '../../../host';
import { dosMoment } from '../clusters';

const ENTRY = 32;
const DELETED = 0xe5;
/** Attributes of section 6. */
const LONG_NAME = 0x0f;
const VOLUME = 0x08;
const FOLDER = 0x10;

/** What an entry of a folder says of a file. */
export interface Entry {
  name: string;
  /** The first letter of its name was written over. */
  isHeadless: boolean;
  isDeleted: boolean;
  isFolder: boolean;
  cluster: number;
  size: number;
  modifiedAt: number | null;
  createdAt: number | null;
}

/** Stands where nothing tells the first letter of a name. */
const LOST_LETTER = '_';
/** Letters behind the first that neighbours have in common where they are of one series. */
const COMMON = 3;

/** Files of one series begin alike: where all neighbours with the same next letters have one first letter, it is that of a deleted one. */
export function withFirstLetters(entries: Entry[]): Entry[] {
  const firsts = new Map<string, Set<string>>();
  for (const { name, isHeadless } of entries) {
    if (isHeadless || name.length <= COMMON) continue;
    const series = name.slice(1, 1 + COMMON).toUpperCase();
    firsts.set(series, (firsts.get(series) ?? new Set()).add(name[0]!));
  }
  return entries.map((entry) => {
    const series = entry.name.slice(1, 1 + COMMON).toUpperCase();
    const known = entry.isHeadless ? firsts.get(series) : undefined;
    if (known?.size !== 1 || entry.name.length <= COMMON) return entry;
    return { ...entry, name: [...known][0]! + entry.name.slice(1) };
  });
}

/** Parts of a long name as they were met, the last part of it first. */
interface LongName {
  text: string;
  checksum: number;
}

/** The entries of a folder, but for its own and its parent's. */
export function* entriesIn(bytes: Uint8Array): Generator<Entry> {
  let long: LongName | null = null;
  // What lies behind the end of the entries is of an earlier time.
  let isPast = false;
  for (let at = 0; at + ENTRY <= bytes.length; at += ENTRY) {
    const entry = bytes.subarray(at, at + ENTRY);
    if (entry[0] === 0) {
      isPast = true;
      long = null;
      continue;
    }
    if ((entry[11]! & 0x3f) === LONG_NAME) {
      long = withPart(long, entry);
      continue;
    }
    const known: LongName | null = long;
    long = null;
    if ((entry[11]! & VOLUME) !== 0 || entry[0] === 0x2e) continue;
    const read = entryOf(entry, known);
    if (read) yield isPast ? { ...read, isDeleted: true } : read;
  }
}

function withPart(long: LongName | null, entry: Uint8Array): LongName {
  const units: number[] = [];
  for (const [from, to] of [
    [1, 11],
    [14, 26],
    [28, 32]
  ] as const)
    for (let at = from; at < to; at += 2) units.push(u16le(entry, at));
  const end = units.findIndex((unit) => unit === 0 || unit === 0xffff);
  const text = String.fromCharCode(...(end < 0 ? units : units.slice(0, end)));
  const checksum = entry[13]!;
  const isFirst = entry[0] !== DELETED && (entry[0]! & 0x40) !== 0;
  const goesOn = long !== null && !isFirst && long.checksum === checksum;
  return { text: goesOn ? text + long!.text : text, checksum };
}

function entryOf(entry: Uint8Array, long: LongName | null): Entry | null {
  const isDeleted = entry[0] === DELETED;
  const isFolder = (entry[11]! & FOLDER) !== 0;
  const size = u32le(entry, 28);
  if (!isShortName(entry) || (entry[11]! & 0xc0) !== 0) return null;
  const modifiedAt = dosMoment(u16le(entry, 24), u16le(entry, 22));
  // What was deleted is believed only with a day that is one.
  if (isDeleted && modifiedAt === null && u16le(entry, 24) !== 0) return null;
  const name = nameOf(entry, long, isDeleted);
  return {
    name,
    isHeadless: isDeleted && name.startsWith(LOST_LETTER) && name !== long?.text,
    isDeleted,
    isFolder,
    cluster: (u16le(entry, 20) << 16) | u16le(entry, 26),
    size: isFolder ? 0 : size,
    modifiedAt,
    createdAt: dosMoment(u16le(entry, 16), u16le(entry, 14), entry[13])
  };
}

/** Signs that a short name may not have (section 6.1). */
const FORBIDDEN = new Set([...'"*+,/:;<=>?[\\]|'].map((char) => char.charCodeAt(0)));

function isShortName(entry: Uint8Array): boolean {
  for (let i = 0; i < 11; i++) {
    const byte = entry[i]!;
    if (i === 0 && (byte === DELETED || byte === 0x05)) continue;
    if (byte < 0x20 || FORBIDDEN.has(byte)) return false;
  }
  return true;
}

/** The long name where its checksum is that of the short one; the first sign of a deleted short name is lost. */
function nameOf(entry: Uint8Array, long: LongName | null, isDeleted: boolean): string {
  if (long && fitsChecksum(entry, long, isDeleted)) return long.text;
  const lower = entry[12]!;
  const part = (from: number, to: number, isLower: boolean): string => {
    const text = byteText(entry.subarray(from, to)).trimEnd();
    return isLower ? text.toLowerCase() : text;
  };
  let base = part(0, 8, (lower & 8) !== 0);
  if (isDeleted) base = `${LOST_LETTER}${base.slice(1)}`;
  else if (entry[0] === 0x05) base = `\u00e5${base.slice(1)}`;
  const ending = part(8, 11, (lower & 16) !== 0);
  return ending === '' ? base : `${base}.${ending}`;
}

function fitsChecksum(entry: Uint8Array, long: LongName, isDeleted: boolean): boolean {
  if (!isDeleted) return checksumOf(entry, entry[0]!) === long.checksum;
  // The sign that is lost is the one with which the checksum holds; a capital or digit makes it likely.
  for (let first = 0x21; first < 0x7f; first++)
    if (checksumOf(entry, first) === long.checksum) return true;
  for (let first = 0x80; first < 0x100; first++)
    if (checksumOf(entry, first) === long.checksum) return true;
  return false;
}

/** Section 7, "ChkSum". */
function checksumOf(entry: Uint8Array, first: number): number {
  let sum = first;
  for (let i = 1; i < 11; i++) sum = (((sum & 1) << 7) + (sum >> 1) + entry[i]!) & 0xff;
  return sum;
}

export function labelIn(root: Uint8Array): string | null {
  for (let at = 0; at + ENTRY <= root.length && root[at] !== 0; at += ENTRY) {
    const isLabel = (root[at + 11]! & 0x3f) === VOLUME && root[at] !== DELETED;
    if (isLabel) return byteText(root.subarray(at, at + 11)).trim() || null;
  }
  return null;
}

/** A folder's first two entries are itself and its parent. */
export function isFolderHead(bytes: Uint8Array): boolean {
  const name = byteText(bytes.subarray(0, 11));
  const parent = byteText(bytes.subarray(ENTRY, ENTRY + 11));
  return name === '.          ' && parent === '..         ';
}

export function looksLikeEntries(bytes: Uint8Array): boolean {
  let good = 0;
  for (let at = 0; at + ENTRY <= bytes.length; at += ENTRY) {
    if (bytes[at] === 0) return good > 0;
    const entry = bytes.subarray(at, at + ENTRY);
    const isLong = (entry[11]! & 0x3f) === LONG_NAME && u16le(entry, 26) === 0;
    if (!isLong && !isShortName(entry)) return false;
    good++;
  }
  return good > 0;
}
