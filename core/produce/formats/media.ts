import type { Production } from '../model';
import type { FormatContext, ProducedFile } from './format';

/** The files that came with the lines, each once, as they are but for what is covered. */
export async function* produceMedia(
  { threads }: Production,
  { media, signal }: FormatContext
): AsyncGenerator<ProducedFile> {
  const written = new Set<string>();
  for (const { lines } of threads)
    for (const file of lines.flatMap(({ attachments }) => attachments)) {
      signal.throwIfAborted();
      const found = await media.get(file);
      if (typeof found === 'string' || written.has(found.name)) continue;
      written.add(found.name);
      yield { path: `media/${found.name}`, bytes: found.bytes };
    }
}
