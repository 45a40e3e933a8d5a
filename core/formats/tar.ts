import { SliceSource, type ByteSource } from '../host';
import { safePath } from './paths';
import { SparseSource, stretchesOf } from './sparse';
import {
  emptyPackage,
  plainFile,
  warning,
  type OpenedPackage,
  type PackageStep,
  type PackageFormat
} from './types';

const BLOCK = 512;
const utf8 = new TextDecoder();
/** A listing longer than this is hostile. */
const MOST_ENTRIES = 5_000_000;

/** Whether a block is the header of a tar entry: its checksum holds (POSIX.1-2001, pax, "ustar Interchange Format"). */
export function isTarHeader(block: Uint8Array): boolean {
  if (block.length < BLOCK || block[0] === 0) return false;
  const stored = octal(block, 148, 8);
  if (stored === null) return false;
  let sum = 0;
  for (let i = 0; i < BLOCK; i++) sum += i >= 148 && i < 156 ? 0x20 : block[i]!;
  return sum === stored;
}

/** Reads the listing of a tar file: ustar, pax and the long-name entries of the older extension. Members are slices, nothing is copied. */
export function* openTar(tar: ByteSource, prefix: string): Generator<PackageStep, OpenedPackage> {
  const result = emptyPackage('tar');
  const reader = new TarReader(tar, prefix, result);
  yield* reader.run();
  return result;
}

class TarReader {
  private at = 0;
  private longName: string | null = null;
  private pax: Map<string, string> = new Map();
  /** Files by the names that links use. */
  private readonly named = new Map<string, ByteSource>();
  private other = 0;
  private renamed = 0;

  constructor(
    private readonly tar: ByteSource,
    private readonly prefix: string,
    private readonly result: OpenedPackage
  ) {}

  *run(): Generator<PackageStep, void> {
    for (let n = 0; n < MOST_ENTRIES && this.at + BLOCK <= this.tar.size; n++) {
      const block = this.tar.read(this.at, BLOCK);
      if (block.every((byte) => byte === 0)) {
        this.at += BLOCK;
        if (this.endsHere()) break;
        continue;
      }
      if (!isTarHeader(block)) {
        if (!this.resume()) break;
        continue;
      }
      this.entry(block);
      if (n % 256 === 0) yield { stage: 'unpack', done: this.at, total: this.tar.size };
    }
    if (this.other > 0) {
      const text = `${this.other} entries of ${this.tar.name} are of an unknown kind and were skipped.`;
      this.result.notes.push(warning('unknown-entries', text, this.tar.name));
    }
    if (this.renamed > 0) {
      const text = `${this.renamed} entries of ${this.tar.name} have paths that lead out of it; they are listed inside it.`;
      this.result.notes.push(warning('unsafe-path', text, this.tar.name));
    }
  }

  /** Two empty blocks end an archive; a single one may be damage. */
  private endsHere(): boolean {
    const next = this.tar.read(this.at, BLOCK);
    return next.length < BLOCK || next.every((byte) => byte === 0);
  }

  /** After a damaged header the next one is looked for block by block. */
  private resume(): boolean {
    const from = this.at;
    for (this.at += BLOCK; this.at + BLOCK <= this.tar.size; this.at += BLOCK) {
      if (isTarHeader(this.tar.read(this.at, BLOCK))) break;
    }
    const text = `${this.tar.name}: ${this.at - from} bytes at offset ${from} are damaged and were skipped.`;
    this.result.notes.push(warning('damaged', text, this.tar.name));
    return this.at + BLOCK <= this.tar.size;
  }

