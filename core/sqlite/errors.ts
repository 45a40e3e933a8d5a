import { looksEncrypted } from './entropy';

/** Why a file cannot be read as a SQLite database. */
export type SqliteProblem =
  | 'empty'
  | 'too-short'
  | 'not-a-database'
  | 'looks-encrypted'
  | 'bad-page-size'
  | 'schema-unreadable';

/** The file as a whole cannot be opened. Damage further inside is reported as {@link Damage}, never thrown. */
export class SqliteFormatError extends Error {
  override readonly name = 'SqliteFormatError';
  constructor(
    readonly file: string,
    readonly offset: number,
    readonly problem: SqliteProblem
  ) {
    super(`${file}: ${problem} at offset ${offset}`);
  }

  /** What is wrong with a file that lacks the magic line. `sample` should hold 4 KiB. */
  static problemOf(sample: Uint8Array): SqliteProblem {
    if (sample.length === 0) return 'empty';
    return looksEncrypted(sample) ? 'looks-encrypted' : 'not-a-database';
  }
}

/** One place that could not be read; the rest of the file was. */
export interface Damage {
  file: string;
  page: number;
  /** Byte offset in the file. */
  offset: number;
  structure: 'page' | 'cell' | 'overflow' | 'schema' | 'log' | 'journal' | 'freelist';
  reason: string;
}
