import { existsSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { isHashFolder } from '../core/packages';
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
      inputs.push({ id, ...openPath(path) });
    } catch (error) {
      unopened.push({ path, reason: reasonOf(error) });
    }
  }
  return { inputs, unopened };
}

function openPath(path: string): Omit<SourceInput, 'id'> {
  if (statSync(path).isDirectory()) return openFolder(path);
  const beside = COMPANIONS.map((end) => path + end).filter((file) => existsSync(file));
  const files = [path, ...beside].map((file) => new FileSource(file, basename(file)));
  for (const file of files) file.check();
  return { name: basename(path), files };
}

/** One of a backup's numbered folders leads to the backup that it is part of. */
function openFolder(path: string): Omit<SourceInput, 'id'> {
  const names = listFiles(path);
  const above = dirname(path);
  if (
    isHashFolder(
      basename(path),
      names.map((name) => ({ path: name }))
    ) &&
    hasManifest(above)
  ) {
    const text = `${basename(path)} is one of the numbered folders of a backup; the whole backup in ${basename(above)}, the folder above it, was taken.`;
    const note = { level: 'info' as const, code: 'folder-level', text, path: null };
    return { ...openFolder(above), notes: [note] };
  }
  const files = names.map((name) => new FileSource(`${path}/${name}`, name));
  return { name: basename(path), files };
}

function hasManifest(folder: string): boolean {
  return ['Manifest.db', 'Manifest.plist'].some((name) => existsSync(join(folder, name)));
}

function reasonOf(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? error.code : null;
  if (code === 'ENOENT') return 'does not exist';
  if (code === 'EACCES' || code === 'EPERM') return 'may not be read by this user';
  return `could not be opened (${error instanceof Error ? error.message : String(error)})`;
}
