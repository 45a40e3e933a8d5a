import { aeskw, cbc } from '@noble/ciphers/aes.js';
import type { ByteSource } from '../../host';

const BLOCK = 16;
const ZERO_IV = new Uint8Array(BLOCK);

/** AES-CBC without padding over whole blocks. */
export function decryptCbc(key: Uint8Array, iv: Uint8Array, bytes: Uint8Array): Uint8Array {
  return cbc(key, iv, { disablePadding: true }).decrypt(bytes);
}

/** Unwraps a key (RFC 3394); null when its check value is wrong. */
export function unwrapKey(kek: Uint8Array, wrapped: Uint8Array): Uint8Array | null {
  if (wrapped.length < 24 || wrapped.length % 8 !== 0) return null;
  try {
    return aeskw(kek).decrypt(wrapped);
  } catch (error) {
    if (error instanceof Error) return null;
    throw error;
  }
}

/** The length of the padding at the end of a decrypted block (RFC 5652, section 6.3); null when it is none. */
export function paddingOf(bytes: Uint8Array): number | null {
  const count = bytes[bytes.length - 1] ?? 0;
  if (count < 1 || count > BLOCK || count > bytes.length) return null;
  return bytes.subarray(bytes.length - count).every((byte) => byte === count) ? count : null;
}

/** By what another thread opens a locked source. The key goes to threads of this program alone. */
export interface CbcHandle {
  readonly derived: 'cbc';
  /** The handle of the locked bytes. */
  readonly of: unknown;
  readonly name: string;
  readonly key: Uint8Array;
  readonly iv: Uint8Array;
  readonly size: number;
}

/** Reads AES-CBC data as if they were plain; any range can be asked for, since a block needs only the one before it. */
export class CbcSource implements ByteSource {
  readonly size: number;

  constructor(
    readonly name: string,
    private readonly inner: ByteSource,
    private readonly key: Uint8Array,
    /** Size of the plain data, in bytes; null to take the padding off. */
    size: number | null,
    private readonly iv: Uint8Array = ZERO_IV
  ) {
    const whole = inner.size - (inner.size % BLOCK);
    this.size = whole;
    this.size = size === null ? whole - this.padding() : Math.min(size, whole);
  }

  private padding(): number {
    if (this.size < BLOCK) return 0;
    return paddingOf(this.read(this.size - BLOCK, BLOCK)) ?? 0;
  }

  /** Absent where the locked bytes can be read in this thread alone. */
  get handle(): CbcHandle | undefined {
    const { name, key, iv, size, inner } = this;
    if (inner.handle === undefined) return undefined;
    return { derived: 'cbc', of: inner.handle, name, key, iv, size };
  }

  readInto(target: Uint8Array, offset: number): number {
    const bytes = this.read(offset, target.length);
    target.set(bytes);
    return bytes.length;
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset >= end) return new Uint8Array(0);
    const first = offset - (offset % BLOCK);
    const last = Math.ceil(end / BLOCK) * BLOCK;
    const from = Math.max(0, first - BLOCK);
    const bytes = this.inner.read(from, last - from);
    const iv = first === 0 ? this.iv : bytes.subarray(0, BLOCK);
    const body = bytes.subarray(
      first - from,
      first - from + wholeBlocks(bytes.length - (first - from))
    );
    return decryptCbc(this.key, iv, body).subarray(offset - first, end - first);
  }
}

function wholeBlocks(length: number): number {
  return length - (length % BLOCK);
}
