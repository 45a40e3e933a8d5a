import { fileTypeFromBuffer } from 'file-type';
import { decodeStrict, isPlausibleText, MemorySource } from '../host';
import { plainFile, type ListedFile, type Tree, type TreeFile } from '../formats';
import type { Note } from '../records';
import { SqliteFormatError, type SqliteProblem } from '../sqlite';

/** A database of a source with its log and journal. */
export interface Candidate {
  main: TreeFile;
  wal: TreeFile | undefined;
  journal: TreeFile | undefined;
}

const COMPANION = /-(wal|journal|shm)$/;

/** Finds the databases and puts their logs and journals beside them. */
export function databasesOf(files: TreeFile[]): Candidate[] {
  const byPath = new Map(files.map((file) => [file.file.path, file]));
  const candidates: Candidate[] = [];
  for (const main of files) {
    const { path } = main.file;
    const base = path.replace(COMPANION, '');
    if (base !== path && byPath.has(base)) continue;
    if (isLoneCompanion(main)) candidates.push(withoutMain(main, base));
    const candidate = beside(main, byPath);
    if (main.mark === 'database' || candidate.wal) candidates.push(candidate);
  }
  return candidates;
}

/** A log or journal whose database is missing. */
function isLoneCompanion({ file, mark }: TreeFile): boolean {
  return /-(wal|journal)$/.test(file.path) && mark === 'other' && !file.locked;
}

function withoutMain(companion: TreeFile, base: string): Candidate {
  const file = plainFile(base, new MemorySource(base, new Uint8Array(0)));
  const main: TreeFile = { file, mark: 'empty' };
  const isLog = companion.file.path.endsWith('-wal');
  return {
    main,
    wal: isLog ? companion : undefined,
    journal: isLog ? undefined : companion
  };
}

/** A file with the log and the journal that lie beside it. */
export function withCompanions(main: TreeFile, files: TreeFile[]): Candidate {
  return beside(main, new Map(files.map((file) => [file.file.path, file])));
}

function beside(main: TreeFile, byPath: ReadonlyMap<string, TreeFile>): Candidate {
  const { path } = main.file;
  const [wal, journal] = ['-wal', '-journal'].map((end) => filled(byPath.get(path + end)));
  return { main, wal, journal };
}

/** Logs, journals and shared-memory files are no stores by themselves. */
export function isCompanion({ file }: TreeFile): boolean {
  return COMPANION.test(file.path);
}

function filled(file: TreeFile | undefined): TreeFile | undefined {
  return file && file.mark !== 'empty' ? file : undefined;
}

/** One word for what a source is. */
export function kindOf(tree: Tree, candidates: Candidate[], files: number): string {
  const [first] = tree.packages;
  const backup = tree.packages.find(({ kind }) => /backup/.test(kind));
  if (backup) return backup.kind;
  if (first && files === 1) return first.kind;
  if (files > 1 && (candidates.length !== 1 || files > 3)) return 'folder';
  return candidates.length > 0 ? 'database' : 'unrecognised';
}

/** A file that is not a message store. */
export interface OtherFile {
  /** What it is, in one sentence. */
  note: Note;
  /** A pass may still find something in it: it is of no kind whose contents are known to be something else. */
  mayHold: boolean;
}

/** Says what a file is that is not a message store. */
export async function describeOther(file: ListedFile): Promise<OtherFile> {
  const sample = file.head();
  const other = (code: string, text: string, mayHold: boolean): OtherFile => ({
    note: { level: 'error', code, text: `${file.path} ${text}`, path: file.path },
    mayHold
  });
  if (sample.length === 0)
    return other('empty', 'is empty (0 bytes), so there is nothing to read.', false);
  const type = await fileTypeFromBuffer(sample);
  if (type) {
    const noun = nounFor(type.mime);
    return other('not-recognised', `is ${noun}, not a message store.`, noun === AN_ARCHIVE);
  }
  if (looksLikeText(sample))
    return other('not-recognised', 'is a text file in which no messages were found.', false);
  const problem = SqliteFormatError.problemOf(sample);
  const isRaw = problem === 'not-a-database' || problem === 'looks-encrypted';
  return other(codeOf(problem), sentenceOf(problem), isRaw);
}

const AN_ARCHIVE = 'an archive';

function nounFor(mime: string): string {
  const [kind, form] = mime.split('/');
  if (kind === 'image') return 'a picture';
  if (kind === 'video') return 'a video';
  if (kind === 'audio') return 'a sound recording';
  if (/zip|tar|compress|7z|rar|xz/.test(form ?? '')) return AN_ARCHIVE;
  return 'a document or program';
}

/** Text in a Unicode encoding; the sample may end inside a character. */
function looksLikeText(sample: Uint8Array): boolean {
  for (let cut = 0; cut < 4 && cut < sample.length; cut++) {
    const text = decodeStrict(sample.subarray(0, sample.length - cut), 'utf-8');
    if (text !== null) return isPlausibleText(text.replace(/^\ufeff/, ''));
  }
  return false;
}

export function codeOf(problem: SqliteProblem): string {
  switch (problem) {
    case 'empty':
      return 'empty';
    case 'too-short':
      return 'truncated';
    case 'not-a-database':
    // Nothing says how it would be unlocked, so no key is asked for.
    case 'looks-encrypted':
      return 'not-recognised';
    case 'bad-page-size':
    case 'schema-unreadable':
      return 'damaged';
  }
}

export function sentenceOf(problem: SqliteProblem): string {
  switch (problem) {
    case 'empty':
      return 'is empty (0 bytes), so there is nothing to read.';
    case 'looks-encrypted':
      return 'is of an unknown kind. Its bytes look random, like those of an encrypted file, and nothing in it tells how it was encrypted.';
    case 'too-short':
      return 'is cut off inside its header, so no page of it can be read.';
    case 'not-a-database':
      return 'is of an unknown kind.';
    case 'bad-page-size':
      return 'begins like a database, but its header holds an impossible page size.';
    case 'schema-unreadable':
      return 'is a database whose list of tables cannot be read.';
  }
}
