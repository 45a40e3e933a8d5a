import { filesOf, type Production } from '../model';
import type { FormatContext, ProducedFile } from './format';

/** The files of a production, each once, as they are but for what is covered; with copies that every program opens. */
export async function* produceMedia(
  production: Production,
  { media, signal }: FormatContext
): AsyncGenerator<ProducedFile> {
  const written = new Set<string>();
  for (const file of filesOf(production)) {
    signal.throwIfAborted();
    const found = await media.get(file);
    if (typeof found === 'string' || written.has(found.name)) continue;
    written.add(found.name);
    yield { path: `media/${found.name}`, bytes: found.bytes };
    const copy = await media.readable(found);
    if (copy) yield { path: `media/readable/${copy.name}`, bytes: copy.bytes };
  }
}
