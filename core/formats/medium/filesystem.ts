// What every file system gives: its facts, its files, and which bytes are its own.
import type { ByteSource } from '../../host';
import type { FileDeletion } from '../../records';
import type { Extent } from './runs';

/** A deleted file: how it was found, and what is left of it. */
export type Deletion = FileDeletion;

/**
 * How sure it is that a deleted file's bytes are still its own: none of them
 * belongs to another file, some do, or where they lie was guessed.
 */
export type Contents = Deletion['contents'];

/** A file of a file system, live or deleted. */
export interface FoundFile {
  /** Names of its folders and its own, from the root down; for a lost folder its number. */
  names: string[];
  size: number;
  /** Where its bytes lie in the medium, in order, or the bytes themselves where they lie among other things. */
  data: Extent[] | Uint8Array | ByteSource;
  modifiedAt: number | null;
  createdAt: number | null;
  deleted: Deletion | null;
}

/** A folder or file that stays nameless is called so. */
export const LOST = 'lost';

/** A file system of a volume. */
export interface FileSystem {
  /** Its kind as a person says it. */
  title: string;
  label: string | null;
  /** In bytes. */
  size: number;
  /** Bytes in use; null where nothing says. */
  used: number | null;
  /** All of its files, live ones first. Damage in one place does not end it. */
  files(): Generator<FoundFile>;
  /** Bytes of the medium that are the file system's own. */
  own(): Iterable<Extent>;
}

/** Reads the file systems of one family. */
export interface FileSystemReader {
  /** Whether the first 2 KiB of a volume are those of one. */
  begins(head: Uint8Array): boolean;
  /** Opens the one that begins at an offset of a medium, as its head says; null where it turns out to be none. */
  open(medium: ByteSource, offset: number, head: Uint8Array): FileSystem | null;
  /** Where copies of its head lie within a volume of that size, in bytes. */
  copies(size: number): number[];
}

/** Most entries of one folder, and of one volume: more are a circle or hostile. */
export const MOST_FILES = 4_000_000;
/** Folders in folders beyond this are a circle. */
export const DEEPEST = 200;
