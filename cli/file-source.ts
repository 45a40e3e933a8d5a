import { closeSync, openSync, readdirSync, readSync, statSync } from 'node:fs';
import { join, relative } from 'node:path';
import type { ByteSource } from '../core/bytes';

/** A file on disk, opened for reading only. */
export class FileSource implements ByteSource {
  readonly size: number;
  private readonly descriptor: number;

  constructor(
    path: string,
    readonly name: string
  ) {
    this.descriptor = openSync(path, 'r');
    this.size = statSync(path).size;
  }

  read(offset: number, length: number): Uint8Array {
    const wanted = Math.max(0, Math.min(length, this.size - offset));
    const bytes = new Uint8Array(wanted);
    let have = 0;
    while (have < wanted) {
      const got = readSync(this.descriptor, bytes, have, wanted - have, offset + have);
      if (got === 0) return bytes.subarray(0, have);
      have += got;
    }
    return bytes;
  }

  close(): void {
    closeSync(this.descriptor);
  }
}

/** Regular files below a folder, as paths relative to it, in a fixed order. Links are not followed. */
export function listFiles(folder: string): string[] {
  const found: string[] = [];
  const visit = (at: string): void => {
    const entries = readdirSync(at, { withFileTypes: true });
    entries.sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const entry of entries) {
      const path = join(at, entry.name);
      if (entry.isDirectory()) visit(path);
      else if (entry.isFile()) found.push(relative(folder, path));
    }
  };
  visit(folder);
  return found;
}