  private entry(block: Uint8Array): void {
    const type = String.fromCharCode(block[156]!);
    const size = this.sizeOf(block);
    const start = this.at + BLOCK;
    const there = Math.min(size, Math.max(0, this.tar.size - start));
    this.at = start + Math.ceil(size / BLOCK) * BLOCK;
    switch (type) {
      case 'L':
        this.longName = textOf(this.tar.read(start, Math.min(there, 65536)));
        return;
      case 'x':
        this.pax = paxRecords(this.tar.read(start, Math.min(there, 1 << 20)));
        return;
      case 'g':
        // Globals give defaults (comments, character sets) that no listing here needs.
        return;
      case '0':
      case '\0':
      case '7':
        this.file(block, start, size, there);
        break;
      case 'S':
        this.at += this.oldSparse(block, start, size);
        break;
      case '1':
        this.link(block);
        break;
      // Symbolic links, devices, folders, pipes and the label of a volume hold no bytes.
      case '2':
      case '3':
      case '4':
      case '5':
      case '6':
      case 'V':
        break;
      default:
        this.other++;
    }
    this.longName = null;
    this.pax = new Map();
  }

  private sizeOf(block: Uint8Array): number {
    const fromPax = Number(this.pax.get('size') ?? NaN);
    const size = Number.isFinite(fromPax) ? fromPax : (octal(block, 124, 12) ?? 0);
    return size >= 0 && size < Number.MAX_SAFE_INTEGER ? size : 0;
  }

  private file(block: Uint8Array, start: number, size: number, there: number): void {
    const told = this.pax.get('GNU.sparse.name') ?? this.pax.get('path');
    const safe = safePath(told ?? this.longName ?? headerName(block));
    if (!safe || safe.path.endsWith('/')) return;
    if (safe.changed) this.renamed++;
    const path = this.prefix + safe.path;
    if (there < size) {
      const text = `${path} is cut short: ${there} of ${size} bytes are in the archive.`;
      this.result.notes.push(warning('truncated', text, path));
    }
    const seconds = Number(this.pax.get('mtime') ?? octal(block, 136, 12) ?? NaN);
    const modifiedAt = Number.isFinite(seconds) ? Math.round(seconds * 1000) : null;
    const source =
      this.paxSparse(path, start, there) ?? new SliceSource(path, this.tar, start, there);
    this.named.set(safe.path, source);
    this.result.files.push(plainFile(path, source, modifiedAt));
  }

  /** Another name of a file before it. */
  private link(block: Uint8Array): void {
    const target = safePath(this.pax.get('linkpath') ?? textOf(block.subarray(157, 257)));
    const source = target && this.named.get(target.path);
    const safe = safePath(this.pax.get('path') ?? this.longName ?? headerName(block));
    if (!source || !safe) return;
    const path = this.prefix + safe.path;
    this.result.files.push(plainFile(path, new SliceSource(path, source, 0, source.size)));
  }

  /** A file with holes as the older extension keeps it: a map in the header and in blocks behind it. Returns the bytes of those blocks. */
  private oldSparse(block: Uint8Array, start: number, size: number): number {
    const numbers = numbersAt(block, 386, 4);
    let blocks = 0;
    for (let more = block[482]; more && start + blocks * BLOCK < this.tar.size; blocks++) {
      const next = this.tar.read(start + blocks * BLOCK, BLOCK);
      if (next.length < BLOCK) break;
      numbers.push(...numbersAt(next, 0, 21));
      more = next[504];
    }
    const safe = safePath(this.longName ?? headerName(block));
    if (!safe) return blocks * BLOCK;
    const path = this.prefix + safe.path;
    const whole = octal(block, 483, 12) ?? size;
    const from = start + blocks * BLOCK;
    const source = new SparseSource(path, this.tar, from, whole, stretchesOf(numbers));
    this.named.set(safe.path, source);
    this.result.files.push(plainFile(path, source));
    return blocks * BLOCK;
  }

