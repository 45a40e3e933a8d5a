/**
 * A named, read-only run of bytes. Reading is synchronous on purpose: a page
 * walk touches hundreds of thousands of small ranges, and every place that
 * computes (a web worker with `FileReaderSync`, Node with `readSync`) can
 * answer at once. Nothing in `core` writes to a source.
 */
export interface ByteSource {
  /** Path or name as the user knows it; appears in proofs and notes. */
  readonly name: string;
  /** Size in bytes. */
  readonly size: number;
  /**
   * Returns up to `length` bytes from `offset`; fewer only at the end of the
   * source. The caller must not change the returned bytes, which may be
   * shared with a cache.
   */
  read(offset: number, length: number): Uint8Array;
  /** Like {@link read} for those who go over a source once: the bytes stand only until the next such call. */
  passing?(offset: number, length: number): Uint8Array;
  /** Like {@link read} for those who ask here and there: no more than that is read. */
  single?(offset: number, length: number): Uint8Array;
  /** Fills `target` from `offset`; returns how many bytes were there. Absent where the host cannot read into memory that is given. */
  readInto?(target: Uint8Array, offset: number): number;
  /** What the host can open the same bytes by in another thread; absent where it cannot. */
  readonly handle?: unknown;
}

/** Thrown when a structure asks for bytes that the source does not have, or holds impossible values. */
export class ByteRangeError extends Error {
  override readonly name = 'ByteRangeError';
  constructor(
    readonly source: string,
    readonly offset: number,
    readonly wanted: number,
    readonly available: number
  ) {
    super(`${source}: wanted ${wanted} bytes at offset ${offset}, ${available} are there`);
  }
}

/** A source over bytes that are already in memory. */
export class MemorySource implements ByteSource {
  constructor(
    readonly name: string,
    private readonly bytes: Uint8Array
  ) {}
  get size(): number {
    return this.bytes.length;
  }
  read(offset: number, length: number): Uint8Array {
    return this.bytes.subarray(
      Math.max(0, offset),
      Math.max(0, Math.min(offset + length, this.bytes.length))
    );
  }
}

/** Reads exactly `length` bytes or throws {@link ByteRangeError}. */
export function readExactly(source: ByteSource, offset: number, length: number): Uint8Array {
  const bytes = source.read(offset, length);
  if (bytes.length !== length) {
    throw new ByteRangeError(source.name, offset, length, bytes.length);
  }
  return bytes;
}

const CHUNK = 1 << 18;

/**
 * Wraps a source so that small reads come from a few large chunks
 * (256 KiB each, least recently used goes first). Same interface, so caching
 * is the caller's choice.
 */
export class ChunkedSource implements ByteSource {
  readonly name: string;
  readonly size: number;
  private readonly chunks = new Map<number, Uint8Array>();
  /** The chunk that is gone over, and how much of it is there. */
  private window: Uint8Array | null = null;
  private windowAt = -1;
  private filled = 0;

  constructor(
    private readonly inner: ByteSource,
    private readonly maxChunks = 64
  ) {
    this.name = inner.name;
    this.size = inner.size;
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset >= end) return new Uint8Array(0);
    const first = Math.floor(offset / CHUNK);
    if (Math.floor((end - 1) / CHUNK) !== first) return this.gather(offset, end);
    const base = first * CHUNK;
    return this.chunk(first).subarray(offset - base, end - base);
  }

  /** Large files are gone over several times: memory that is used again spares the collector gigabytes. */
  passing(offset: number, length: number): Uint8Array {
    const first = Math.floor(offset / CHUNK);
    const end = Math.min(offset + length, this.size);
    const isWithin = offset < end && Math.floor((end - 1) / CHUNK) === first;
    if (!isWithin || !this.inner.readInto || this.chunks.has(first))
      return this.read(offset, length);
    if (this.windowAt !== first) this.slide(first);
    const base = first * CHUNK;
    return this.window!.subarray(offset - base, Math.min(end - base, this.filled));
  }

  single(offset: number, length: number): Uint8Array {
    const isNear = this.chunks.has(Math.floor(offset / CHUNK));
    return isNear ? this.read(offset, length) : this.inner.read(offset, length);
  }

  private slide(index: number): void {
    this.window ??= new Uint8Array(CHUNK);
    this.windowAt = -1;
    this.filled = this.inner.readInto!(this.window, index * CHUNK);
    this.windowAt = index;
  }

  private gather(offset: number, end: number): Uint8Array {
    const out = new Uint8Array(end - offset);
    let at = offset;
    while (at < end) {
      const index = Math.floor(at / CHUNK);
      const base = index * CHUNK;
      const part = this.chunk(index).subarray(at - base, Math.min(end - base, CHUNK));
      if (part.length === 0) return out.subarray(0, at - offset);
      out.set(part, at - offset);
      at += part.length;
    }
    return out;
  }

  private chunk(index: number): Uint8Array {
    const known = this.chunks.get(index);
    if (known) {
      if (this.chunks.size >= this.maxChunks) {
        this.chunks.delete(index);
        this.chunks.set(index, known);
      }
      return known;
    }
    const bytes = this.inner.read(index * CHUNK, CHUNK);
    if (this.chunks.size >= this.maxChunks) {
      const oldest = this.chunks.keys().next();
      if (!oldest.done) this.chunks.delete(oldest.value);
    }
    this.chunks.set(index, bytes);
    return bytes;
  }
}
