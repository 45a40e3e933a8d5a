import { ChunkedSource, type ByteSource } from '../../host';
import { Database, type DatabaseFiles } from '../read/database';
import { PAGE_SIZES } from '../format/header';
import { readJournal, type RollbackJournal } from '../format/journal';
import { PageSet, type PagePlace } from '../format/pages';
import type { TableSchema } from '../format/schema';
import { readWal, type WriteAheadLog } from '../format/wal';
import { guessEncoding, syntheticHeader } from './guess-header';
import { isBtreePage } from '../format/page-check';
import type { OpenedDatabase } from './opened';

/**
 * Opens what a log or a journal holds of a database that is not there itself.
 * Null when neither holds a page.
 */
export function openCompanions(
  files: DatabaseFiles,
  known: readonly TableSchema[]
): OpenedDatabase | null {
  const log = files.wal ? readWal(new ChunkedSource(files.wal)) : null;
  if (log && log.frames.length > 0) return openLog(files.main, log, known);
  const journal = files.journal ? journalAlone(new ChunkedSource(files.journal)) : null;
  return journal ? fromJournal(files.main, journal, known) : null;
}

/** Opens what a log holds of a database that is not there; `main` stands for its file. */
export function openLog(
  main: ByteSource,
  log: WriteAheadLog,
  known: readonly TableSchema[]
): OpenedDatabase {
  const committed = log.committed > 0 ? log.frames.slice(0, log.committed) : log.frames;
  const places = new Map(
    committed.map(({ page, offset }) => [page, { source: log.source, offset }])
  );
  const database = openPlaces(main, log.pageSize, places, known, { log, journal: null });
  const text = `${log.source.name} came without its database; the ${places.size} pages that it holds were read.`;
  return { database, told: [text] };
}

function fromJournal(
  main: ByteSource,
  journal: RollbackJournal,
  known: readonly TableSchema[]
): OpenedDatabase {
  const { source, pages, pageSize } = journal;
  const places = new Map(pages.map(({ page, offset }) => [page, { source, offset }]));
  const database = openPlaces(main, pageSize, places, known, { log: null, journal: null });
  const text = `${source.name} came without its database; the ${places.size} pages that it holds are from before its last transaction.`;
  return { database, told: [text] };
}

function openPlaces(
  main: ByteSource,
  size: number,
  places: ReadonlyMap<number, PagePlace>,
  known: readonly TableSchema[],
  files: { log: WriteAheadLog | null; journal: RollbackJournal | null }
): Database {
  // A log holds a part of a database, but not one page in a thousand of it: what is far beyond is damage.
  const most = places.size * SPARSEST + FEW;
  let count = 1;
  for (const number of places.keys()) if (number <= most && number > count) count = number;
  const read = (number: number): Uint8Array => {
    const at = places.get(number);
    return at ? at.source.read(at.offset, size) : new Uint8Array(size);
  };
  const header = syntheticHeader(size, count, guessEncoding(read, count, size));
  const place = (number: number): PagePlace | null => places.get(number) ?? null;
  const set = new PageSet(main, header, null, null, { count, place, linksHold: true });
  return Database.openUnder(header, set, known, files);
}

const SPARSEST = 1000;
const FEW = 100_000;

/** A journal whose header was zeroed does not say its page size: the images themselves do. */
function journalAlone(source: ByteSource): RollbackJournal | null {
  for (const size of PAGE_SIZES) {
    const journal = readJournal(source, size);
    const images = journal?.pages ?? [];
    const whole = images.filter(({ page, offset }) =>
      isBtreePage(source.read(offset, journal!.pageSize), journal!.pageSize, page)
    );
    if (whole.length > 0 && whole.length * 2 >= images.length) return journal;
  }
  return null;
}
