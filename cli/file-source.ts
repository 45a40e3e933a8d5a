import {
  accessSync,
  closeSync,
  constants,
  fstatSync,
  openSync,
  readdirSync,
  readSync,
  statSync
} from 'node:fs';
import { systemReason } from '../core/host';
import type { InputFile } from '../core/examine';
import { forSystem, joined, keyOf, shownName, type DiskPath } from './file-names';
import { hashBeside, type DiskHandle } from './threads';

/** Below this a thread takes longer to start than the hash takes. */
const LARGE = 16 * 1024 * 1024;

/** Open files at most; a folder of a hundred thousand must not exhaust the system's. */
const MOST_OPEN = 128;
const open = new Map<string, number>();

function descriptorOf(path: DiskPath): number {
  const key = keyOf(path);
  const known = open.get(key);
  if (known !== undefined) {
    open.delete(key);
    open.set(key, known);
    return known;
  }
  if (open.size >= MOST_OPEN) closeOldest();
  const descriptor = opened(path);
  open.set(key, descriptor);
  return descriptor;
}

/** Where the system allows fewer open files than are kept here, those are closed first. */
function opened(path: DiskPath): number {
  for (;;) {
    try {
      return openSync(forSystem(path), 'r');
    } catch (error) {
      const isFull = error instanceof Error && 'code' in error && error.code === 'EMFILE';
      if (!isFull || open.size === 0) throw error;
      closeOldest();
    }
  }
}

function closeOldest(): void {
  const [oldest] = open;
  closeSync(oldest![1]);
  open.delete(oldest![0]);
}

/** A file on disk, opened for reading only, when it is first read. */
export class FileSource implements InputFile {
  private known: { size: number; modifiedAt: number } | null = null;

  constructor(
    private readonly path: DiskPath,
    readonly name: string
  ) {}

  /** Opens it at once. @throws the system's error when it may not be read. */
  check(): void {
    fstatSync(descriptorOf(this.path));
  }

  private facts(): { size: number; modifiedAt: number } {
    if (!this.known) {
      const { size, mtimeMs } = statSync(forSystem(this.path));
      this.known = { size, modifiedAt: Math.floor(mtimeMs) };
    }
    return this.known;
  }

  get size(): number {
    return this.facts().size;
  }

  get modifiedAt(): number {
    return this.facts().modifiedAt;
  }

  get handle(): DiskHandle {
    return { path: this.path, name: this.name };
  }

  /** Large files are hashed by a thread of their own while they are examined. */
  get digest(): (() => Promise<string>) | undefined {
    return this.size >= LARGE ? () => hashBeside(this.path) : undefined;
  }

  read(offset: number, length: number): Uint8Array {
    const wanted = offset < 0 ? 0 : Math.max(0, Math.min(length, this.size - offset));
    const bytes = new Uint8Array(wanted);
    return bytes.subarray(0, this.readInto(bytes, offset));
  }

  readInto(target: Uint8Array, offset: number): number {
    const wanted = offset < 0 ? 0 : Math.max(0, Math.min(target.length, this.size - offset));
    if (wanted === 0) return 0;
    const descriptor = descriptorOf(this.path);
    let have = 0;
    while (have < wanted) {
      const got = readSync(descriptor, target, have, wanted - have, offset + have);
      if (got === 0) break;
      have += got;
    }
    return have;
  }
}

/** A file below a folder. */
export interface FolderFile {
  /** Relative to the folder, as it is shown. */
  name: string;
  path: DiskPath;
}

/** What a folder holds, and what of it the system refuses, with the end of a sentence that says why. */
export interface FolderListing {
  files: FolderFile[];
  refused: { name: string; reason: string }[];
}

/** Regular files below a folder, in a fixed order. Links are not followed. */
export function listFolder(folder: string): FolderListing {
  const listing: FolderListing = { files: [], refused: [] };
  visit(folder, '', listing);
  return listing;
}

function visit(folder: DiskPath, prefix: string, into: FolderListing): void {
  // Names as bytes: those of other systems need not be UTF-8.
  const entries = readdirSync(forSystem(folder), { withFileTypes: true, encoding: 'buffer' }).map(
    (entry) => ({
      entry,
      name: prefix + shownName(entry.name),
      path: joined(folder, entry.name)
    })
  );
  entries.sort((a, b) => (a.name < b.name ? -1 : 1));
  for (const { entry, name, path } of entries) {
    const reason = refusal(() => {
      if (entry.isDirectory()) visit(path, `${name}/`, into);
      else if (entry.isFile()) {
        accessSync(forSystem(path), constants.R_OK);
        into.files.push({ name, path });
      }
    });
    if (reason !== null) into.refused.push({ name, reason });
  }
}

function refusal(work: () => void): string | null {
  try {
    work();
    return null;
  } catch (error) {
    const reason = systemReason(error);
    if (reason === null) throw error;
    return reason;
  }
}