  /** A file with holes as extended headers tell it, its map in the headers or before its data; null for others. */
  private paxSparse(path: string, start: number, there: number): ByteSource | null {
    const size = Number(this.pax.get('GNU.sparse.realsize') ?? this.pax.get('GNU.sparse.size'));
    if (!Number.isSafeInteger(size) || size < 0) return null;
    const map = this.pax.get('GNU.sparse.map');
    if (map !== undefined)
      return new SparseSource(path, this.tar, start, size, stretchesOf(map.split(',').map(Number)));
    const { numbers, length } = mapBefore(this.tar.read(start, Math.min(there, MOST_MAP)));
    return new SparseSource(path, this.tar, start + length, size, stretchesOf(numbers));
  }
}

/** Bytes of a map that stands before the data of a file with holes. */
const MOST_MAP = 1 << 20;

/** A count, then as many pairs of numbers, each on a line; filled up to a whole block. */
function mapBefore(bytes: Uint8Array): { numbers: number[]; length: number } {
  const numbers: number[] = [];
  let at = 0;
  let wanted = 1;
  while (numbers.length < wanted && at < bytes.length) {
    const end = bytes.indexOf(10, at);
    if (end < 0) break;
    numbers.push(Number(utf8.decode(bytes.subarray(at, end))));
    if (numbers.length === 1) wanted = 1 + 2 * numbers[0]!;
    at = end + 1;
  }
  return { numbers: numbers.slice(1), length: Math.ceil(at / BLOCK) * BLOCK };
}

/** Pairs of twelve octal digits; a pair that is empty ends them. */
function numbersAt(block: Uint8Array, at: number, pairs: number): number[] {
  const numbers: number[] = [];
  for (let i = 0; i < pairs && block[at + i * 24] !== 0; i++)
    numbers.push(octal(block, at + i * 24, 12) ?? 0, octal(block, at + i * 24 + 12, 12) ?? 0);
  return numbers;
}

function headerName(block: Uint8Array): string {
  const name = textOf(block.subarray(0, 100));
  const isPosix = textOf(block.subarray(257, 262)) === 'ustar' && block[262] === 0;
  const prefix = isPosix ? textOf(block.subarray(345, 500)) : '';
  return prefix === '' ? name : `${prefix}/${name}`;
}

function textOf(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  return utf8.decode(end < 0 ? bytes : bytes.subarray(0, end));
}

/** Octal digits, or base 256 when the first bit is set; null when it is neither. */
function octal(block: Uint8Array, at: number, length: number): number | null {
  if (block[at]! & 0x80) {
    let value = block[at]! & 0x3f;
    for (let i = 1; i < length; i++) value = value * 256 + block[at + i]!;
    return value;
  }
  const digits = textOf(block.subarray(at, at + length)).trim();
  if (digits === '') return 0;
  return /^[0-7]+$/.test(digits) ? parseInt(digits, 8) : null;
}

/** In the oldest form of files with holes the parts of the map come as records of the same two names. */
function keep(records: Map<string, string>, key: string, value: string): void {
  if (key !== 'GNU.sparse.offset' && key !== 'GNU.sparse.numbytes') records.set(key, value);
  else {
    const map = records.get('GNU.sparse.map');
    records.set('GNU.sparse.map', map === undefined ? value : `${map},${value}`);
  }
}

/** Records `length key=value\n`, lengths in bytes. */
function paxRecords(bytes: Uint8Array): Map<string, string> {
  const records = new Map<string, string>();
  for (let at = 0; at < bytes.length;) {
    const blank = bytes.indexOf(0x20, at);
    const length = blank < 0 ? NaN : Number(utf8.decode(bytes.subarray(at, blank)));
    if (!Number.isInteger(length) || length <= blank - at || at + length > bytes.length) break;
    const record = utf8.decode(bytes.subarray(blank + 1, at + length - 1));
    const equals = record.indexOf('=');
    if (equals > 0) keep(records, record.slice(0, equals), record.slice(equals + 1));
    at += length;
  }
  return records;
}

export const TAR: PackageFormat = {
  kind: 'tar',
  title: 'tar archive',
  begins: (head) => isTarHeader(head.subarray(0, 512)),
  open: openTar
};
