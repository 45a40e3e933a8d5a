import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { basename, join } from 'node:path';
import initSqlJs from 'sql.js';
import type { ByteSource } from '../core/bytes';
import { SourceFiles } from '../core/pass';
import { safeFileName, SettingsError, type Production, type Rebuilder } from '../core/produce';
import type { Source } from '../core/records';
import { rebuildStore } from '../core/rebuild';
import { openInputs } from './inputs';
import { CaseReadError, type readCase } from './read-case';
import { DiskScratch } from './scratch';
import { VERSION } from './version';

type Found = Awaited<ReturnType<typeof readCase>>;

/** Rebuilds the stores that lines of a production were recovered from, out of the evidence in a folder. */
export function storeRebuilder(
  folder: string,
  { sources, findings }: Found,
  made: number
): Rebuilder {
  return async function* (production) {
    const sql = await initSqlJs();
    let count = 0;
    for (const store of findings.stores) {
      const wanted = placesOf(production, store.source, store.path);
      const source = sources.find(({ id }) => id === store.source);
      if (wanted.size === 0 || !source) continue;
      const files = evidenceOf(folder, source);
      const main = files.open(store.path);
      if (!main) throw new CaseReadError(`${store.path} of ${source.name} is not in ${folder}.`);
      const beside = (end: string): ByteSource | undefined => {
        const found = files.open(`${store.path}${end}`);
        return found ? called(found, `${store.path}${end}`) : undefined;
      };
      const rebuilt = rebuildStore(
        { main: called(main, store.path), wal: beside('-wal'), journal: beside('-journal') },
        sql,
        (file, offset) => wanted.has(`${file} ${offset}`),
        {
          made: new Date(made).toISOString(),
          version: VERSION,
          source: `${source.name}/${store.path}`,
          sha256: sumOf(main)
        }
      );
      const name = safeFileName(
        ++count,
        basename(store.path).replace(/\.[^.]*$/, ''),
        'db',
        'store'
      );
      yield { path: `database/${name}`, bytes: rebuilt.bytes };
      if (rebuilt.refused.length > 0)
        yield {
          path: `database/${name}.refused.json`,
          bytes: new TextEncoder().encode(`${JSON.stringify(rebuilt.refused, null, 1)}\n`)
        };
    }
    if (count === 0)
      throw new SettingsError('No line of the choice was recovered from a database.');
  };
}

/** Where the chosen lines lie that are not live in this store. */
function placesOf({ threads }: Production, source: string, path: string): Set<string> {
  const places = new Set<string>();
  for (const { lines } of threads)
    for (const { state, proofs } of lines) {
      if (state === 'live' || state === 'held') continue;
      for (const proof of proofs)
        if (proof.source === source && proof.path.replace(/-(wal|journal)$/, '') === path)
          places.add(`${proof.path} ${proof.offset}`);
    }
  return places;
}

/** A source of the case in the folder of evidence: below it by its name, or the folder itself. */
function evidenceOf(folder: string, source: Source): SourceFiles {
  const below = join(folder, source.name);
  const place = existsSync(below) ? below : folder;
  const { inputs, unopened } = openInputs([place]);
  const [input] = inputs;
  if (!input) throw new CaseReadError(`${place} ${unopened[0]?.reason ?? 'cannot be read'}.`);
  return new SourceFiles(input, { keys: [], scratch: () => new DiskScratch() });
}

/** The same bytes under the path that proofs name. */
function called(source: ByteSource, name: string): ByteSource {
  return { name, size: source.size, read: (offset, length) => source.read(offset, length) };
}

function sumOf(source: ByteSource): string {
  const hash = createHash('sha256');
  const step = 1 << 20;
  for (let at = 0; at < source.size; at += step) hash.update(source.read(at, step));
  return hash.digest('hex');
}
