import { fileTypeFromBuffer } from 'file-type';
import { decodeStrict, isPlausibleText, type ByteSource } from '../bytes';
import type { Note } from '../records';
import { hasMagic, type DatabaseFiles, SqliteFormatError, type SqliteProblem } from '../sqlite';

/** What a source's files are, by content. */
export interface Recognised {
  databases: DatabaseFiles[];
  /** Files that are neither databases nor companions of one. */
  others: ByteSource[];
}

const COMPANION = /-(wal|journal|shm)$/;

/** Finds the databases and puts their logs and journals beside them. */
export function recogniseFiles(files: ByteSource[]): Recognised {
  const byName = new Map(files.map((file) => [file.name, file]));
  const databases: DatabaseFiles[] = [];
  const others: ByteSource[] = [];
  for (const file of files) {
    const base = file.name.replace(COMPANION, '');
    if (base !== file.name && byName.has(base)) continue;
    const wal = byName.get(`${file.name}-wal`);
    if (hasMagic(file.read(0, 16)) || (wal !== undefined && wal.size > 0)) {
      databases.push({ main: file, wal, journal: byName.get(`${file.name}-journal`) });
    } else {
      others.push(file);
    }
  }
  return { databases, others };
}

const SAMPLE = 4100;

/** Says in one sentence what a file is that is no message store. */
export async function describeOther(file: ByteSource): Promise<Note> {
  const sample = file.read(0, SAMPLE);
  const note = (code: string, text: string): Note => ({
    level: 'error',
    code,
    text: `${file.name} ${text}`,
    path: file.name
  });
  if (file.size === 0) return note('empty', 'is empty (0 bytes), so there is nothing to read.');
  const type = await fileTypeFromBuffer(sample);
  if (type) return note('not-recognised', `is ${kindOf(type.mime)}, not a message database.`);
  if (looksLikeText(sample)) {
    return note('not-recognised', 'is a text file, not a message database.');
  }
  const problem = SqliteFormatError.problemOf(sample);
  return note(codeOf(problem), sentenceOf(problem));
}

function kindOf(mime: string): string {
  const [kind, form] = mime.split('/');
  if (kind === 'image') return 'a picture';
  if (kind === 'video') return 'a video';
  if (kind === 'audio') return 'a sound recording';
  if (/zip|tar|compress|7z|rar|xz/.test(form ?? '')) return 'an archive';
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
    case 'looks-encrypted':
      return 'encrypted';
    case 'too-short':
      return 'truncated';
    case 'not-a-database':
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
      return 'looks encrypted: its bytes are evenly spread and it has no readable header. It cannot be read without its key.';
    case 'too-short':
      return 'is cut off inside its header, so no page of it can be read.';
    case 'not-a-database':
      return 'is of no kind that is known here.';
    case 'bad-page-size':
      return 'begins like a database, but its header holds an impossible page size.';
    case 'schema-unreadable':
      return 'is a database whose list of tables cannot be read.';
  }
}
