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

/** Everything covered that stands in a file, in whatever encoding or packing, each once. */
export function leaksIn(bytes: Uint8Array, secrets: Secrets, letGo: LetGo | null = null): Leak[] {
  if (secrets.isEmpty || letGo?.has(bytes)) return [];
  const leaks = new Map<string, Leak>();
  for (const { where, text } of decodedTexts(bytes, '', 0, letGo))
    for (const { form, code } of secrets.formsIn(text))
      if (!leaks.has(form)) leaks.set(form, { form, code, where });
  return [...leaks.values()];
}
