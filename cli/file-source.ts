import { closeSync, fstatSync, openSync, readdirSync, readSync, statSync } from 'node:fs';
import type { InputFile } from '../core/pass';
import { hashBeside, type DiskHandle } from './threads';

/** Below this a thread takes longer to start than the hash takes. */
const LARGE = 16 * 1024 * 1024;

/** Open files at most; a folder of a hundred thousand must not exhaust the system's. */
const MOST_OPEN = 128;
const open = new Map<string, number>();

function descriptorOf(path: string): number {
  const known = open.get(path);
  if (known !== undefined) {
    open.delete(path);
    open.set(path, known);
    return known;
  }
  if (open.size >= MOST_OPEN) {
    const [oldest] = open;
    closeSync(oldest![1]);
    open.delete(oldest![0]);
  }
  const descriptor = openSync(path, 'r');
  open.set(path, descriptor);
  return descriptor;
}

/** A file on disk, opened for reading only, when it is first read. */
export class FileSource implements InputFile {
  private known: { size: number; modifiedAt: number } | null = null;

  constructor(
    private readonly path: string,
    readonly name: string
  ) {}

  /** Opens it at once. @throws the system's error when it may not be read. */
  check(): void {
    fstatSync(descriptorOf(this.path));
  }

  private facts(): { size: number; modifiedAt: number } {
    if (!this.known) {
      const { size, mtimeMs } = statSync(this.path);
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
    const wanted = Math.max(0, Math.min(length, this.size - offset));
    const bytes = new Uint8Array(wanted);
    return bytes.subarray(0, this.readInto(bytes, offset));
  }

  readInto(target: Uint8Array, offset: number): number {
    const wanted = Math.max(0, Math.min(target.length, this.size - offset));
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

/** Regular files below a folder, as paths relative to it, in a fixed order. Links are not followed. */
export function listFiles(folder: string): string[] {
  const found: string[] = [];
  const visit = (at: string, prefix: string): void => {
    const entries = readdirSync(at, { withFileTypes: true });
    entries.sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const entry of entries) {
      const path = prefix + entry.name;
      if (entry.isDirectory()) visit(`${at}/${entry.name}`, `${path}/`);
      else if (entry.isFile()) found.push(path);
    }
  };
  visit(folder, '');
  return found;
}
