import { createHash } from 'node:crypto';
import { openCase, productionInput } from '../case';
import { runProduction, settingsSchema, type ProductionSummary, type Workshop } from '../produce';
import { pictureModules } from '../../cli/picture-modules';
import type { MadeCase } from './production-case';

export const MADE = Date.UTC(2026, 10, 27, 12);

export interface Produced {
  /** Files of the package by path. */
  files: Map<string, Uint8Array>;
  summary: ProductionSummary;
  text: (path: string) => string;
}

export function sha256(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** A whole production of a made case. */
export async function produced(
  made: MadeCase,
  settings: object,
  workshop: Partial<Workshop> = {}
): Promise<Produced> {
  const files = new Map<string, Uint8Array>();
  let summary: ProductionSummary | null = null;
  const asked = settingsSchema.parse(settings);
  const { sources, findings } = made;
  const opened = await openCase({
    ...{ name: 'Ferry deposit', zone: 'Europe/Oslo', sources, findings },
    ...{ files: [], lines: new Map(), told: {} }
  });
  const input = await productionInput(opened, null, asked.redactions);
  const work = runProduction(input, asked, {
    made: MADE,
    version: '0.0.0',
    modules: pictureModules,
    open: (sum) => Promise.resolve(made.files.get(sum) ?? null),
    sha256: (bytes) => Promise.resolve(sha256(bytes)),
    print: null,
    signal: new AbortController().signal,
    ...workshop
  });
  for await (const event of work) {
    if (event.type === 'file') files.set(event.file.path, event.file.bytes);
    else if (event.type === 'done') summary = event.summary;
  }
  const text = (path: string): string => Buffer.from(files.get(path)!).toString('utf8');
  return { files, summary: summary!, text };
}
