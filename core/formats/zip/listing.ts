import { u16le, u32le, u64le, type ByteSource } from '../../host';
import { LOCAL, LOCAL_SIZE, type Encryption, type Entry } from './entry';

/** Signatures and sizes of APPNOTE.TXT 6.3: sections 4.3.7, 4.3.12, 4.3.14, 4.3.15 and 4.3.16. */
const CENTRAL = 0x02014b50;
export const END = 0x06054b50;
const END64 = 0x06064b50;
const LOCATOR64 = 0x07064b50;
const END_SIZE = 22;
const CENTRAL_SIZE = 46;
const MOST_ENTRIES = 5_000_000;

const utf8 = new TextDecoder();
/** Names without the UTF-8 mark are in the old DOS code page; its upper half as Unicode. */
const CP437 =
  'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■ ';

export interface Listing {
  entries: Entry[];
  damage: string | null;
}

/** Entries by the central directory, or what is wrong with it. */
export function centralEntries(zip: ByteSource): Listing {
  const end = findEnd(zip);
  if (!end) {
    return {
      entries: [],
      damage: `${zip.name} has lost its listing; entries were found one by one.`
    };
  }
  const entries: Entry[] = [];
  let at = end.start;
  for (let n = 0; n < Math.min(end.count, MOST_ENTRIES); n++) {
    const head = zip.read(at, CENTRAL_SIZE);
    if (head.length < CENTRAL_SIZE || u32le(head, 0) !== CENTRAL) {
      return {
        entries,
        damage: `${zip.name}: the listing is damaged at offset ${at}; entries were found one by one.`
      };
    }
    const [name, extra, comment] = [u16le(head, 28), u16le(head, 30), u16le(head, 32)];
    const tail = zip.read(at + CENTRAL_SIZE, name + extra + comment);
    entries.push(centralEntry(head, tail, [name, extra], end.shift));
    at += CENTRAL_SIZE + name + extra + comment;
  }
  return { entries, damage: null };
}

/** @param tail its name, extra field and comment, `lengths` those of the first two */
function centralEntry(
  head: Uint8Array,
  tail: Uint8Array,
  [name, extra]: [number, number],
  shift: number
): Entry {
  const flags = u16le(head, 8);
  const crc = u32le(head, 16);
  const entry: Entry = {
    name: nameOf(tail.subarray(0, name), flags),
    method: u16le(head, 10),
    encryption: encryptionOf(flags),
    packed: u32le(head, 20),
    size: u32le(head, 24),
    crc,
    header: u32le(head, 42),
    modifiedAt: dosTime(u16le(head, 12), u16le(head, 14)),
    check: checkOf(flags, crc, u16le(head, 12)),
    comment: nameOf(tail.subarray(name + extra), flags),
    attributes: u32le(head, 38)
  };
  applyExtra(entry, tail.subarray(name, name + extra));
  entry.header += shift;
  return entry;
}

/** General purpose flags of section 4.4.4. */
const ENCRYPTED = 1;
const SIZES_BEHIND = 8;
const STRONG = 0x40;

function encryptionOf(flags: number): Entry['encryption'] {
  if ((flags & ENCRYPTED) === 0) return null;
  return (flags & STRONG) === 0 ? { kind: 'traditional' } : 'unknown';
}

/** The highest byte of the CRC, or of the time where the CRC stands behind the data (section 6.1.6). */
function checkOf(flags: number, crc: number, time: number): number {
  return (flags & SIZES_BEHIND) === 0 ? crc >>> 24 : time >>> 8;
}

/** Packing method of entries whose real one stands in the extra field 0x9901. */
const AES_METHOD = 99;
const AES_KEY_BYTES: Record<number, 16 | 24 | 32> = { 1: 16, 2: 24, 3: 32 };

/** Version, two letters, strength, real method; in version 2 the CRC is not told. */
function applyAes(entry: Entry, field: Uint8Array): void {
  if (field.length < 7 || entry.method !== AES_METHOD) return;
  const keyBytes = AES_KEY_BYTES[field[4]!];
  const encryption: Encryption | 'unknown' = keyBytes ? { kind: 'aes', keyBytes } : 'unknown';
  entry.encryption = encryption;
  entry.method = u16le(field, 5);
  if (u16le(field, 0) === 2) entry.crc = null;
}

/** Extra fields: 0x0001 holds what does not fit 32 bits (4.5.3), 0x5455 a time in UTC. */
function applyExtra(entry: Entry, extra: Uint8Array): void {
  for (let at = 0; at + 4 <= extra.length;) {
    const [id, length] = [u16le(extra, at), u16le(extra, at + 2)];
    const field = extra.subarray(at + 4, at + 4 + length);
    if (id === 1) applyZip64(entry, field);
    if (id === 0x9901) applyAes(entry, field);
    if (id === 0x5455 && field.length >= 5 && field[0]! & 1) {
      entry.modifiedAt = u32le(field, 1) * 1000;
    }
    at += 4 + length;
  }
}

