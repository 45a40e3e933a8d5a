import type { SqlJsStatic } from 'sql.js';
import { toHex, type ByteSource } from '../host';
import { sha256 } from '@noble/hashes/sha2.js';
import {
  safeFileName,
  SettingsError,
  type ProducedFile,
  type Production,
  type Rebuilder
} from '../produce';
import { SqliteFormatError } from '../sqlite';
import { rebuildStore, type Rebuilt } from './rebuild';

/** Evidence that stores are rebuilt from. */
export interface Evidence {
  /** Stores of the case, with the name of their source. */
  stores: readonly { source: string; sourceName: string; path: string }[];
  /** A file of a source; null where there is none of that path. */
  open(source: string, path: string): Promise<ByteSource | null>;
  /** What is said where a store's own file is not there. */
  missing(path: string, sourceName: string): Error;
  sql: SqlJsStatic;
  /** Milliseconds since 1970. */
  made: number;
  version: string;
}

/** Rebuilds the stores that lines of a production were recovered from. */
export function storeRebuilder(evidence: Evidence): Rebuilder {
  return async function* (production) {
    let count = 0;
    const left: { store: string; reason: string }[] = [];
    const lines = production.threads.flatMap((thread) => thread.lines);
    for await (const { store, rebuilt } of rebuiltStores(evidence, lines)) {
      if (typeof rebuilt === 'string') {
        left.push({ store: `${store.sourceName}/${store.path}`, reason: rebuilt });
        continue;
      }
      const bare = store.path.replace(/^.*\//, '').replace(/\.[^.]*$/, '');
      const name = safeFileName(++count, bare, 'db', 'store');
      yield { path: `database/${name}`, bytes: rebuilt.bytes };
      if (rebuilt.refused.length > 0)
        yield jsonFile(`database/${name}.refused.json`, rebuilt.refused);
    }
    if (count === 0)
      throw new SettingsError('No line of the choice was recovered from a database.');
    if (left.length > 0) yield jsonFile('database/not-rebuilt.json', left);
  };
}

/** A message by which a store is rebuilt. */
type RebuiltLine = Pick<Production['threads'][number]['lines'][number], 'state' | 'proofs'>;

/** The stores that some messages were recovered from, each rebuilt, or why it cannot be. */
export async function* rebuiltStores(
  evidence: Evidence,
  lines: readonly RebuiltLine[]
): AsyncGenerator<{ store: Evidence['stores'][number]; rebuilt: Rebuilt | string }> {
  for (const store of evidence.stores) {
    const wanted = placesOf(lines, store.source, store.path);
    if (wanted.size > 0) yield { store, rebuilt: await rebuildOne(evidence, store, wanted) };
  }
}

function jsonFile(path: string, value: unknown): ProducedFile {
  return { path, bytes: new TextEncoder().encode(`${JSON.stringify(value, null, 1)}\n`) };
}

/** A rebuilt store, or why it is none that can be. */
async function rebuildOne(
  { open, missing, sql, made, version }: Evidence,
  { source, sourceName, path }: Evidence['stores'][number],
  wanted: ReadonlySet<string>
): Promise<Rebuilt | string> {
  const main = await open(source, path);
  if (!main) throw missing(path, sourceName);
  const beside = async (end: string): Promise<ByteSource | undefined> => {
    const found = await open(source, `${path}${end}`);
    return found ? called(found, `${path}${end}`) : undefined;
  };
  const files = {
    main: called(main, path),
    wal: await beside('-wal'),
    journal: await beside('-journal')
  };
  const facts = {
    made: new Date(made).toISOString(),
    version,
    source: `${sourceName}/${path}`,
    sha256: sumOf(main)
  };
  try {
    return rebuildStore(files, sql, (file, offset) => wanted.has(`${file} ${offset}`), facts);
  } catch (error) {
    // Cards and text exports hold lines as well.
    if (error instanceof SqliteFormatError) return 'it is not a database';
    throw error;
  }
}

/** Where the chosen lines lie that are not live in this store. */
function placesOf(lines: readonly RebuiltLine[], source: string, path: string): Set<string> {
  const places = new Set<string>();
  for (const { state, proofs } of lines) {
    if (state === 'live' || state === 'held') continue;
    for (const proof of proofs)
      if (proof.source === source && proof.path.replace(/-(wal|journal)$/, '') === path)
        places.add(`${proof.path} ${proof.offset}`);
  }
  return places;
}

/** The same bytes under the path that proofs name. */
function called(source: ByteSource, name: string): ByteSource {
  return { name, size: source.size, read: (offset, length) => source.read(offset, length) };
}

function sumOf(source: ByteSource): string {
  const hash = sha256.create();
  const step = 1 << 20;
  for (let at = 0; at < source.size; at += step) hash.update(source.read(at, step));
  return toHex(hash.digest());
}
