import { u16be, u32be, u32le, type ByteSource } from '../../host';

/** A file that was told by its content alone. */
export interface CarvedFile {
  offset: number;
  /** In bytes, up to where its own format says that it ends. */
  size: number;
  extension: string;
  mime: string;
}

type Kind = Pick<CarvedFile, 'extension' | 'mime'>;

/** Files begin at the bounds of sectors. */
const SECTOR = 512;
const CHUNK = 1 << 20;
/** A format that runs on is not followed further. */
const MOST = 256 << 20;

/** What was told by its content in a medium. */
export interface Carving {
  files: CarvedFile[];
  /** Where the search was given up because too many beginnings had no end; null where it came to the end. */
  leftAt: number | null;
}

/**
 * Files of known formats in a raw medium, each from its first bytes to the
 * end that its format states. One that lies in pieces is cut at the first
 * piece's end, and then mostly not found at all. Yields the bytes read so far.
 */
export function* carveByContent(medium: ByteSource): Generator<number, Carving> {
  const files: CarvedFile[] = [];
  const budget = { left: LEAST_BUDGET + medium.size / 256 };
  let behind = 0;
  for (let base = 0; base < medium.size; base += CHUNK) {
    const bytes = medium.read(base, CHUNK + HEAD);
    for (let at = 0; at < CHUNK && at < bytes.length; at += SECTOR) {
      const offset = base + at;
      if (offset < behind || !mayBegin(bytes, at)) continue;
      const file = fileAt(medium, offset, budget);
      if (budget.left < 0) return { files, leftAt: offset };
      if (!file) continue;
      files.push({ ...file, offset });
      behind = offset + file.size;
    }
    yield Math.min(base + CHUNK, medium.size);
  }
  return { files, leftAt: null };
}

/** What following beginnings without an end may cost, in reads and KiB, beside a share of the medium's size. */
const LEAST_BUDGET = 20_000;

/** Bytes that tell a format. */
const HEAD = 16;

const STARTS = [
  [0xff, 0xd8, 0xff],
  [0x89, 0x50, 0x4e, 0x47],
  [0x47, 0x49, 0x46, 0x38],
  [0x52, 0x49, 0x46, 0x46],
  [0x25, 0x50, 0x44, 0x46],
  [0x4f, 0x67, 0x67, 0x53],
  [0x23, 0x21, 0x41, 0x4d, 0x52],
  [0x53, 0x51, 0x4c, 0x69, 0x74, 0x65],
  [0x50, 0x4b, 0x03, 0x04]
];

function mayBegin(bytes: Uint8Array, at: number): boolean {
  const first = bytes[at];
  if (first === 0 && textAt(bytes, at + 4) === 'ftyp') return true;
  return STARTS.some(
    (start) => start[0] === first && start.every((byte, i) => bytes[at + i] === byte)
  );
}

function textAt(bytes: Uint8Array, at: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + 4));
}

/**
 * The file that begins at an offset; null where none of a known format does,
 * or its end is not there. What was followed in vain is taken off the budget.
 */
export function fileAt(
  medium: ByteSource,
  offset: number,
  budget = { left: Infinity }
): (Kind & Pick<CarvedFile, 'size'>) | null {
  const head = medium.read(offset, HEAD);
  if (head.length < HEAD) return null;
  const reader = new Reader(medium, offset, budget.left);
  for (const { kind, sizeOf } of FORMATS) {
    const told = kind(head);
    const size = told && sizeOf(reader);
    if (told && size && offset + size <= medium.size) return { ...told, size };
  }
  budget.left -= reader.cost;
  return null;
}

/** Reads on from the beginning of a file, as long as that is not too dear. */
class Reader {
  readonly end: number;
  cost = 0;

  constructor(
    private readonly medium: ByteSource,
    readonly offset: number,
    private readonly most: number
  ) {
    this.end = Math.min(medium.size, offset + MOST);
  }

  read(at: number, length: number): Uint8Array {
    this.cost += 1 + length / 1024;
    return this.cost > this.most ? NOTHING : this.medium.read(at, length);
  }
}

const NOTHING = new Uint8Array(0);

interface Format {
  kind(head: Uint8Array): Kind | null;
  /** Null where the format's own marks break off. */
  sizeOf(reader: Reader): number | null;
}

const FORMATS: readonly Format[] = [
  { kind: starting(0, { extension: 'jpg', mime: 'image/jpeg' }), sizeOf: jpegSize },
  { kind: starting(1, { extension: 'png', mime: 'image/png' }), sizeOf: pngSize },
  { kind: starting(2, { extension: 'gif', mime: 'image/gif' }), sizeOf: gifSize },
  { kind: riffKind, sizeOf: riffSize },
  { kind: starting(4, { extension: 'pdf', mime: 'application/pdf' }), sizeOf: pdfSize },
  { kind: starting(5, { extension: 'ogg', mime: 'audio/ogg' }), sizeOf: oggSize },
  { kind: starting(6, { extension: 'amr', mime: 'audio/amr' }), sizeOf: amrSize },
  { kind: starting(7, { extension: 'db', mime: 'application/x-sqlite3' }), sizeOf: databaseSize },
  { kind: starting(8, { extension: 'zip', mime: 'application/zip' }), sizeOf: zipSize },
  { kind: boxKind, sizeOf: boxesSize }
];

