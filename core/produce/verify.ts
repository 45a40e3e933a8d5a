import { brokenLink } from '../custody';
import { decodedPath } from './bag';

/** One difference between what a production says of itself and what is there. */
export interface Difference {
  path: string;
  what: 'changed' | 'missing' | 'unlisted' | 'broken-chain' | 'unreadable';
  expected: string | null;
  found: string | null;
}

export interface Verification {
  ok: boolean;
  files: number;
  differences: Difference[];
}

/** The files of a production, wherever they lie. */
export interface Package {
  /** Paths below the bag's folder, with `/` between. */
  paths: readonly string[];
  sha256(path: string): Promise<string>;
  text(path: string): Promise<string>;
}

const TAGS = ['bagit.txt', 'bag-info.txt', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'];
const LOG = 'data/custody.jsonl';
const RECORD = 'data/production.json';

/** Checks a production against its own lists: every checksum, no file too many, counts, and the chain of the log. */
export async function verifyPackage(bag: Package): Promise<Verification> {
  const there = new Set(bag.paths);
  const differences: Difference[] = [];
  const missingTags = TAGS.filter((path) => !there.has(path));
  for (const path of missingTags)
    differences.push({ path, what: 'missing', expected: 'a file of the package', found: null });
  const listed = new Set<string>();
  for (const name of ['manifest-sha256.txt', 'tagmanifest-sha256.txt']) {
    if (!there.has(name)) continue;
    for (const line of (await bag.text(name)).split('\n')) {
      const entry = /^([0-9a-f]{64})\s+\*?(.+?)\r?$/i.exec(line);
      if (!entry) {
        if (line.trim() !== '')
          differences.push({
            path: name,
            what: 'unreadable',
            expected: 'a checksum and a path',
            found: line.slice(0, 120)
          });
        continue;
      }
      const [, expected, written] = entry;
      const path = decodedPath(written!);
      listed.add(path);
      if (!there.has(path)) {
        differences.push({ path, what: 'missing', expected: expected!, found: null });
        continue;
      }
      const found = await bag.sha256(path);
      if (found !== expected!.toLowerCase())
        differences.push({ path, what: 'changed', expected: expected!, found });
    }
  }
  for (const path of bag.paths)
    if (!listed.has(path) && path !== 'tagmanifest-sha256.txt')
      differences.push({ path, what: 'unlisted', expected: null, found: await bag.sha256(path) });
  if (there.has(LOG)) differences.push(...chainDifferences(LOG, await bag.text(LOG)));
  if (there.has(RECORD)) differences.push(...(await countDifferences(bag, there)));
  return { ok: differences.length === 0, files: bag.paths.length, differences };
}

/** Checks a custody log by itself. */
export function verifyLog(path: string, text: string): Verification {
  const differences = chainDifferences(path, text);
  return { ok: differences.length === 0, files: 1, differences };
}

function chainDifferences(path: string, text: string): Difference[] {
  const broken = brokenLink(text);
  if (!broken) return [];
  const { line, expected, found } = broken;
  return [{ path: `${path}:${line}`, what: 'broken-chain', expected, found }];
}

/** Whether the records are as many as the production says. */
async function countDifferences(bag: Package, there: ReadonlySet<string>): Promise<Difference[]> {
  const records = 'data/records.jsonl';
  if (!there.has(records)) return [];
  const said = countOf(await bag.text(RECORD));
  const count = (await bag.text(records))
    .split('\n')
    .filter((line) => line.startsWith('{"record":"message"')).length;
  if (said === null)
    return [
      { path: RECORD, what: 'unreadable', expected: 'the counts of the production', found: null }
    ];
  return said === count
    ? []
    : [
        { path: records, what: 'changed', expected: `${said} messages`, found: `${count} messages` }
      ];
}

function countOf(text: string): number | null {
  try {
    const value = JSON.parse(text) as { counts?: { messages?: number } };
    return value.counts?.messages ?? null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}
