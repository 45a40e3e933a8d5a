import { brokenLink, entriesIn } from '../custody';
import { decodedPath } from './bag';

/** One difference between what a production says of itself and what is there. */
export interface Difference {
  path: string;
  what: 'changed' | 'missing' | 'unlisted' | 'broken-chain' | 'broken-structure' | 'unreadable';
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
  /** Paths of plain files below the bag's folder, with `/` between. */
  paths: readonly string[];
  /** Links, pipes, devices and the like, which a package never holds, with what they are. None of them is read. */
  others?: readonly { path: string; what: string }[];
  sha256(path: string): Promise<string>;
  text(path: string): Promise<string>;
  /** In bytes. */
  size(path: string): Promise<number>;
}

const TAGS = ['bagit.txt', 'bag-info.txt', 'manifest-sha256.txt', 'tagmanifest-sha256.txt'];
const LOG = 'data/custody.jsonl';
const RECORD = 'data/production.json';
const RECORDS = 'data/records.jsonl';

/**
 * Checks a production against its own lists: every checksum, no file too many,
 * the structure of a bag (RFC 8493), what `production.json` says of the files
 * and of the log, and the log's chain. Whoever changes files, lists and record
 * together is not found out by checksums: the checksum of the last list, told
 * in another way, proves that.
 */
export async function verifyPackage(bag: Package): Promise<Verification> {
  const check = new Check(bag);
  await check.lists();
  check.structure();
  await check.bagInfo();
  await check.record();
  const { differences } = check;
  return { ok: differences.length === 0, files: bag.paths.length, differences };
}

/** Checks a custody log by itself. */
export function verifyLog(path: string, text: string): Verification {
  const differences = chainDifferences(path, text);
  return { ok: differences.length === 0, files: 1, differences };
}

class Check {
  readonly differences: Difference[] = [];
  private readonly there: ReadonlySet<string>;
  /** Checksums as they were found. */
  private readonly sums = new Map<string, string>();
  private readonly payload: string[];

  constructor(private readonly bag: Package) {
    this.there = new Set(bag.paths);
    this.payload = bag.paths.filter((path) => path.startsWith('data/'));
  }

  private differs(
    path: string,
    what: Difference['what'],
    expected: string | null,
    found: string | null
  ): void {
    // A file that was changed differs from its checksum and from the record: it is told once.
    if (this.differences.some((known) => known.path === path && known.what === what)) return;
    this.differences.push({ path, what, expected, found });
  }

  private async sumOf(path: string): Promise<string> {
    let sum = this.sums.get(path);
    if (sum === undefined) this.sums.set(path, (sum = await this.bag.sha256(path)));
    return sum;
  }

  /** Every checksum of the two lists, and no file that neither names. */
  async lists(): Promise<void> {
    const listed = new Set<string>();
    for (const path of TAGS)
      if (!this.there.has(path)) this.differs(path, 'missing', 'a file of the package', null);
    for (const name of TAGS.slice(2)) {
      if (!this.there.has(name)) continue;
      for (const line of (await this.bag.text(name)).split('\n')) {
        const entry = /^([0-9a-f]{64})\s+\*?(.+?)\r?$/i.exec(line);
        if (entry) await this.listed(entry[1]!.toLowerCase(), decodedPath(entry[2]!), name, listed);
        else if (line.trim() !== '')
          this.differs(name, 'unreadable', 'a checksum and a path', line.slice(0, 120));
      }
    }
    for (const path of this.bag.paths)
      if (!listed.has(path) && path !== TAGS[3])
        this.differs(path, 'unlisted', null, await this.sumOf(path));
    for (const { path, what } of this.bag.others ?? []) this.differs(path, 'unlisted', null, what);
  }

  private async listed(
    expected: string,
    path: string,
    list: string,
    listed: Set<string>
  ): Promise<void> {
    if (listed.has(path)) this.differs(path, 'broken-structure', 'one line in the lists', list);
    listed.add(path);
    if (path.startsWith('data/') !== (list === TAGS[2]))
      this.differs(path, 'broken-structure', 'payload in the manifest, tags in theirs', list);
    if (!this.there.has(path)) return this.differs(path, 'missing', expected, null);
    const found = await this.sumOf(path);
    if (found !== expected) this.differs(path, 'changed', expected, found);
  }

