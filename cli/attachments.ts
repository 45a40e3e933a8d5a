import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  renameSync,
  statSync,
  writeSync
} from 'node:fs';
import { extname, join } from 'node:path';
import { SourceFiles, type SourceInput } from '../core/examine';
import type { ByteSource } from '../core/host';
import { sourceIn, type Attachment } from '../core/records';
import { partialBeside } from './partial';
import { DiskScratch } from './scratch';

const STEP = 1 << 20;

/** Writes each attachment that was found once, named by its checksum. @throws the system's error. */
export async function writeAttachments(
  folder: string,
  keys: readonly string[],
  inputs: SourceInput[],
  found: readonly Attachment[]
): Promise<void> {
  mkdirSync(folder, { recursive: true });
  const opened = new Map<string, SourceFiles>();
  const filesOf = async (id: string): Promise<SourceFiles | null> => {
    const input = inputs.find((known) => known.id === id);
    if (!input) return null;
    const known =
      opened.get(id) ?? (await SourceFiles.of(input, { keys, scratch: () => new DiskScratch() }));
    opened.set(id, known);
    return known;
  };
  for (const { id, path, sha256, bytes } of found) {
    if (sha256 === null || path === null) continue;
    const target = join(folder, sha256 + endingOf(path));
    if (isWritten(target, bytes)) continue;
    const source = (await filesOf(sourceIn(id)))?.open(path);
    if (source) copy(source, target);
  }
}

/** The ending of a name where every disk takes it. */
function endingOf(path: string): string {
  const ending = extname(path).toLowerCase();
  return /^\.[a-z0-9]{1,10}$/.test(ending) ? ending : '';
}

/** Files get their names when they are whole; one of another size is none of ours. */
function isWritten(target: string, bytes: number | null): boolean {
  return existsSync(target) && statSync(target).size === bytes;
}

function copy(source: ByteSource, target: string): void {
  const partial = partialBeside(target);
  const out = openSync(partial, 'wx');
  try {
    for (let at = 0; at < source.size; at += STEP) writeAll(out, source.read(at, STEP));
  } finally {
    closeSync(out);
  }
  renameSync(partial, target);
}

function writeAll(out: number, bytes: Uint8Array): void {
  for (let done = 0; done < bytes.length;) done += writeSync(out, bytes, done);
}
