import { createSHA256 } from 'hash-wasm';
import type { Hasher } from '$core/pass';

export async function sha256Hasher(): Promise<Hasher> {
  const hash = await createSHA256();
  hash.init();
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
}

export async function sha256(bytes: Uint8Array): Promise<string> {
  const hasher = await sha256Hasher();
  hasher.update(bytes);
  return hasher.digest();
}
