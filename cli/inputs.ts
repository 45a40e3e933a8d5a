import { existsSync, statSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import type { SourceInput } from '../core/pass';
import { FileSource, listFiles } from './file-source';

const COMPANIONS = ['-wal', '-journal'];

/** A path that could not be opened, with the reason in plain words. */
export interface Unopened {
  path: string;
  reason: string;
}

/** Makes one source of each path. A log or journal named beside its database joins that one. */
export function openInputs(paths: string[]): { inputs: SourceInput[]; unopened: Unopened[] } {
  const inputs: SourceInput[] = [];
  const unopened: Unopened[] = [];
  const all = new Set(paths.map((path) => resolve(path)));
  for (const path of all) {
    if (COMPANIONS.some((end) => path.endsWith(end) && all.has(path.slice(0, -end.length))))
      continue;
    const id = `s${inputs.length + 1}`;
    try {
      inputs.push({ id, name: basename(path), files: openFiles(path) });
    } catch (error) {
      unopened.push({ path, reason: reasonOf(error) });
    }
  }
  return { inputs, unopened };
}

function openFiles(path: string): FileSource[] {
  if (statSync(path).isDirectory()) {
    return listFiles(path).map((name) => new FileSource(join(path, name), name));
  }
  const beside = COMPANIONS.map((end) => path + end).filter((file) => existsSync(file));
  return [path, ...beside].map((file) => new FileSource(file, basename(file)));
}

function reasonOf(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? error.code : null;
  if (code === 'ENOENT') return 'does not exist';
  if (code === 'EACCES' || code === 'EPERM') return 'may not be read by this user';
  return `could not be opened (${error instanceof Error ? error.message : String(error)})`;
}
