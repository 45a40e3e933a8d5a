import { ChunkedSource, type ByteSource } from '../../host';
import type { Database } from '../read/database';
import type { PageSet } from '../format/pages';
import type { WalFrame, WriteAheadLog } from '../format/wal';

/** A page as some file holds it, now or from an earlier state. */
export interface PageImage {
  number: number;
  source: ByteSource;
  offset: number;
  origin: 'current' | 'replaced' | 'log' | 'journal';
  /** Pages as they stood when this image was current, for its overflow chains. */
  pageAt: (number: number) => Uint8Array | null;
}

/** Page numbers, both included. */
export interface PageRange {
  from: number;
  to: number;
}

/** Says of which pages images are wanted. */
export type PageTest = (number: number) => boolean;

const ALL: PageTest = () => true;

/** Every page image in the database's files, the current ones first, each byte once; of the current ones those that are asked for. */
export function* pageImages(database: Database, isAsked = ALL): Generator<PageImage> {
  yield* currentImages(database, { from: 1, to: database.pages.pageCount }, isAsked);
  yield* otherImages(database);
}

/** Pages of the committed state that are asked for. */
export function* currentImages(
  { pages }: Database,
  { from, to }: PageRange,
  isAsked = ALL
): Generator<PageImage> {
  const current = (number: number): Uint8Array | null => pages.page(number);
  for (let number = from; number <= to; number++) {
    if (!isAsked(number)) continue;
    yield { number, ...pages.place(number), origin: 'current', pageAt: current };
  }
}

/** What the log, the journal and the file itself hold of other states. */
export function* otherImages(database: Database): Generator<PageImage> {
  const { pages, log, journal } = database;
  const current = (number: number): Uint8Array | null => pages.page(number);
  const inFile = pages.scattered?.count ?? Math.floor(pages.file.size / pages.pageSize);
  const fromFile = fileReader(pages);
  for (let number = 1; number <= inFile; number++) {
    if (number <= pages.pageCount && !pages.isOverlaid(number)) continue;
    const place = pages.inFile(number);
    if (place) yield { number, ...place, origin: 'replaced', pageAt: fromFile };
  }
  if (log) yield* logImages(database, log, fromFile);
  for (const { page, offset } of journal?.pages ?? []) {
    if (isCurrent(database, page, journal!.source, offset)) continue;
    yield { number: page, source: journal!.source, offset, origin: 'journal', pageAt: current };
  }
}

function* logImages(
  database: Database,
  log: WriteAheadLog,
  fromFile: (number: number) => Uint8Array | null
): Generator<PageImage> {
  const history = new LogHistory(log, fromFile);
  for (const frame of log.frames) {
    if (frame.page === 0 || isCurrent(database, frame.page, log.source, frame.offset)) continue;
    const pageAt = (number: number): Uint8Array | null => history.pageAt(number, frame.index);
    yield { number: frame.page, source: log.source, offset: frame.offset, origin: 'log', pageAt };
  }
}

function isCurrent(database: Database, page: number, source: ByteSource, offset: number): boolean {
  const place = database.pages.place(page);
  return place.source === source && place.offset === offset;
}

function fileReader(pages: PageSet): (number: number) => Uint8Array | null {
  const { file, pageSize } = pages;
  const source = new ChunkedSource(file, 8);
  return (number) => {
    const place = pages.inFile(number);
    const bytes = place && source.read(place.offset, pageSize);
    return bytes?.length === pageSize ? bytes : null;
  };
}

/** Answers what a page held at a given frame: its newest frame up to the end of that transaction. */
class LogHistory {
  private readonly byPage = new Map<number, WalFrame[]>();
  private readonly transactionEnd: number[] = [];

  constructor(
    private readonly log: WriteAheadLog,
    private readonly fromFile: (number: number) => Uint8Array | null
  ) {
    for (const frame of log.frames) {
      const list = this.byPage.get(frame.page);
      if (list) list.push(frame);
      else this.byPage.set(frame.page, [frame]);
    }
    let end = log.frames.length - 1;
    for (let i = log.frames.length - 1; i >= 0; i--) {
      if (log.frames[i]!.commitSize > 0) end = i;
      this.transactionEnd[i] = end;
    }
  }

  pageAt(number: number, frame: number): Uint8Array | null {
    const end = this.transactionEnd[frame]!;
    const found = this.byPage.get(number)?.findLast((f) => f.index <= end);
    if (!found) return this.fromFile(number);
    return this.log.source.read(found.offset, this.log.pageSize);
  }
}
