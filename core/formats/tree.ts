import { append, isExhausted, SliceSource, systemReason, type ByteSource } from '../host';
import type { Device, Note } from '../records';
import { SqliteFormatError } from '../sqlite';
import { findBackups, isHashFolder } from './backup/find';
import { openBackup } from './backup/open';
import { markOf, type FileMark, type Marked } from './mark';
import { formatWithin } from './registry';
import { joinParts } from './split';
import {
  PackageError,
  warning,
  type ListedFile,
  type Lock,
  type OpenedPackage,
  type Opening,
  type PackageKind,
  type PackageStep
} from './types';

/** A file of a source, at whatever nesting, with what its first bytes show. */
export interface TreeFile {
  file: ListedFile;
  mark: FileMark;
}

/** A package that was found, opened or not. */
export interface TreePackage {
  path: string;
  kind: PackageKind;
  files: number;
  lock: Lock | null;
}

/** Everything that a source holds, packages opened. */
export interface Tree {
  files: TreeFile[];
  packages: TreePackage[];
  device: Partial<Device>;
  notes: Note[];
}

/** Packages inside packages beyond this are left closed. */
const DEEPEST = 8;
const MOST_PACKAGES = 20_000;
const MOST_FILES = 4_000_000;

/** What a source lists, before its files are looked into. */
export interface SourceListing {
  files: ListedFile[];
  /** Backups that were recognised by their manifests. */
  tree: Tree;
}

/**
 * Recognises the backups of a source and lists its files under their real
 * paths. No file but the manifests is read, so this is quick for any size.
 */
export function* listSource(
  name: string,
  files: ListedFile[],
  opening: Opening
): Generator<PackageStep, SourceListing> {
  const tree: Tree = { files: [], packages: [], device: {}, notes: [] };
  const whole = joinParts(files);
  if (whole.length < files.length) tree.notes.push(joinedNote(files.length, whole.length));
  const found = yield* openBackups(whole, tree, opening);
  if (isHashFolder(name, files)) {
    const text = `${name} looks like one of the numbered folders of a backup: its files lie there without their names. Choose the folder above it, which holds the backup's listing.`;
    tree.notes.unshift(warning('inside-backup', text, null));
  }
  return { files: found, tree };
}

function joinedNote(before: number, after: number): Note {
  const text = `Files that are numbered parts of one file were joined: ${before} files make ${after}.`;
  return { level: 'info', code: 'parts-joined', text, path: null };
}

/** Looks into the files of a listing: opens archives by their first bytes, and what lies inside them likewise. */
export function* openListed(
  listing: SourceListing,
  opening: Opening,
  skips: (path: string) => boolean = () => false
): Generator<PackageStep, Tree> {
  const builder = new TreeBuilder(listing.tree, opening, skips);
  yield* builder.look(listing.files, 0);
  return listing.tree;
}

/** Opens a source as far as it goes. */
export function* openTree(
  name: string,
  files: ListedFile[],
  opening: Opening
): Generator<PackageStep, Tree> {
  return yield* openListed(yield* listSource(name, files, opening), opening);
}

/** Opens the backups among files; in their place stand the files that they list. */
function* openBackups(
  files: ListedFile[],
  tree: Tree,
  opening: Opening
): Generator<PackageStep, ListedFile[]> {
  const places = findBackups(files);
  if (places.length === 0) return files;
  let rest = files;
  let listed: ListedFile[] = [];
  for (const place of places) {
    const path = place.folder.replace(/\/$/, '');
    if (place.folder !== '') {
      const text = `The backup lies in the folder ${path} of what was chosen.`;
      tree.notes.push({ level: 'info', code: 'folder-level', text, path });
    }
    const opened = yield* attempt(tree, path, () => openBackup(place, files, opening));
    if (!opened) continue;
    took(tree, path, opened);
    listed = listed.concat(opened.files);
    rest = rest.filter((file) => !isStored(file.path, place.folder));
  }
  return [...listed, ...rest];
}

function took(tree: Tree, path: string, opened: OpenedPackage): void {
  const { kind, lock, files } = opened;
  tree.packages.push({ path, kind, lock, files: files.length });
  append(tree.notes, opened.notes);
  for (const [key, value] of Object.entries(opened.device)) {
    const known = tree.device as Record<string, unknown>;
    known[key] ??= value;
  }
}

/** Damage in one package is noted and does not hinder the rest. */
function* attempt(
  tree: Tree,
  path: string,
  open: () => Generator<PackageStep, OpenedPackage>
): Generator<PackageStep, OpenedPackage | null> {
  try {
    return yield* open();
  } catch (error) {
    tree.notes.push(unopened(error, path));
    return null;
  }
}

/** An image comes by itself or with few others; in more files nothing is looked for behind their beginnings. */
const FEW = 4;

class TreeBuilder {
  private full = false;
  private areFew = false;
  private readonly paths = new Set<string>();