function applyZip64(entry: Entry, field: Uint8Array): void {
  let at = 0;
  for (const key of ['size', 'packed', 'header'] as const) {
    if (entry[key] !== 0xffffffff || at + 8 > field.length) continue;
    entry[key] = u64le(field, at);
    at += 8;
  }
}

function nameOf(bytes: Uint8Array, flags: number): string {
  if (flags & 0x800) return utf8.decode(bytes);
  const asUtf8 = utf8.decode(bytes);
  if (!asUtf8.includes('\ufffd')) return asUtf8;
  return Array.from(bytes, (b) => (b < 128 ? String.fromCharCode(b) : CP437[b - 128]!)).join('');
}

/** Local time without a zone, two seconds apart; read as UTC. */
function dosTime(time: number, date: number): number | null {
  if (date === 0) return null;
  const [year, month, day] = [1980 + (date >> 9), (date >> 5) & 15, date & 31];
  return Date.UTC(year, month - 1, day, time >> 11, (time >> 5) & 63, (time & 31) * 2);
}

interface End {
  start: number;
  count: number;
  /** Bytes that stand before the archive, as in programs that unpack themselves. */
  shift: number;
}

function findEnd(zip: ByteSource): End | null {
  const length = Math.min(zip.size, END_SIZE + 0xffff);
  const base = zip.size - length;
  const tail = zip.read(base, length);
  for (let at = tail.length - END_SIZE; at >= 0; at--) {
    if (u32le(tail, at) !== END) continue;
    const end = endRecord(zip, tail, at, base + at);
    if (end) return end;
  }
  return null;
}

function endRecord(zip: ByteSource, tail: Uint8Array, at: number, place: number): End | null {
  let count = u16le(tail, at + 10);
  let size = u32le(tail, at + 12);
  let start = u32le(tail, at + 16);
  let before = place;
  const locator = place >= 20 ? zip.read(place - 20, 20) : new Uint8Array(0);
  if (locator.length === 20 && u32le(locator, 0) === LOCATOR64) {
    const at64 = u64le(locator, 8);
    const record = zip.read(Math.min(at64, zip.size), 56);
    if (record.length === 56 && u32le(record, 0) === END64) {
      [count, size, start] = [u64le(record, 32), u64le(record, 40), u64le(record, 48)];
      before = at64;
    }
  }
  const shift = before - size - start;
  if (!(shift >= 0) || start + shift > zip.size) return null;
  if (count === 0) return { start, count, shift };
  const first = zip.read(start + shift, 4);
  return first.length === 4 && u32le(first, 0) === CENTRAL
    ? { start: start + shift, count, shift }
    : null;
}

/** Follows local headers from the start, and from each next one that can be found. Sizes told only behind the data end where the next header begins. */
export function localEntries(zip: ByteSource): Entry[] {
  const entries: Entry[] = [];
  let at = nextLocal(zip, 0);
  while (at !== null && entries.length < MOST_ENTRIES) {
    const head = zip.read(at, LOCAL_SIZE);
    if (head.length < LOCAL_SIZE) break;
    const [name, extra] = [u16le(head, 26), u16le(head, 28)];
    const flags = u16le(head, 6);
    const tail = zip.read(at + LOCAL_SIZE, name + extra);
    const data = at + LOCAL_SIZE + name + extra;
    const isTold = (flags & SIZES_BEHIND) === 0;
    const entry: Entry = {
      name: nameOf(tail.subarray(0, name), flags),
      method: u16le(head, 8),
      encryption: encryptionOf(flags),
      packed: u32le(head, 18),
      size: u32le(head, 22),
      crc: isTold ? u32le(head, 14) : null,
      header: at,
      modifiedAt: dosTime(u16le(head, 10), u16le(head, 12)),
      check: checkOf(flags, u32le(head, 14), u16le(head, 10)),
      comment: '',
      attributes: 0
    };
    applyExtra(entry, tail.subarray(name));
    const told = isTold && entry.packed < zip.size;
    const next = nextLocal(zip, told ? data + entry.packed : data);
    if (!told) entry.packed = (next ?? zip.size) - data;
    entries.push(entry);
    at = next;
  }
  return entries;
}

const WINDOW = 1 << 16;

function nextLocal(zip: ByteSource, from: number): number | null {
  for (let base = from; base < zip.size; base += WINDOW - 4) {
    const bytes = zip.read(base, WINDOW);
    for (let at = bytes.indexOf(0x50); at >= 0 && at + 4 <= bytes.length;) {
      if (u32le(bytes, at) === LOCAL) return base + at;
      at = bytes.indexOf(0x50, at + 1);
    }
  }
  return null;
}
