import {
  drain,
  listSource,
  markOf,
  openListed,
  plainFile,
  type ListedFile,
  type Opening,
  type Tree
} from '../packages';
import type { GlancedPart, PackageFacts, SourceGlance } from '../records';
import { openDatabase, SqliteFormatError, type Database, type SqlValue } from '../sqlite';
import {
  fittingProfiles,
  inZone,
  READ_FROM,
  sampleDatabase,
  tableOfRows,
  timesOf,
  workOut,
  type ReadingProfile
} from '../stores';
import { openNow } from './attachments';
import { findCard } from './card';
import { failureNote } from './failures';
import { glancedTexts } from './glance-texts';
import { databasesOf, describeOther, isCompanion, kindOf, type Candidate } from './recognise';
import type { SourceInput } from './types';

/** Rows of a store that are counted one by one; of more it is said that there are more. */
const MOST_COUNTED = 20_000;
/** Databases of a source that are looked into; an examination looks into all. */
const MOST_LOOKED = 12;
/** Databases whose tables no profile knows are worked out up to this size. */
const MOST_WORKED_OUT = 64 << 20;
/** Packed files past this size are named, not unpacked. */
const MOST_UNPACKED = 64 << 20;

/**
 * Looks at a source without examining it: what it is, which stores it holds,
 * about how much is in them. Yields between its steps; nothing is searched
 * and nothing hashed.
 */
export async function glanceAt(
  input: SourceInput,
  opening: Opening,
  zone: string,
  profiles: readonly ReadingProfile[],
  rest: () => Promise<void>
): Promise<SourceGlance> {
  const files = input.files.map((file) => plainFile(file.name, file));
  const listing = drain(listSource(input.name, files, opening));
  // Looking into large packages means unpacking them, which is the pass's work.
  const left = new Set(listing.files.filter(isLargePackage).map(({ path }) => path));
  await rest();
  const tree = drain(openListed(listing, opening, (path) => left.has(path)));
  await rest();
  const candidates = databasesOf(tree.files);
  const parts: GlancedPart[] = [];
  for (const candidate of candidates.slice(0, MOST_LOOKED)) {
    const part = databasePart(candidate, zone, profiles);
    if (part) parts.push(part);
    await rest();
  }
  const texts = await glancedTexts(tree, zone, rest);
  parts.push(...cardPart(tree), ...texts.parts);
  const packages: PackageFacts[] = tree.packages.map((pack) => ({ ...pack }));
  const kind = kindOf(tree, candidates, input.files.length);
  const seen = { kind, files: tree.files.length, packages, parts };
  if (left.size > 0) return { ...seen, says: LARGE_PACKAGE, worth: true };
  if (parts.length > 0) return { ...seen, says: null, worth: true };
  if (texts.isMore) return { ...seen, says: LONG_TEXTS, worth: true };
  const why = (await reasonFor(tree, input, rest)) ?? { says: null, worth: true };
  return { ...seen, ...why };
}

const LARGE_PACKAGE = 'A large package; it is opened when it is examined.';
const LONG_TEXTS = 'Text of some length; whether it holds messages shows when it is examined.';

function isLargePackage(file: ListedFile): boolean {
  if ((file.size ?? 0) <= MOST_UNPACKED || file.locked) return false;
  return PACKAGES.includes(markOf(file.head()));
}

const PACKAGES = ['zip', 'gzip', 'tar', 'ab', 'sealed'];

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

function cardPart(tree: Tree): GlancedPart[] {
  const card = findCard(tree.files);
  if (!card) return [];
  const { messages, contacts } = card.reading;
  const isText = messages.length > 0;
  return [
    {
      path: card.path,
      title: 'card',
      beside: [],
      what: isText ? 'messages' : 'contacts',
      count: isText ? messages.length : contacts.length,
      isMore: false,
      from: null,
      to: null
    }
  ];
}

/** Why a source holds nothing that could be told at a glance, whether examining it may show more, and how deep. */
async function reasonFor(
  tree: Tree,
  { name }: SourceInput,
  rest: () => Promise<void>
): Promise<Pick<SourceGlance, 'says' | 'worth' | 'depth'> | null> {
  if (tree.packages.some(({ lock }) => lock !== null))
    return { says: 'It is locked.', worth: false };
  const own = tree.files.filter((file) => !isCompanion(file));
  const [first] = own;
  if (tree.files.length === 0) return { says: `${name} holds no files.`, worth: false };
  if (own.length > 1 || tree.packages.length > 0 || !first) return null;
  if (first.mark === 'database') {
    const says =
      'A database without a recognised table of messages; an examination also looks for deleted ones.';
    return { says, worth: true };
  }
  const { note, mayHold } = await describeOther(first.file);
  if (first.mark !== 'other' || !mayHold) return { says: note.text, worth: false };
  return rawReason(first.file, note.text, rest);
}

/** Bytes of a raw file in which the beginning of a database is looked for. */
const MOST_SEARCHED = 64 << 20;
const STEP = 1 << 20;
const MAGIC = new TextEncoder().encode('SQLite format 3\0');

/** What cannot be told by its beginning is searched byte by byte when it is examined. */
async function rawReason(
  file: ListedFile,
  told: string,
  rest: () => Promise<void>
): Promise<Pick<SourceGlance, 'says' | 'worth' | 'depth'>> {
  const source = openNow(file);
  const most = Math.min(source?.size ?? 0, MOST_SEARCHED);
  for (let at = 0; source && at < most; at += STEP) {
    const found = placeIn(source.read(at, STEP + MAGIC.length - 1));
    if (found >= 0) {
      const place = (at + found).toLocaleString('en');
      const says = `${file.path} is a raw image: a database begins at byte ${place}. The image is searched byte by byte when it is examined.`;
      return { says, worth: true, depth: 'whole' };
    }
    await rest();
  }
  return {
    says: `${told} It is searched byte by byte when it is examined.`,
    worth: true,
    depth: 'whole'
  };
}

/** Where the first bytes of a database stand; -1 where they do not. */
function placeIn(bytes: Uint8Array): number {
  for (let at = bytes.indexOf(MAGIC[0]!); at >= 0; at = bytes.indexOf(MAGIC[0]!, at + 1))
    if (MAGIC.every((byte, i) => bytes[at + i] === byte)) return at;
  return -1;
}

/** What went wrong while looking, as the glance that says so; examining it will say more. */
export function failedGlance(error: unknown, name: string): SourceGlance {
  const says = failureNote(error, name, true).text;
  return { kind: 'unrecognised', files: 0, packages: [], parts: [], says, worth: true };
}
