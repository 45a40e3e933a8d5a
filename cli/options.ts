import { parseArgs } from 'node:util';
import type { Depth } from '../core/records';

export interface ExamineOptions {
  paths: string[];
  out: string;
  depth: Depth;
  zone: string;
  quiet: boolean;
  /** Options that were given and have no effect yet. */
  idle: string[];
}

/** The command was called wrongly; the message is for the person who called it. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export const USAGE = `Usage: npm run --silent examine -- PATH... --out FILE
  --out FILE        where to write the case file; a name ending in .jsonl gives one record a line
  --depth DEPTH     indexed, freed (default) or whole
  --zone ZONE       time zone that the case file names, e.g. Europe/Oslo (default Etc/UTC)
  --quiet           no progress on the error channel`;

/** Accepted, because callers rely on them; nothing that is read so far needs them. */
const IDLE = ['key-file', 'want', 'attachments'] as const;
const DEPTHS: readonly string[] = ['indexed', 'freed', 'whole'];

export function parseOptions(args: string[]): ExamineOptions {
  const { values, positionals } = parse(args);
  if (positionals.length === 0)
    throw new UsageError('Name at least one file or folder to examine.');
  if (!values.out) throw new UsageError('Say with --out where the case file is to be written.');
  const depth = values.depth ?? 'freed';
  if (!DEPTHS.includes(depth)) throw new UsageError(`Unknown depth "${depth}".`);
  const zone = values.zone ?? 'Etc/UTC';
  if (!isZone(zone)) throw new UsageError(`Unknown time zone "${zone}".`);
  return {
    paths: positionals,
    out: values.out,
    depth: depth as Depth,
    zone,
    quiet: values.quiet ?? false,
    idle: IDLE.filter((name) => values[name] !== undefined)
  };
}

function parse(args: string[]) {
  try {
    return parseArgs({
      args,
      allowPositionals: true,
      options: {
        out: { type: 'string' },
        depth: { type: 'string' },
        zone: { type: 'string' },
        quiet: { type: 'boolean' },
        'key-file': { type: 'string' },
        want: { type: 'string' },
        attachments: { type: 'string' }
      }
    });
  } catch (error) {
    throw new UsageError(error instanceof Error ? error.message : String(error));
  }
}

function isZone(zone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: zone }).resolvedOptions().timeZone !== '';
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}
