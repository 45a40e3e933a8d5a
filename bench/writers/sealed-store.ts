import { createCipheriv, createHmac, hkdfSync, pbkdf2Sync, randomBytes } from 'node:crypto';
import { deflateSync } from 'node:zlib';

export interface SealPlan {
  name: string;
  store: Uint8Array;
  /** A 64-digit hex key, or a password. */
  key: { hex: string } | { password: string; rounds: number };
  chunk?: number;
  random?: (length: number) => Buffer;
}

/** Seals a store as docs/sealed-store.md describes. */
export function sealStore({
  name,
  store,
  key,
  chunk = 65_536,
  random = randomBytes
}: SealPlan): Buffer {
  const salt = random(16);
  const nonce = random(8);
  const info = 'store';
  const secret =
    'hex' in key
      ? Buffer.from(hkdfSync('sha256', Buffer.from(key.hex, 'hex'), salt, info, 32))
      : pbkdf2Sync(key.password, salt, key.rounds, 32, 'sha256');
  const derive =
    'hex' in key
      ? { by: 'hkdf-sha256', salt: salt.toString('hex'), info }
      : { by: 'pbkdf2-sha256', salt: salt.toString('hex'), rounds: key.rounds };
  const check = createHmac('sha256', secret).update('check').digest('hex').slice(0, 32);
  const header = Buffer.from(
    JSON.stringify({
      name,
      bytes: store.length,
      chunk,
      nonce: nonce.toString('hex'),
      check,
      derive
    })
  );
  const length = Buffer.alloc(4);
  length.writeUInt32BE(header.length);
  const chunks = sealChunks(deflateSync(store), chunk, secret, nonce);
  return Buffer.concat([Buffer.from('SEALED-STORE 1\n\0', 'latin1'), length, header, ...chunks]);
}

function sealChunks(packed: Buffer, chunk: number, secret: Buffer, nonce: Buffer): Buffer[] {
  const out: Buffer[] = [];
  for (let n = 0; n * chunk < packed.length; n++) {
    const iv = Buffer.alloc(12);
    nonce.copy(iv);
    iv.writeUInt32BE(n, 8);
    const cipher = createCipheriv('aes-256-gcm', secret, iv);
    out.push(
      cipher.update(packed.subarray(n * chunk, (n + 1) * chunk)),
      cipher.final(),
      cipher.getAuthTag()
    );
  }
  return out;
}
