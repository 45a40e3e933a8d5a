import { sha256 } from '@noble/hashes/sha2.js';
import { toHex } from '../../bytes';
import { decodedTexts } from './decode';
import type { Secrets } from './match';

/** What is covered and stands in a finished file all the same. */
export interface Leak {
  /** The normal form of what stands there; never to be shown. */
  form: string;
  code: string;
  where: string;
}

/** Files that go along as they are, told by their checksums: what stands in them was decided. */
export class LetGo {
  private readonly sums = new Map<number, Set<string>>();

  add(bytes: Uint8Array): void {
    const known = this.sums.get(bytes.length) ?? new Set();
    known.add(toHex(sha256(bytes)));
    this.sums.set(bytes.length, known);
  }

  has(bytes: Uint8Array): boolean {
    return this.sums.get(bytes.length)?.has(toHex(sha256(bytes))) ?? false;
  }
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
