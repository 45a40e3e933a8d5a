import { closeSync, existsSync, mkdirSync, openSync, writeSync } from 'node:fs';
import { extname, join } from 'node:path';
import { openFile, type SourceInput } from '../core/pass';
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
  const byId = new Map(inputs.map((input) => [input.id, input]));
  for (const { id, path, sha256 } of found) {
    const input = byId.get(id.split('.')[0]!);
    if (sha256 === null || path === null || !input) continue;
    const target = join(folder!, sha256 + extname(path).toLowerCase());
    if (!existsSync(target)) copy(input, path, target, keys);
  }
}

function copy(input: SourceInput, path: string, target: string, keys: readonly string[]): void {
  const source = openFile(input, path, { keys, scratch: () => new DiskScratch() });
  if (!source) return;
  const out = openSync(target, 'w');
  try {
    for (let at = 0; at < source.size; at += STEP) writeSync(out, source.read(at, STEP));
  } finally {
    closeSync(out);
  }
}
