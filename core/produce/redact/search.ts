import { decodedTexts } from './decode';
import type { LetGo } from './let-go';
import type { Secrets } from './match';

/** What is covered and stands in a finished file all the same. */
export interface Leak {
  /** The normal form of what stands there; never to be shown. */
  form: string;
  code: string;
  where: string;
}

/** What a search of a file gave. */
export interface Searched {
  /** Everything covered that stands in it, in whatever encoding or packing, each once. */
  leaks: Leak[];
  /** Its parts that cannot be read here, in words; empty for the file itself. */
  unread: string[];
}

/** Searches a file for everything covered. */
export async function searched(
  bytes: Uint8Array,
  secrets: Secrets,
  letGo: LetGo | null = null
): Promise<Searched> {
  if (secrets.isEmpty || letGo?.has(bytes)) return { leaks: [], unread: [] };
  const leaks = new Map<string, Leak>();
  const unread = new Set<string>();
  for await (const { where, text } of decodedTexts(bytes, '', 0, letGo)) {
    if (text === null) unread.add(where);
    else
      for (const { form, code } of secrets.formsIn(text))
        if (!leaks.has(form)) leaks.set(form, { form, code, where });
  }
  return { leaks: [...leaks.values()], unread: [...unread] };
}
