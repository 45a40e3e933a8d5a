import { readExactly, u32be, type ByteSource } from '../../host';
import { isPageSize } from './header';

/** One page image of a rollback journal (file format, section 3). */
export interface JournalPage {
  page: number;
  /** Offset of the page image in the journal file. */
  offset: number;
  checksumHolds: boolean;
}

export interface RollbackJournal {
  source: ByteSource;
  pageSize: number;
  /** Database size in pages before the transaction; 0 when the header was zeroed. */
  initialPages: number;
  /** A hot journal must be rolled back before anything is called live. */
  hot: boolean;
  pages: JournalPage[];
}

const MAGIC = [0xd9, 0xd5, 0x05, 0xf9, 0x20, 0xa1, 0x63, 0xd7];
const HEADER = 28;

interface Segment {
  /** Where the records start. */
  start: number;
  count: number;
  nonce: number;
}

/**
 * Reads a rollback journal. `pageSize` is the database's: a journal whose
 * header was zeroed (PERSIST mode) no longer says it. Returns null when there
 * is nothing to read.
 */
export function readJournal(source: ByteSource, pageSize: number): RollbackJournal | null {
  if (source.size < 512) return null;
  const head = readExactly(source, 0, HEADER).slice();
  if (!startsWithMagic(head)) return readZeroed(source, head, pageSize);
  const declared = u32be(head, 24);
  const size = isPageSize(declared) ? declared : pageSize;
  const journal: RollbackJournal = {
    source,
    pageSize: size,
    initialPages: u32be(head, 16),
    hot: true,
    pages: []
  };
  const sector = Math.max(u32be(head, 20), 512);
  readSegments(journal, sector);
  return journal;
}

/** Segments follow each other at sector bounds, each with a header of its own. */
function readSegments(journal: RollbackJournal, sector: number): void {
  const { source, pageSize } = journal;
  let at = 0;
  while (at + HEADER <= source.size) {
    const head = readExactly(source, at, HEADER).slice();
    if (!startsWithMagic(head)) return;
    const start = at + sector;
    const room = Math.max(0, Math.floor((source.size - start) / (pageSize + 8)));
    const declared = u32be(head, 8);
    const count = declared === 0xffffffff ? room : Math.min(declared, room);
    if (!readRecords(journal, { start, count, nonce: u32be(head, 12) })) return;
    at = Math.ceil((start + count * (pageSize + 8)) / sector) * sector;
  }
}

/** Playback stops at the first record whose checksum fails (section 3). */
function readRecords(journal: RollbackJournal, segment: Segment): boolean {
  const { source, pageSize } = journal;
  for (let i = 0; i < segment.count; i++) {
    const at = segment.start + i * (pageSize + 8);
    const record = readExactly(source, at, pageSize + 8);
    const holds = recordSum(record, segment.nonce, pageSize) === u32be(record, pageSize + 4);
    if (!holds) return false;
    journal.pages.push({ page: u32be(record, 0), offset: at + 4, checksumHolds: true });
  }
  return true;
}

/** PERSIST mode zeroes the header only; the images behind it are states from before the last transaction. */
function readZeroed(
  source: ByteSource,
  head: Uint8Array,
  pageSize: number
): RollbackJournal | null {
  if (head.some((byte) => byte !== 0)) return null;
  const journal: RollbackJournal = { source, pageSize, initialPages: 0, hot: false, pages: [] };
  for (let at = 512; at + pageSize + 8 <= source.size; at += pageSize + 8) {
    const page = u32be(source.read(at, 4), 0);
    if (page === 0) break;
    journal.pages.push({ page, offset: at + 4, checksumHolds: false });
  }
  return journal;
}

function recordSum(record: Uint8Array, nonce: number, pageSize: number): number {
  let sum = nonce;
  for (let i = pageSize - 200; i > 0; i -= 200) sum += record[4 + i]!;
  return sum >>> 0;
}

function startsWithMagic(head: Uint8Array): boolean {
  return MAGIC.every((byte, i) => head[i] === byte);
}
