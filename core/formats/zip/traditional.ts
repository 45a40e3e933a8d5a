import { crc32Step, type ByteSource, type ScratchFile } from '../../host';
import type { PackageStep } from '../types';

/** Bytes before the data that are random but for the last one or two (APPNOTE.TXT 6.3, section 6.1.6). */
export const HEADER = 12;
const STEP = 1 << 18;

/** The three keys of traditional encryption, changed by every plain byte (section 6.1.5). */
class Cipher {
  private a = 0x12345678;
  private b = 0x23456789;
  private c = 0x34567890;

  constructor(password: Uint8Array) {
    for (const byte of password) this.update(byte);
  }

  private update(plain: number): void {
    this.a = crc32Step(this.a, plain);
    this.b = (Math.imul(this.b + (this.a & 0xff), 134775813) + 1) | 0;
    this.c = crc32Step(this.c, this.b >>> 24);
  }

  /** Decrypts in place. */
  decrypt(bytes: Uint8Array): void {
    for (let i = 0; i < bytes.length; i++) {
      const key = (this.c | 2) & 0xffff;
      const plain = bytes[i]! ^ ((Math.imul(key, key ^ 1) >>> 8) & 0xff);
      bytes[i] = plain;
      this.update(plain);
    }
  }
}

/** Whether a password may be the right one: one in 256 wrong ones passes. */
export function mayFit(header: Uint8Array, password: Uint8Array, check: number): boolean {
  if (header.length < HEADER) return false;
  const plain = new Uint8Array(header.subarray(0, HEADER));
  new Cipher(password).decrypt(plain);
  return plain[HEADER - 1] === check;
}

/** Decrypts a run that begins with the header; what comes out is as it was packed. */
export function* decrypted(
  source: ByteSource,
  start: number,
  length: number,
  password: Uint8Array,
  into: ScratchFile
): Generator<PackageStep, void> {
  const cipher = new Cipher(password);
  for (let done = 0; done < length;) {
    const bytes = new Uint8Array(source.read(start + done, Math.min(STEP, length - done)));
    if (bytes.length === 0) return;
    cipher.decrypt(bytes);
    into.write(done === 0 ? bytes.subarray(HEADER) : bytes);
    done += bytes.length;
    yield { stage: 'unpack', done, total: length };
  }
}