function starting(nth: number, kind: Kind): Format['kind'] {
  return (head) => (STARTS[nth]!.every((byte, i) => head[i] === byte) ? kind : null);
}

/** Segments up to the picture's data, then up to the mark that ends it (ITU T.81, annex B). */
function jpegSize(reader: Reader): number | null {
  const { offset, end } = reader;
  let at = offset + 2;
  for (;;) {
    const mark = reader.read(at, 4);
    if (mark.length < 4 || mark[0] !== 0xff) return null;
    if (mark[1] === 0xd9) return at + 2 - offset;
    const next = at + 2 + u16be(mark, 2);
    if (mark[1] !== 0xda) at = next;
    else {
      const stop = markAfter(reader, next);
      if (stop === null) return null;
      at = stop;
    }
    if (at >= end) return null;
  }
}

/** The next mark behind entropy-coded data: neither a stuffed zero nor a restart. */
function markAfter(reader: Reader, from: number): number | null {
  for (let base = from; base < reader.end; base += CHUNK) {
    const bytes = reader.read(base, CHUNK + 1);
    if (bytes.length === 0) return null;
    for (let at = bytes.indexOf(0xff); at >= 0 && at < CHUNK; at = bytes.indexOf(0xff, at + 1)) {
      const mark = bytes[at + 1];
      if (mark === undefined) return null;
      if (mark !== 0 && mark !== 0xff && (mark < 0xd0 || mark > 0xd7)) return base + at;
    }
  }
  return null;
}

/** Chunks up to the last (PNG, section 5.3). */
function pngSize(reader: Reader): number | null {
  const { offset, end } = reader;
  for (let at = offset + 8; at < end;) {
    const head = reader.read(at, 8);
    if (head.length < 8 || !/^[A-Za-z]{4}$/.test(textAt(head, 4))) return null;
    at += u32be(head, 0) + 12;
    if (textAt(head, 4) === 'IEND') return at - offset;
  }
  return null;
}

/** Blocks of sub-blocks up to the trailer (GIF 89a, section 12 on). */
function gifSize(reader: Reader): number | null {
  const { offset, end } = reader;
  const screen = reader.read(offset + 10, 1)[0] ?? 0;
  let at = offset + 13 + tableSize(screen);
  while (at < end) {
    const head = reader.read(at, 10);
    if (head[0] === 0x3b) return at + 1 - offset;
    if (head[0] === 0x21) at = behindBlocks(reader, at + 2);
    else if (head[0] === 0x2c) at = behindBlocks(reader, at + 11 + tableSize(head[9] ?? 0));
    else return null;
  }
  return null;
}

function tableSize(flags: number): number {
  return flags & 0x80 ? 3 << ((flags & 7) + 1) : 0;
}

function behindBlocks(reader: Reader, from: number): number {
  let at = from;
  while (at < reader.end) {
    const length = reader.read(at, 1)[0] ?? 0;
    at += length + 1;
    if (length === 0) break;
  }
  return at;
}

function riffKind(head: Uint8Array): Kind | null {
  if (textAt(head, 0) !== 'RIFF') return null;
  if (textAt(head, 8) === 'WEBP') return { extension: 'webp', mime: 'image/webp' };
  return textAt(head, 8) === 'WAVE' ? { extension: 'wav', mime: 'audio/wav' } : null;
}

function riffSize(reader: Reader): number | null {
  const head = reader.read(reader.offset, 8);
  if (head.length < 8) return null;
  const stated = u32le(head, 4);
  return 8 + stated + (stated & 1);
}

const END_OF_FILE = [...'%%EOF'].map((char) => char.charCodeAt(0));

/** Up to the last end mark before something else begins: later savings append. */
function pdfSize(reader: Reader): number | null {
  const { offset, end } = reader;
  let size: number | null = null;
  for (let base = offset; base < end; base += CHUNK) {
    const bytes = reader.read(base, CHUNK + END_OF_FILE.length);
    if (bytes.length === 0) return size;
    for (let at = 0; at < Math.min(CHUNK, bytes.length); at++) {
      const isBound = (base + at - offset) % SECTOR === 0 && base + at > offset;
      if (size !== null && isBound && mayBegin(bytes, at)) return size;
      if (size !== null && isBound && base + at - offset > size + SECTOR) return size;
      if (bytes[at] !== END_OF_FILE[0] || !END_OF_FILE.every((b, i) => bytes[at + i] === b))
        continue;
      const after =
        bytes[at + 5] === 13 && bytes[at + 6] === 10 ? 2 : isLine(bytes[at + 5]) ? 1 : 0;
      size = base + at + END_OF_FILE.length + after - offset;
    }
  }
  return size;
}

