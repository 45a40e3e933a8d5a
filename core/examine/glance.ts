import {
  drain,
  FILE_SYSTEM,
  listSource,
  markOf,
  openListed,
  plainFile,
  type ListedFile,
  type Opening,
  type Tree
} from '../formats';
import type { GlancedPart, PackageFacts, SourceGlance } from '../records';
import type { ReadingProfile } from '../profiles';
import { openNow } from './attachments';
import { failureNote } from './failures';
import { READERS } from './readers';
import { databasesOf, describeOther, isCompanion, kindOf } from './recognise';
import type { SourceInput } from './types';

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
  const databases = databasesOf(tree.files);
  const look = { tree, databases, zone, profiles, rest };
  const parts: GlancedPart[] = [];
  let unseen: string | null = null;
  const seenPaths = new Set<string>();
  for (const { peek } of READERS) {
    const seen = await peek?.(look);
    // As in an examination, what one reader reads is not the next one's.
    for (const part of seen?.parts ?? []) if (!seenPaths.has(part.path)) parts.push(part);
    for (const { path } of parts) seenPaths.add(path);
    unseen ??= seen?.left ?? null;
  }
  const packages: PackageFacts[] = tree.packages.map((pack) => ({ ...pack }));
  const kind = kindOf(tree, databases, input.files.length);
  const seen = { kind, files: tree.files.length, packages, parts };
  if (left.size > 0)
    return {
      ...seen,
      says: saysOf(listing.files.filter(({ path }) => left.has(path))),
      worth: true
    };
  const medium = tree.notes.flatMap(({ code, text }) => (code === FILE_SYSTEM ? [text] : []));
  if (medium.length > 0) return { ...seen, says: medium.join('\n'), worth: true };
  if (parts.length > 0) return { ...seen, says: null, worth: true };
  if (unseen !== null) return { ...seen, says: unseen, worth: true };
  const why = (await reasonFor(tree, input, rest)) ?? { says: null, worth: true };
  return { ...seen, ...why };
}

const LARGE_PACKAGE = 'A large package; it is opened when it is examined.';
const LARGE_MEDIUM = 'Its files, deleted ones too, are listed when it is examined.';

/** What large packages are, where their beginning tells it. */
function saysOf(files: readonly ListedFile[]): string {
  const told = files.flatMap((file) => {
    const source = openNow(file);
    const { format } = markOf(file.head());
    return source && format?.tell ? `${format.tell(source)} ${LARGE_MEDIUM}` : [];
  });
  return told[0] ?? LARGE_PACKAGE;
}

function isLargePackage(file: ListedFile): boolean {
  if ((file.size ?? 0) <= MOST_UNPACKED || file.locked) return false;
  return markOf(file.head()).format !== null;
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
