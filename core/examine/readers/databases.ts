import { append } from '../../host';
import type { GlancedPart } from '../../records';
import {
  openDatabase,
  SqliteFormatError,
  type Database,
  type DatabaseFiles,
  type SqlValue
} from '../../sqlite';
import {
  fittingProfiles,
  inZone,
  READ_FROM,
  sampleDatabase,
  tableOfRows,
  timesOf,
  workOut,
  type ReadingProfile
} from '../../profiles';
import { openNow } from '../attachments';
import type { Examination } from '../examination';
import { databasesOf, type Candidate } from '../recognise';
import { deletedStore } from '../notes';
import type { PassEvent } from '../types';
import { damagedDatabases } from './raw-data';
import { MOST_LOOKED, type StoreReader } from './reader';

/** SQLite databases, with their logs and journals, and files that are such although their first page is damaged. */
export const DATABASES: StoreReader = {
  id: 'database',

  async *find(exam) {
    const { tree, databases } = exam;
    append(databases, databasesOf(tree.files));
    if (exam.request.depth === 'indexed') return;
    const work = damagedDatabases(tree, databases, exam.request.depth === 'whole');
    let step = work.next();
    for (; !step.done; step = work.next()) if (exam.pace.due) await exam.pace.rest();
    append(databases, step.value);
  },

  async *read(exam) {
    const { databases, progress } = exam;
    progress.beginStores(databases.map(({ main }) => main.file.size ?? 0));
    // Those that a known profile reads say what tables mean in the others.
    const waiting: Candidate[] = [];
    const isAlone = databases.length === 1;
    for (const one of databases) if (yield* readOr(exam, one, !isAlone)) waiting.push(one);
    for (const one of waiting) yield* readOr(exam, one, false);
  },

  async peek({ databases, zone, profiles, rest }) {
    const parts: GlancedPart[] = [];
    for (const database of databases.slice(0, MOST_LOOKED)) {
      const part = databasePart(database, zone, profiles);
      if (part) parts.push(part);
      await rest();
    }
    return { parts, left: null };
  }
};

/** Whether the database waits for the others. */
async function* readOr(
  exam: Examination,
  database: Candidate,
  mayWait: boolean
): AsyncGenerator<PassEvent, boolean> {
  const { file } = database.main;
  exam.progress.beginStore(file.size ?? 0);
  const waits = yield* exam.guard(readOne(exam, database, mayWait), false, file.path);
  if (waits) exam.progress.postponeStore();
  if (exam.pace.due) await exam.pace.rest();
  return waits;
}

async function* readOne(
  exam: Examination,
  { main, wal, journal }: Candidate,
  mayWait: boolean
): AsyncGenerator<PassEvent, boolean> {
  for (const part of [main, wal, journal]) if (part) exam.used.add(part.file.origin);
  const files: DatabaseFiles = { main: yield* exam.openFile(main) };
  if (wal) files.wal = yield* exam.openFile(wal);
  if (journal) files.journal = yield* exam.openFile(journal);
  const { path, modifiedAt, deleted } = main.file;
  const waits = yield* exam.database({ files, path, mayWait, modifiedAt });
  if (deleted && !waits) yield exam.note(deletedStore(path, deleted));
  return waits;
}

/** Rows of a store that are counted one by one; of more it is said that there are more. */
const MOST_COUNTED = 20_000;
/** Databases whose tables no profile knows are worked out up to this size. */
const MOST_WORKED_OUT = 64 << 20;

/** What a database holds, by the profile that reads it; null where no table of it is of interest. */
function databasePart(
  { main, wal, journal }: Candidate,
  zone: string,
  profiles: readonly ReadingProfile[]
): GlancedPart | null {
  const { path, size } = main.file;
  const beside = [wal && 'a log', journal && 'a journal'].filter((word) => word !== undefined);
  const sources = { main: openNow(main.file), wal: wal && openNow(wal.file) };
  if (!sources.main) return null;
  try {
    const files = { main: sources.main, ...(sources.wal ? { wal: sources.wal } : {}) };
    const { database } = openDatabase(files, []);
    const [known] = fittingProfiles(database.tables, profiles);
    const worked = known || (size ?? 0) > MOST_WORKED_OUT ? null : workedOut(database, path);
    const profile = known?.profile ?? worked;
    if (!profile) return null;
    const title = known ? known.profile.title : 'tables that no profile knows';
    return { path, title, beside, ...extentOf(database, inZone(profile, zone)) };
  } catch (error) {
    if (!(error instanceof SqliteFormatError)) throw error;
    return null;
  }
}

function workedOut(database: Database, path: string): ReadingProfile | null {
  const sampling = sampleDatabase(database);
  let step = sampling.next();
  while (!step.done) step = sampling.next();
  const found = workOut(step.value, { path });
  return found && found.fit >= READ_FROM ? found.profile : null;
}

type Extent = Pick<GlancedPart, 'count' | 'isMore' | 'what' | 'from' | 'to'>;

/** How many rows the main table has, and between which moments. */
function extentOf(database: Database, profile: ReadingProfile): Extent {
  const [mapping] = [...profile.messages, ...(profile.calls ?? []), ...(profile.contacts ?? [])];
  const what = profile.messages.length > 0 ? 'messages' : profile.calls ? 'calls' : 'contacts';
  const schema = database.tables.find(({ name }) => name === mapping?.table);
  if (!mapping || !schema) return { what, count: 0, isMore: false, from: null, to: null };
  const rows: SqlValue[][] = [];
  let isMore = false;
  for (const row of database.rows(schema)) {
    isMore = rows.length >= MOST_COUNTED;
    if (isMore) break;
    rows.push(row.values);
  }
  const span = spanOf(timesOf(mapping, tableOfRows(schema, rows)));
  return {
    what,
    count: rows.length,
    isMore,
    from: span?.from ?? null,
    to: isMore ? null : (span?.to ?? null)
  };
}

function spanOf(times: Iterable<number>): { from: number; to: number } | null {
  let [from, to] = [Infinity, -Infinity];
  for (const at of times) {
    from = Math.min(from, at);
    to = Math.max(to, at);
  }
  return from <= to ? { from, to } : null;
}
