import { isExhausted, systemReason } from '../host';
import { PackageError } from '../formats';
import type { Note } from '../records';
import { SqliteFormatError } from '../sqlite';
import { StoppedError } from './pace';
import { codeOf, sentenceOf } from './recognise';

/**
 * What is to be said of a file that could not be read. It is an error where
 * it is all that the source holds, or where the machine is to blame, since
 * then others are missing too; beside others it is a warning.
 * @throws StoppedError when that is what was thrown.
 */
export function failureNote(error: unknown, path: string, isAll: boolean): Note {
  if (error instanceof StoppedError) throw error;
  const level = isAll || isExhausted(error) ? 'error' : 'warning';
  if (error instanceof SqliteFormatError) {
    const text = `${error.file} ${sentenceOf(error.problem)}`;
    return { level, code: codeOf(error.problem), text, path: error.file };
  }
  if (error instanceof PackageError)
    return { level, code: 'damaged', text: `${path} cannot be unpacked: ${error.reason}.`, path };
  const refused = systemReason(error);
  if (refused !== null) return { level, code: 'unreadable', text: `${path} ${refused}.`, path };
  // Not foreseen: told as it is, so that it can be looked into, and the other files are read.
  const what = error instanceof Error ? `${error.name}: ${error.message}` : String(error);
  return { level, code: 'failed', text: `${path} could not be read (${what}).`, path };
}
