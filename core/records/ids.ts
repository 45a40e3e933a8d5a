import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { toHex } from '../host';

/**
 * Ids that say what they belong to. A source's id holds no dot; a store's is
 * `source.digits`, the digits made of its path and of what reads it, so that
 * it is the same however much of the source is read; those of its records
 * begin with it.
 */
export function storeId(source: string, path: string, profile: string): string {
  const sum = sha256(utf8ToBytes(`${path}\0${profile}`));
  return `${source}.${toHex(sum).slice(0, DIGITS)}`;
}

const DIGITS = 10;

/** The source that a store, or a record of one, belongs to. */
export function sourceIn(id: string): string {
  const dot = id.indexOf('.');
  return dot < 0 ? id : id.slice(0, dot);
}

/** A file of a source with its checksum. */
export interface SummedFile {
  path: string;
  bytes: number;
  sha256: string;
}

/**
 * The list by whose SHA-256 a source of several files is known: a line of
 * each with its SHA-256, its size and its path, two blanks between, in the
 * order of the paths' bytes. Null where a checksum is not known.
 */
export function listOfFiles(files: readonly SummedFile[]): string | null {
  if (files.some(({ sha256 }) => sha256 === '')) return null;
  const sorted = [...files].sort((a, b) => compareUtf8(a.path, b.path));
  return sorted.map(({ path, bytes, sha256 }) => `${sha256}  ${bytes}  ${path}\n`).join('');
}

/** The order of two texts as UTF-8: that of their code points. */
function compareUtf8(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let i = 0; i < length; i++) {
    const [x, y] = [a.charCodeAt(i), b.charCodeAt(i)];
    if (x === y) continue;
    // Halves of pairs stand for what lies above all single units.
    const isPair = (unit: number): boolean => unit >= 0xd800 && unit <= 0xdfff;
    return isPair(x) === isPair(y) ? x - y : isPair(x) ? 1 : -1;
  }
  return a.length - b.length;
}
