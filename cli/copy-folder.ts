import {
  appendFileSync,
  closeSync,
  existsSync,
  fstatSync,
  ftruncateSync,
  mkdirSync,
  openSync,
  readFileSync,
  readSync,
  renameSync,
  statSync
} from 'node:fs';
import { dirname, join } from 'node:path';
import { CopyError, type CopyLogEntry, type CopyPlace } from '../core/acquire';

/** The copying log of a copy; the only file that may differ between two copies of one state. */
export const COPYING_LOG = 'copying-log.jsonl';

/** A copy in a folder, which has `.part` behind its name until it is whole. */
export class CopyFolder implements CopyPlace {
  private readonly partial: string;

  constructor(private readonly folder: string) {
    this.partial = `${folder}.part`;
    mkdirSync(this.partial, { recursive: true });
  }

  private pathOf(path: string): string {
    return join(this.partial, path);
  }

  log(): Promise<CopyLogEntry[]> {
    return Promise.resolve(earlierLog(this.folder));
  }

  addToLog(entry: CopyLogEntry): Promise<void> {
    appendFileSync(this.pathOf(COPYING_LOG), `${JSON.stringify(entry)}\n`);
    return Promise.resolve();
  }

  size(path: string): Promise<number> {
    const place = this.pathOf(path);
    return Promise.resolve(existsSync(place) ? statSync(place).size : 0);
  }

  read(path: string, offset: number, length: number): Promise<Uint8Array> {
    const file = openSync(this.pathOf(path), 'r');
    try {
      const bytes = new Uint8Array(length);
      return Promise.resolve(bytes.subarray(0, readSync(file, bytes, 0, length, offset)));
    } finally {
      closeSync(file);
    }
  }

  append(path: string, bytes: Uint8Array): Promise<void> {
    const place = this.pathOf(path);
    mkdirSync(dirname(place), { recursive: true });
    try {
      appendFileSync(place, bytes);
    } catch (error) {
      if (!isFull(error)) throw error;
      throw new CopyError(
        'no-room',
        `There is no room left for the copy in ${dirname(this.folder)}. Make room, then resume it.`
      );
    }
    return Promise.resolve();
  }

  cut(path: string, size: number): Promise<void> {
    const place = this.pathOf(path);
    if (!existsSync(place)) return Promise.resolve();
    const file = openSync(place, 'r+');
    try {
      if (fstatSync(file).size > size) ftruncateSync(file, size);
    } finally {
      closeSync(file);
    }
    return Promise.resolve();
  }

  finish(): Promise<void> {
    renameSync(this.partial, this.folder);
    return Promise.resolve();
  }
}

/** The log of an attempt that broke off, up to the first line that was cut or changed: what stands behind it is read anew. */
export function earlierLog(folder: string): CopyLogEntry[] {
  const path = join(`${folder}.part`, COPYING_LOG);
  if (!existsSync(path)) return [];
  const lines = readFileSync(path, 'utf8').split('\n').slice(0, -1);
  const entries: CopyLogEntry[] = [];
  for (const line of lines) {
    try {
      entries.push(JSON.parse(line) as CopyLogEntry);
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      break;
    }
  }
  return entries;
}

function isFull(error: unknown): boolean {
  const code = error instanceof Error && 'code' in error ? error.code : null;
  return code === 'ENOSPC' || code === 'EDQUOT';
}
