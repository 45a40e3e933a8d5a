import { existsSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { systemReason } from '../core/host';
import { isHashFolder, isFirstPart, partsAfter } from '../core/formats';
import type { SourceInput } from '../core/examine';
import type { Note } from '../core/records';
import { FileSource, listFolder } from './file-source';

const COMPANIONS = ['-wal', '-journal'];

/** A path that could not be opened, with the reason in plain words. */
export interface Unopened {
  path: string;
  reason: string;
}

/** Makes one source of each path. A log or journal named beside its database joins that one, as do the parts of an image. */
export function openInputs(paths: string[]): { inputs: SourceInput[]; unopened: Unopened[] } {
  const inputs: SourceInput[] = [];
  const unopened: Unopened[] = [];
  const all = new Set(paths.map((path) => resolve(path)));
  const joining = new Set([...all].flatMap((path) => filesWith(path)));
  for (const path of all) {
    if (joining.has(path)) continue;
    const id = `s${inputs.length + 1}`;
    try {
      inputs.push({ id, ...openPath(path) });
    } catch (error) {
      unopened.push({ path, reason: reasonOf(error) });
    }
  }
  return { inputs, unopened };
}

/** Files that belong to one: the log and the journal of a database, the later parts of an image. */
export function filesWith(path: string): string[] {
  const beside = COMPANIONS.map((end) => path + end).filter((file) => existsSync(file));
  return isFirstPart(path) ? [...beside, ...partsAfter(path, existsSync)] : beside;
}

class NoFileError extends Error {
  override readonly name = 'NoFileError';
}

function openPath(path: string): Omit<SourceInput, 'id'> {
  const facts = statSync(path);
  if (facts.isDirectory()) return openFolder(path);
  // A pipe would be waited for without end, and a device has no size.
  if (!facts.isFile()) throw new NoFileError();
  const files = [path, ...filesWith(path)].map((file) => new FileSource(file, basename(file)));
  for (const file of files) file.check();
  return { name: basename(path), files };
}

/** One of a backup's numbered folders leads to the backup that it is part of. */
function openFolder(path: string): Omit<SourceInput, 'id'> {
  const { files: listed, refused } = listFolder(path);
  const above = dirname(path);
  if (
    isHashFolder(
      basename(path),
      listed.map(({ name }) => ({ path: name }))
    ) &&
    hasManifest(above)
  ) {
    const text = `${basename(path)} is one of the numbered folders of a backup; the whole backup in ${basename(above)}, the folder above it, was taken.`;
    const note = { level: 'info' as const, code: 'folder-level', text, path: null };
    return { ...openFolder(above), notes: [note] };
  }
  const notes = refused.map(({ name, reason }): Note => ({
    level: 'warning',
    code: 'unreadable',
    text: `${name} ${reason}.`,
    path: name
  }));
  const files = listed.map((file) => new FileSource(file.path, file.name));
  return { name: basename(path), files, notes };
}

function hasManifest(folder: string): boolean {
  return ['Manifest.db', 'Manifest.plist'].some((name) => existsSync(join(folder, name)));
}

function reasonOf(error: unknown): string {
  if (error instanceof NoFileError) return 'is neither a file nor a folder';
  if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return 'does not exist';
  const reason = systemReason(error);
  if (reason === null) throw error;
  return reason;
}