  constructor(
    private readonly tree: Tree,
    private readonly opening: Opening,
    private readonly skips: (path: string) => boolean
  ) {}

  *look(files: ListedFile[], depth: number): Generator<PackageStep, void> {
    if (depth === 0) this.areFew = files.length <= FEW;
    for (const [n, file] of files.entries()) {
      if (n % 512 === 511) yield { stage: 'unpack', done: n, total: files.length };
      yield* this.file(file, depth);
    }
  }

  private *file(file: ListedFile, depth: number): Generator<PackageStep, void> {
    if (this.tree.files.length >= MOST_FILES) return this.overflow();
    const marked = this.markOf(file);
    if (marked) yield* this.marked(this.named(file), marked, depth);
  }

  /** A package can hold two files of one path; the later ones get a number, so that each is read as itself. */
  private named(file: ListedFile): ListedFile {
    let path = file.path;
    for (let n = 2; this.paths.has(path); n++) path = numbered(file.path, n);
    this.paths.add(path);
    return path === file.path ? file : renamed(file, path);
  }

  private *marked(
    file: ListedFile,
    { mark, format }: Marked,
    depth: number
  ): Generator<PackageStep, void> {
    this.tree.files.push({ file, mark });
    if (!format) return;
    if (depth >= DEEPEST || this.tree.packages.length >= MOST_PACKAGES) {
      const text = `${file.path} lies too deep inside other archives and was not opened.`;
      if (this.tree.notes.filter((note) => note.code === 'nesting').length < 5)
        this.tree.notes.push(warning('nesting', text, file.path));
      return;
    }
    const { opening, tree } = this;
    const opened = yield* attempt(tree, file.path, function* () {
      return yield* format.open(yield* file.open(), `${file.path}/`, opening);
    });
    if (!opened) return;
    took(tree, file.path, opened);
    for (const inner of opened.files) inner.origin = file.origin;
    yield* this.look(yield* openBackups(opened.files, tree, opening), depth + 1);
  }

  /** Null where the system refuses the file, which is noted. */
  private markOf(file: ListedFile): Marked | null {
    if (file.locked || this.skips(file.path)) return { mark: 'other', format: null };
    try {
      const marked = markOf(file.head());
      if (marked.mark !== 'other' || !file.verbatim || !this.areFew) return marked;
      const format = formatWithin(drain(file.open()));
      return format ? { mark: 'package', format } : marked;
    } catch (error) {
      if (systemReason(error) === null) throw error;
      this.tree.notes.push(unopened(error, file.path));
      return null;
    }
  }

  private overflow(): void {
    if (this.full) return;
    this.full = true;
    const text = `The source lists more than ${MOST_FILES} files; the rest was left out.`;
    this.tree.notes.push(warning('too-many-files', text, null));
  }
}

/** What is to be said of what could not be opened. @throws what is neither damage nor the system's. */
function unopened(error: unknown, path: string): Note {
  const refused = systemReason(error);
  const level = isExhausted(error) ? 'error' : 'warning';
  if (refused !== null) return { level, code: 'unreadable', text: `${path} ${refused}.`, path };
  const text = `${path || 'The backup'} could not be opened: ${damageOf(error)}.`;
  return { level, code: 'damaged', text, path };
}

function damageOf(error: unknown): string {
  if (error instanceof PackageError) return error.reason;
  if (error instanceof SqliteFormatError) return 'its list of files is damaged';
  throw error;
}

/** A path with a number before its ending. */
function numbered(path: string, n: number): string {
  const name = path.lastIndexOf('/') + 1;
  const dot = path.indexOf('.', name + 1);
  return dot < 0 ? `${path} (${n})` : `${path.slice(0, dot)} (${n})${path.slice(dot)}`;
}

/** The same file under another path. */
function renamed(file: ListedFile, path: string): ListedFile {
  const open = function* (): Generator<PackageStep, ByteSource> {
    const source = yield* file.open();
    return new SliceSource(path, source, 0, source.size);
  };
  return {
    path,
    origin: file.origin,
    verbatim: false,
    size: file.size,
    modifiedAt: file.modifiedAt,
    createdAt: file.createdAt,
    locked: file.locked,
    head: () => file.head(),
    open
  };
}

const STORED = /^([0-9a-f]{2}\/)?[0-9a-f]{40}$/;

/** Files of a backup under their stored names; the listing names them better. */
function isStored(path: string, folder: string): boolean {
  return path.startsWith(folder) && STORED.test(path.slice(folder.length));
}

/** Runs an opening to its end, for where nothing waits in between: without keys, or with such as were derived before. */
export function drain<T>(work: Generator<PackageStep, T>): T {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    if (step.value.until) throw new Error('A key that takes long to derive was asked for at once.');
  }
}

/** Runs an opening to its end, waiting for what is derived beside it. */
export async function drainAsync<T>(work: Generator<PackageStep, T>): Promise<T> {
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
    await step.value.until;
  }
}
