import { type ByteSource } from '../../host';
import type { DatabaseHeader } from './header';
import type { RollbackJournal } from './journal';
import type { WriteAheadLog } from './wal';

/** Where a page's bytes lie: the file and the offset in it. */
export interface PagePlace {
  source: ByteSource;
  offset: number;
}

/** A page of which less than this is there tells nothing. */
const LEAST_OF_A_PAGE = 64;

/** Pages that lie elsewhere than one behind the other. */
export interface ScatteredPages {
  count: number;
  /** Null where a page is nowhere to be found. */
  place(number: number): PagePlace | null;
  /** Page numbers in cells are those of this set; false for pages picked up one by one. */
  linksHold: boolean;
}

/**
 * The pages of the committed state: the database file, overlaid by the
 * write-ahead log's last commit, or rolled back by a hot journal.
 */
export class PageSet {
  readonly pageSize: number;
  readonly usable: number;
  /** Pages of the committed state that can be there: a header may say anything, a file holds what it holds. */
  readonly pageCount: number;
  /** Pages of the committed state as the header, the log or the journal says. */
  readonly statedCount: number;
  private readonly overlay = new Map<number, PagePlace>();

  constructor(
    readonly file: ByteSource,
    header: DatabaseHeader,
    log: WriteAheadLog | null,
    journal: RollbackJournal | null,
    readonly scattered: ScatteredPages | null = null
  ) {
    this.pageSize = header.pageSize;
    this.usable = header.usable;
    let count = Math.max(inHeaderCount(header), Math.floor(file.size / header.pageSize));
    if (inHeaderCount(header) > 0) count = inHeaderCount(header);
    if (journal?.hot) count = this.rollBack(journal, count);
    if (log && log.committed > 0) count = this.applyLog(log, count);
    this.statedCount = scattered?.count ?? count;
    this.pageCount = Math.min(this.statedCount, scattered?.count ?? this.highest());
  }

  /** Number of the last page that the file or a companion holds, whole or in part. */
  private highest(): number {
    const inFile = Math.ceil(this.file.size / this.pageSize);
    let last = inFile;
    for (const number of this.overlay.keys()) if (number > last) last = number;
    // What lies behind the file's end was appended page by page.
    return Math.min(last, inFile + this.overlay.size);
  }

  private rollBack(journal: RollbackJournal, count: number): number {
    // Playback writes in order, so of several images of one page the last counts.
    for (const { page, offset } of journal.pages) {
      this.overlay.set(page, { source: journal.source, offset });
    }
    return journal.initialPages || count;
  }

  private applyLog(log: WriteAheadLog, count: number): number {
    let size = count;
    for (const frame of log.frames.slice(0, log.committed)) {
      this.overlay.set(frame.page, { source: log.source, offset: frame.offset });
      if (frame.commitSize > 0) size = frame.commitSize;
    }
    // What lay past the last commit's end is an earlier state, however new its frame is.
    for (const number of this.overlay.keys()) if (number > size) this.overlay.delete(number);
    return size;
  }

  /** The page's bytes (shared, do not change) or null when they are not in the file. */
  page(number: number): Uint8Array | null {
    if (this.scattered && !this.overlay.has(number) && !this.scattered.place(number)) return null;
    const place = this.place(number);
    const bytes = place.source.read(place.offset, this.pageSize);
    if (bytes.length === this.pageSize) return bytes;
    return bytes.length < LEAST_OF_A_PAGE ? null : this.padded(bytes);
  }

  /** The same for those who go over the pages once: the bytes stand only until the next such call. */
  passing(number: number): Uint8Array | null {
    const { file, pageSize } = this;
    if (this.scattered || this.overlay.has(number) || !file.passing) return this.page(number);
    const bytes = file.passing((number - 1) * pageSize, pageSize);
    return bytes.length === pageSize ? bytes : this.page(number);
  }

  /** The same for those who ask for pages far apart, whose neighbours need not be read with them. */
  single(number: number): Uint8Array | null {
    const { file, pageSize } = this;
    if (this.scattered || this.overlay.has(number) || !file.single) return this.page(number);
    const bytes = file.single((number - 1) * pageSize, pageSize);
    return bytes.length === pageSize ? bytes : this.page(number);
  }

  /** The last page of a cut file: what is missing reads as zeros, and {@link end} says where that begins. */
  private padded(bytes: Uint8Array): Uint8Array {
    const page = new Uint8Array(this.pageSize);
    page.set(bytes);
    return page;
  }

  /** First byte of a page that is missing from a cut file; the page size for whole pages. */
  end(number: number): number {
    const { source, offset } = this.place(number);
    return Math.max(0, Math.min(this.pageSize, source.size - offset));
  }

  place(number: number): PagePlace {
    const known = this.overlay.get(number) ?? this.scattered?.place(number);
    return known ?? { source: this.file, offset: (number - 1) * this.pageSize };
  }

  /** Where the database file itself holds a page, whatever a companion says; null where it is nowhere to be found. */
  inFile(number: number): PagePlace | null {
    if (this.scattered) return this.scattered.place(number);
    return { source: this.file, offset: (number - 1) * this.pageSize };
  }

  /** Whether the committed state takes this page from a companion file, so that the database file holds an older image. */
  isOverlaid(number: number): boolean {
    return this.overlay.has(number);
  }

  /** Whether page numbers that cells name can be followed. */
  get linksHold(): boolean {
    return this.scattered?.linksHold ?? true;
  }

  inRange(number: number): boolean {
    return number >= 1 && number <= this.pageCount;
  }
}

/** The in-header count is valid only when the change counter matches (1.3.7). */
function inHeaderCount(header: DatabaseHeader): number {
  return header.pageCount > 0 && header.changeCounter === header.versionValidFor
    ? header.pageCount
    : 0;
}
