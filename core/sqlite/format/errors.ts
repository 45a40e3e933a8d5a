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

/**
 * Whether bytes without a magic line look like an encrypted file: byte values
 * spread evenly over the whole first pages, which neither text, pictures'
 * headers nor zeroed space do. `sample` should hold at least 2 KiB.
 */
export function looksEncrypted(sample: Uint8Array): boolean {
  if (sample.length < 1024) return false;
  const counts = new Uint32Array(256);
  for (const byte of sample) counts[byte]!++;
  const expected = sample.length / 256;
  let chiSquare = 0;
  for (const n of counts) chiSquare += (n - expected) ** 2 / expected;
  // 255 degrees of freedom: a uniform source stays under 340 in all but one of 5,000 samples.
  return chiSquare < 340;
}
