import type { MediaShelf } from '../media';
import type { Production } from '../model';
import type { Settings } from '../settings';
import type { ZonedTime } from '../../shown';

/** One file to be handed over; its path is below the package's `data/`. */
export interface ProducedFile {
  path: string;
  bytes: Uint8Array;
}

/** What formats share. */
export interface FormatContext {
  settings: Settings;
  time: ZonedTime;
  media: MediaShelf;
  /** Stamped numbers by line; lines without a number have none. */
  serials: ReadonlyMap<string, string>;
  signal: AbortSignal;
}

/** Writes a production in one format, file by file. */
export type Format = (
  production: Production,
  context: FormatContext
) => AsyncIterable<ProducedFile> | Iterable<ProducedFile>;

const encoder = new TextEncoder();

/** A file of text in UTF-8; a half of a character that stands alone is replaced, as UTF-8 cannot hold it. */
export function textFile(path: string, text: string): ProducedFile {
  return { path, bytes: encoder.encode(text) };
}
