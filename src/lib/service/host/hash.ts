import { sha256 as plainSha256 } from '@noble/hashes/sha2.js';
import { createSHA256 } from 'hash-wasm';
import { toHex } from '$core/host';
import type { Hasher } from '$core/examine';

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

/** A checksum that can be begun at once, for many small files. */
export function newHash(): Hasher {
  const hash = plainSha256.create();
  return { update: (bytes) => void hash.update(bytes), digest: () => toHex(hash.digest()) };
}

/** Of a blob, a part at a time. */
export async function blobSha256(blob: Blob): Promise<string> {
  const hasher = await sha256Hasher();
  for (let at = 0; at < blob.size; at += PART)
    hasher.update(new Uint8Array(await blob.slice(at, at + PART).arrayBuffer()));
  return hasher.digest();
}

const PART = 1 << 24;