  /** No list of files to be fetched, and none of other checksums: nothing here writes them. */
  structure(): void {
    for (const path of this.bag.paths)
      if (path === 'fetch.txt' || (/^(tag)?manifest-/.test(path) && !TAGS.includes(path)))
        this.differs(path, 'broken-structure', 'no such list', path);
  }

  async bagInfo(): Promise<void> {
    const { bag, there } = this;
    if (there.has('bagit.txt')) {
      const said = (await bag.text('bagit.txt')).replace(/\r\n/g, '\n').trimEnd();
      const expected = 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8';
      if (said !== expected)
        this.differs('bagit.txt', 'broken-structure', expected, said.slice(0, 200));
    }
    if (!there.has('bag-info.txt')) return;
    const said = /^Payload-Oxum:\s*(\S+)/m.exec(await bag.text('bag-info.txt'))?.[1] ?? null;
    let bytes = 0;
    for (const path of this.payload) bytes += await bag.size(path);
    const found = `${bytes}.${this.payload.length}`;
    const isToldAlready = this.differences.some(({ path }) => path.startsWith('data/'));
    if (said !== found && !isToldAlready)
      this.differs('bag-info.txt', 'changed', `Payload-Oxum ${said}`, `Payload-Oxum ${found}`);
  }

  /** What the production's own record says of its files, its log and its counts. */
  async record(): Promise<void> {
    const { there, bag } = this;
    const log = there.has(LOG) ? await bag.text(LOG) : null;
    if (log !== null) this.differences.push(...chainDifferences(LOG, log));
    if (!there.has(RECORD)) return this.differs(RECORD, 'missing', 'the record', null);
    const record = recordIn(await bag.text(RECORD));
    if (!record) return this.differs(RECORD, 'unreadable', 'the counts of the production', null);
    await this.files(record.files);
    this.log(record.log, log);
    if (there.has(RECORDS)) {
      const lines = (await bag.text(RECORDS)).split('\n');
      const count = lines.filter((line) => line.startsWith('{"record":"message"')).length;
      if (count !== record.messages)
        this.differs(RECORDS, 'changed', `${record.messages} messages`, `${count} messages`);
    }
  }

  private async files(said: readonly SaidFile[]): Promise<void> {
    const known = new Set([RECORD, ...said.map(({ path }) => path)]);
    for (const { path, sha256 } of said) {
      if (!this.there.has(path)) this.differs(path, 'missing', sha256, null);
      else if ((await this.sumOf(path)) !== sha256)
        this.differs(path, 'changed', sha256, await this.sumOf(path));
    }
    for (const path of this.payload)
      if (!known.has(path)) this.differs(path, 'unlisted', null, await this.sumOf(path));
  }

  private log(said: SaidLog, text: string | null): void {
    if (text === null) return this.differs(LOG, 'missing', 'the log', null);
    const entries = entriesIn(text);
    const words = (n: number, hash: string): string => `${n} entries, the last ${hash}`;
    const found = words(entries.length, entries[entries.length - 1]?.hash ?? 'none');
    const expected = words(said.entries, said.last);
    if (found !== expected) this.differs(LOG, 'changed', expected, found);
  }
}

function chainDifferences(path: string, text: string): Difference[] {
  const broken = brokenLink(text);
  if (!broken) return [];
  const { line, expected, found } = broken;
  return [{ path: `${path}:${line}`, what: 'broken-chain', expected, found }];
}

interface SaidFile {
  path: string;
  sha256: string;
}

interface SaidLog {
  entries: number;
  last: string;
}

/** What is held against the package; null where the record is not what it should be. */
function recordIn(text: string): { messages: number; files: SaidFile[]; log: SaidLog } | null {
  try {
    const value = JSON.parse(text) as Record<string, unknown> | null;
    const counts = value?.counts as { messages?: unknown } | undefined;
    const log = value?.log as Partial<SaidLog> | undefined;
    const files = value?.files as Partial<SaidFile>[] | undefined;
    if (typeof counts?.messages !== 'number' || !Array.isArray(files)) return null;
    if (typeof log?.entries !== 'number' || typeof log.last !== 'string') return null;
    if (!files.every(({ path, sha256 }) => typeof path === 'string' && typeof sha256 === 'string'))
      return null;
    return { messages: counts.messages, files: files as SaidFile[], log: log as SaidLog };
  } catch (error) {
    if (error instanceof SyntaxError || error instanceof TypeError) return null;
    throw error;
  }
}