const ZIP_END = 0x0605_4b50;
const ZIP_END_BYTES = 22;

/** Up to the end record whose listing lies where it says, counted from the first entry (APPNOTE.TXT 6.3, section 4.3.16). */
function zipSize(reader: Reader): number | null {
  const { offset, end } = reader;
  for (let base = offset; base < end; base += CHUNK) {
    const bytes = reader.read(base, CHUNK + ZIP_END_BYTES);
    if (bytes.length === 0) return null;
    for (let at = bytes.indexOf(0x50); at >= 0 && at < CHUNK; at = bytes.indexOf(0x50, at + 1)) {
      if (at + ZIP_END_BYTES > bytes.length || u32le(bytes, at) !== ZIP_END) continue;
      const listing = u32le(bytes, at + 12) + u32le(bytes, at + 16);
      if (listing === base + at - offset)
        return listing + ZIP_END_BYTES + bytes[at + 20]! + 256 * bytes[at + 21]!;
    }
  }
  return null;
}

function isLine(byte: number | undefined): boolean {
  return byte === 10 || byte === 13;
}

/** Pages of one stream up to that marked as its last (RFC 3533, section 6). */
function oggSize(reader: Reader): number | null {
  const { offset, end } = reader;
  for (let at = offset; at < end;) {
    const head = reader.read(at, 27 + 255);
    if (head.length < 27 || textAt(head, 0) !== 'OggS') return null;
    const segments = head[26]!;
    const body = head.subarray(27, 27 + segments).reduce((sum, size) => sum + size, 0);
    at += 27 + segments + body;
    if (head[5]! & 4) return at - offset;
  }
  return null;
}

const AMR_SIZES = [13, 14, 16, 18, 20, 21, 27, 32, 6];
const AMR_WIDE_SIZES = [18, 24, 33, 37, 41, 47, 51, 59, 61, 6];

/** Frames as long as their first octets are those of frames (RFC 4867, section 5). */
function amrSize(reader: Reader): number | null {
  const { offset, end } = reader;
  const head = reader.read(offset, 9);
  if (head.length < 9) return null;
  const isWide = String.fromCharCode(...head) === '#!AMR-WB\n';
  if (!isWide && head[5] !== 10) return null;
  const sizes = isWide ? AMR_WIDE_SIZES : AMR_SIZES;
  let at = offset + (isWide ? 9 : 6);
  for (let frames = 0; at < end; frames++) {
    const [octet] = reader.read(at, 1);
    const size = octet === undefined || octet & 0x83 ? undefined : sizes[(octet >> 3) & 15];
    // Zeros behind the end look like frames of the lowest rate.
    if (size === undefined || isEmpty(reader.read(at, size)))
      return frames > 0 ? at - offset : null;
    at += size;
  }
  return at - offset;
}

function isEmpty(bytes: Uint8Array): boolean {
  return bytes.every((byte) => byte === 0);
}

/** As many pages as its header counts (file format, sections 1.3.2 and 1.3.7). */
function databaseSize(reader: Reader): number | null {
  const head = reader.read(reader.offset, 100);
  if (head.length < 100 || head[15] !== 0) return null;
  const stated = u16be(head, 16);
  return (stated === 1 ? 65_536 : stated) * u32be(head, 28) || null;
}

const PICTURE_BRANDS = new Set(['heic', 'heix', 'mif1', 'msf1', 'hevc']);

function boxKind(head: Uint8Array): Kind | null {
  if (textAt(head, 4) !== 'ftyp') return null;
  const brand = textAt(head, 8);
  if (PICTURE_BRANDS.has(brand)) return { extension: 'heic', mime: 'image/heic' };
  if (brand === 'avif') return { extension: 'avif', mime: 'image/avif' };
  if (brand === 'M4A ') return { extension: 'm4a', mime: 'audio/mp4' };
  if (brand === 'qt  ') return { extension: 'mov', mime: 'video/quicktime' };
  if (brand.startsWith('3gp')) return { extension: '3gp', mime: 'video/3gpp' };
  return { extension: 'mp4', mime: 'video/mp4' };
}

const BOXES = /^(ftyp|moov|mdat|free|skip|meta|wide|uuid|moof|mfra|sidx|styp|pnot|udta|idat)$/;

/** Boxes one after the other as long as they have the names of such (ISO/IEC 14496-12, section 4.2). */
function boxesSize(reader: Reader): number | null {
  const { offset, end } = reader;
  let at = offset;
  while (at < end) {
    const head = reader.read(at, 16);
    if (head.length < 16 || !BOXES.test(textAt(head, 4))) break;
    const short = u32be(head, 0);
    const size = short === 1 ? u32be(head, 8) * 2 ** 32 + u32be(head, 12) : short;
    if (size < 8 || at + size > end) return null;
    at += size;
  }
  return at > offset + 32 ? at - offset : null;
}
