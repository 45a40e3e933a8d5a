import { u16be, u32be, type ByteSource, type TextEncoding } from '../../host';
import { SqliteFormatError } from './errors';

/** The database header: SQLite file format, section 1.3. */
export interface DatabaseHeader {
  pageSize: number;
  /** Bytes at the end of each page that SQLite leaves to extensions (1.3.4). */
  reserved: number;
  /** `pageSize - reserved`. */
  usable: number;
  /** In-header size in pages; 0 when the writer did not keep it (1.3.7). */
  pageCount: number;
  changeCounter: number;
  versionValidFor: number;
  freelistTrunk: number;
  freelistCount: number;
  /** Schema format 1 to 4; serial types 8 and 9 exist only in 4 (1.3.9). */
  schemaFormat: number;
  encoding: TextEncoding;
  /** Set when the file has pointer-map pages (1.8). */
  autoVacuum: boolean;
  walMode: boolean;
}

const MAGIC = 'SQLite format 3\0';
export const HEADER_SIZE = 100;

function hasMagic(bytes: Uint8Array): boolean {
  if (bytes.length < MAGIC.length) return false;
  for (let i = 0; i < MAGIC.length; i++) if (bytes[i] !== MAGIC.charCodeAt(i)) return false;
  return true;
}

/**
 * Parses the first 100 bytes.
 * @throws SqliteFormatError when this is no database header.
 */
export function parseHeader(bytes: Uint8Array, file: string): DatabaseHeader {
  if (bytes.length === 0) throw new SqliteFormatError(file, 0, 'empty');
  if (!hasMagic(bytes)) throw new SqliteFormatError(file, 0, 'not-a-database');
  if (bytes.length < HEADER_SIZE) throw new SqliteFormatError(file, bytes.length, 'too-short');
  const rawSize = u16be(bytes, 16);
  const pageSize = rawSize === 1 ? 65536 : rawSize;
  const reserved = bytes[20]!;
  if (!isPageSize(pageSize) || pageSize - reserved < 480) {
    throw new SqliteFormatError(file, 16, 'bad-page-size');
  }
  return {
    pageSize,
    reserved,
    usable: pageSize - reserved,
    pageCount: u32be(bytes, 28),
    changeCounter: u32be(bytes, 24),
    versionValidFor: u32be(bytes, 92),
    freelistTrunk: u32be(bytes, 32),
    freelistCount: u32be(bytes, 36),
    schemaFormat: u32be(bytes, 44),
    encoding: encodingOf(u32be(bytes, 56)),
    autoVacuum: u32be(bytes, 52) !== 0,
    walMode: bytes[18] === 2
  };
}

/** The header at an offset, or null when there is none that can be read. */
export function headerAt(source: ByteSource, offset: number): DatabaseHeader | null {
  try {
    return parseHeader(source.read(offset, HEADER_SIZE), source.name);
  } catch (error) {
    if (error instanceof SqliteFormatError) return null;
    throw error;
  }
}

/** All sizes that a page can have, in bytes (file format, section 1.3.2). */
export const PAGE_SIZES = [512, 1024, 2048, 4096, 8192, 16384, 32768, 65536];

export function isPageSize(size: number): boolean {
  return PAGE_SIZES.includes(size);
}

function encodingOf(code: number): TextEncoding {
  if (code === 2) return 'utf-16le';
  if (code === 3) return 'utf-16be';
  return 'utf-8';
}
