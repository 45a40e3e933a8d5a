import type { ByteSource } from '../bytes';
import { isBtreePage, isPageKind, fillsItsSize } from '../sqlite';

/** What identifies itself in a raw medium, by its offset. */
export interface MediumFinds {
  /** First bytes of databases. */
  databases: number[];
  /** First bytes of write-ahead logs. */
  logs: number[];
  pages: FoundPage[];
}

/** A page that identifies itself. */
export interface FoundPage {
  offset: number;
  size: number;
  /** Its first byte. */
  kind: number;
}

/** Sectors have at least this many bytes, so that whatever a system wrote begins at a multiple of it. */
const SECTOR = 512;
const CHUNK = 1 << 20;
const LARGEST_PAGE = 65536;
const MAGIC = [...'SQLite format 3\0'].map((char) => char.charCodeAt(0));

/** Reads a medium once from end to end and lists what identifies itself; yields the bytes read so far. */
export function* scanMedium(source: ByteSource): Generator<number, MediumFinds> {
  const finds: MediumFinds = { databases: [], logs: [], pages: [] };
  for (let base = 0; base < source.size; base += CHUNK) {
    // What begins at the end of a chunk reaches into the next one.
    const bytes = source.read(base, CHUNK + LARGEST_PAGE);
    const end = Math.min(CHUNK, bytes.length);
    for (let at = 0; at < end; at += SECTOR) look(bytes, at, base, finds);
    yield Math.min(base + CHUNK, source.size);
  }
  return finds;
}

function look(bytes: Uint8Array, at: number, base: number, finds: MediumFinds): void {
  const kind = bytes[at]!;
  if (kind === MAGIC[0] && MAGIC.every((byte, i) => bytes[at + i] === byte)) {
    finds.databases.push(base + at);
  } else if (kind === 0x37 && isLog(bytes, at)) finds.logs.push(base + at);
  else if (isPageKind(kind)) {
    const size = sizeAt(bytes, at);
    if (size > 0) finds.pages.push({ offset: base + at, size, kind });
  }
}

function isLog(bytes: Uint8Array, at: number): boolean {
  return bytes[at + 1] === 0x7f && bytes[at + 2] === 0x06 && (bytes[at + 3]! & 0xfe) === 0x82;
}

/** The page size under which the bytes from `at` are a b-tree page, or 0. */
function sizeAt(bytes: Uint8Array, at: number): number {
  for (let size = SECTOR; size <= LARGEST_PAGE && at + size <= bytes.length; size *= 2) {
    const page = bytes.subarray(at, at + size);
    if (isBtreePage(page, size) && fillsItsSize(page, size)) return size;
  }
  return 0;
}
