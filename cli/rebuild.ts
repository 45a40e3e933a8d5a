import { existsSync } from 'node:fs';
import { join } from 'node:path';
import initSqlJs from 'sql.js';
import { SourceFiles } from '../core/examine';
import type { Production, Rebuilder } from '../core/produce';
import type { ProducedFile } from '../core/produce';
import type { Source } from '../core/records';
import { storeRebuilder } from '../core/rebuild';
import { openInputs } from './inputs';
import { CaseReadError, type readCase } from './read-case';
import { DiskScratch } from './scratch';
import { VERSION } from './version';

type Found = Awaited<ReturnType<typeof readCase>>;

/** Rebuilds the stores that lines of a production were recovered from, out of the evidence in a folder. */
export function folderRebuilder(
  folder: string,
  { sources, findings }: Found,
  made: number
): Rebuilder {
  return async function* (production: Production): AsyncGenerator<ProducedFile> {
    const opened = new Map<string, SourceFiles>();
    const filesOf = async (id: string): Promise<SourceFiles> => {
      const files =
        opened.get(id) ??
        (await evidenceOf(
          folder,
          sources.find((s) => s.id === id)!
        ));
      opened.set(id, files);
      return files;
    };
    yield* storeRebuilder({
      stores: findings.stores.flatMap(({ source, path }) => {
        const found = sources.find(({ id }) => id === source);
        return found ? [{ source, sourceName: found.name, path }] : [];
      }),
      open: async (source, path) => (await filesOf(source)).open(path),
      missing: (path, name) => new CaseReadError(`${path} of ${name} is not in ${folder}.`),
      sql: await initSqlJs(),
      made,
      version: VERSION
    })(production);
  };
}

/** A source of the case in the folder of evidence: below it by its name, or the folder itself. */
function evidenceOf(folder: string, source: Source): Promise<SourceFiles> {
  const below = join(folder, source.name);
  const place = existsSync(below) ? below : folder;
  const { inputs, unopened } = openInputs([place]);
  const [input] = inputs;
  if (!input) throw new CaseReadError(`${place} ${unopened[0]?.reason ?? 'cannot be read'}.`);
  return SourceFiles.of(input, { keys: [], scratch: () => new DiskScratch() });
}
