import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { KINDS, type Kind } from '../core/examine';
import { isZone } from '../core/shown';
import type { Depth } from '../core/records';
import { refusePlaces } from './places';
import { UsageError } from './usage-error';

export interface ExamineOptions {
  paths: string[];
  out: string;
  depth: Depth;
  zone: string;
  quiet: boolean;
  /** Passwords and hex keys, tried in turn. */
  keys: string[];
  kinds: ReadonlySet<Kind>;
  /** Folder for the attachments that are found; null to leave them where they are. */
  attachments: string | null;
}

export const USAGE = `Usage: npm run --silent examine -- PATH... --out FILE
  --out FILE        where to write the case file; a name ending in .jsonl gives one record per line
  --depth DEPTH     indexed, freed (default) or whole
  --zone ZONE       time zone that the case file names, e.g. Europe/Oslo (default Etc/UTC)
  --key-file FILE   passwords and hex keys for encrypted sources, one per line
  --want KINDS      any of messages, calls, contacts, media, files, separated by commas (default all)
  --attachments DIR where to write the attachments that are found
  --quiet           no progress on stderr
  --help            this text`;

const DEPTHS: readonly string[] = ['indexed', 'freed', 'whole'];

export function parseOptions(args: string[]): ExamineOptions {
  const { values, positionals } = parse(args);
  if (positionals.some((path) => path.trim() === ''))
    throw new UsageError('One of the sources has an empty name.');
  if (positionals.length === 0)
    throw new UsageError('Name at least one file or folder to examine.');
  if (!values.out) throw new UsageError('Say with --out where the case file is to be written.');
  const depth = values.depth ?? 'freed';
  if (!DEPTHS.includes(depth)) throw new UsageError(`Unknown depth "${depth}".`);
  const attachments = values.attachments ?? null;
  refusePlaces(positionals, values.out, attachments);
  const zone = values.zone ?? 'Etc/UTC';
  // Asking for a zone takes a while; that one is always there.
  if (values.zone !== undefined && !isZone(zone))
    throw new UsageError(`Unknown time zone "${zone}".`);
  return {
    paths: positionals,
    out: values.out,
    depth: depth as Depth,
    zone,
    quiet: values.quiet ?? false,
    keys: values['key-file'] === undefined ? [] : readKeys(values['key-file']),
    kinds: parseKinds(values.want),
    attachments
  };
}

/** One key a line; only line ends are taken off, for a password may begin or end with a blank. */
function readKeys(path: string): string[] {
  try {
    const lines = readFileSync(path, 'utf8')
      .replace(/^\ufeff/, '')
      .split(/\r?\n/);
    if (lines[lines.length - 1] === '') lines.pop();
    return lines;
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new UsageError(`The key file could not be read: ${reason}`);
  }
}

function parseKinds(want: string | undefined): ReadonlySet<Kind> {
  if (want === undefined) return new Set(KINDS);
  const kinds = want.split(',').map((kind) => kind.trim());
  const unknown = kinds.find((kind) => !(KINDS as readonly string[]).includes(kind));
  if (unknown !== undefined) throw new UsageError(`Unknown kind "${unknown}" after --want.`);
  return new Set(kinds as Kind[]);
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
