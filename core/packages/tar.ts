import { SliceSource, type ByteSource } from '../bytes';
import { safePath } from './paths';
import { emptyPackage, plainFile, warning, type OpenedPackage, type PackageStep } from './types';

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
    if (this.renamed > 0) {
      const text = `${this.renamed} entries of ${this.tar.name} name paths outside it; they are listed below it.`;
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
    const text = `${this.tar.name}: ${this.at - from} bytes at offset ${from} are damaged and were passed over.`;
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
    const safe = safePath(this.pax.get('path') ?? this.longName ?? headerName(block));
    if (!safe || safe.path.endsWith('/')) return;
    if (safe.changed) this.renamed++;
    const path = this.prefix + safe.path;
    if (there < size) {
      const text = `${path} is cut: ${there} of ${size} bytes are in the archive.`;
      this.result.notes.push(warning('truncated', text, path));
    }
    const seconds = Number(this.pax.get('mtime') ?? octal(block, 136, 12) ?? NaN);
    const modifiedAt = Number.isFinite(seconds) ? Math.round(seconds * 1000) : null;
    const source = new SliceSource(path, this.tar, start, there);
    this.result.files.push(plainFile(path, source, modifiedAt));
  }
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

/** Records `length key=value\n`, lengths in bytes. */
function paxRecords(bytes: Uint8Array): Map<string, string> {
  const records = new Map<string, string>();
  for (let at = 0; at < bytes.length;) {
    const blank = bytes.indexOf(0x20, at);
    const length = blank < 0 ? NaN : Number(utf8.decode(bytes.subarray(at, blank)));
    if (!Number.isInteger(length) || length <= blank - at || at + length > bytes.length) break;
    const record = utf8.decode(bytes.subarray(blank + 1, at + length - 1));
    const equals = record.indexOf('=');
    if (equals > 0) records.set(record.slice(0, equals), record.slice(equals + 1));
    at += length;
  }
  return records;
}
