import { createCipheriv, pbkdf2Sync, randomBytes } from 'node:crypto';
import { deflateSync } from 'node:zlib';

export interface AbPlan {
  tar: Uint8Array;
  compressed: boolean;
  password?: string;
  rounds?: number;
  random?: (length: number) => Buffer;
}

/** An `.ab` archive around a tar file. */
export function writeAb(plan: AbPlan): Buffer {
  const body = plan.compressed ? deflateSync(plan.tar) : Buffer.from(plan.tar);
  const head = `ANDROID BACKUP\n5\n${plan.compressed ? 1 : 0}\n`;
  if (plan.password === undefined) return Buffer.concat([Buffer.from(`${head}none\n`), body]);
  const random = plan.random ?? ((length) => randomBytes(length));
  const rounds = plan.rounds ?? 10_000;
  const [userSalt, checkSalt, userIv, masterIv, masterKey] = [
    random(64),
    random(64),
    random(16),
    random(16),
    random(32)
  ];
  const userKey = pbkdf2Sync(plan.password, userSalt, rounds, 32, 'sha1');
  const check = pbkdf2Sync(signExtended(masterKey), checkSalt, rounds, 32, 'sha1');
  const blob = Buffer.concat([sized(masterIv), sized(masterKey), sized(check)]);
  const lines = [
    'AES-256',
    hex(userSalt),
    hex(checkSalt),
    String(rounds),
    hex(userIv),
    hex(cbc(userKey, userIv, blob))
  ];
  return Buffer.concat([
    Buffer.from(`${head}${lines.join('\n')}\n`),
    cbc(masterKey, masterIv, body)
  ]);
}

function sized(bytes: Buffer): Buffer {
  return Buffer.concat([Buffer.from([bytes.length]), bytes]);
}

function cbc(key: Buffer, iv: Buffer, bytes: Buffer): Buffer {
  const cipher = createCipheriv('aes-256-cbc', key, iv);
  return Buffer.concat([cipher.update(bytes), cipher.final()]);
}

function hex(bytes: Buffer): string {
  return bytes.toString('hex').toUpperCase();
}

/** Bytes taken for signed characters, in UTF-8. */
function signExtended(key: Buffer): Buffer {
  const chars = Array.from(key, (byte) => String.fromCharCode(byte < 128 ? byte : 0xff00 | byte));
  return Buffer.from(chars.join(''), 'utf8');
}
