import { closeSync, existsSync, mkdirSync, openSync, writeSync } from 'node:fs';
import { extname, join } from 'node:path';
import { SourceFiles, type SourceInput } from '../core/pass';
import type { ByteSource } from '../core/bytes';
import type { Attachment } from '../core/records';
import type { ExamineOptions } from './options';
import { DiskScratch } from './scratch';

const STEP = 1 << 20;

/** Writes each attachment that was found once, named by its checksum. */
export function writeAttachments(
  { attachments: folder, keys }: ExamineOptions,
  inputs: SourceInput[],
  found: readonly Attachment[]
): void {
  mkdirSync(folder!, { recursive: true });
  const opened = new Map<string, SourceFiles>();
  const filesOf = (id: string): SourceFiles | null => {
    const input = inputs.find((known) => known.id === id);
    if (!input) return null;
    const known =
      opened.get(id) ?? new SourceFiles(input, { keys, scratch: () => new DiskScratch() });
    opened.set(id, known);
    return known;
  };
  for (const { id, path, sha256 } of found) {
    if (sha256 === null || path === null) continue;
    const target = join(folder!, sha256 + extname(path).toLowerCase());
    if (existsSync(target)) continue;
    const source = filesOf(id.split('.')[0]!)?.open(path);
    if (source) copy(source, target);
  }
}

function copy(source: ByteSource, target: string): void {
  const out = openSync(target, 'w');
  try {
    for (let at = 0; at < source.size; at += STEP) writeSync(out, source.read(at, STEP));
  } finally {
    closeSync(out);
  }
}
