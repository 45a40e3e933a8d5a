import { MemorySource, type ByteSource } from './source';

/** A place for bytes that had to be unpacked or decrypted before they can be read at random. */
export interface ScratchFile {
  write(bytes: Uint8Array): void;
  readonly size: number;
  /** Ends the writing; the result reads what was written. */
  finish(name: string): ByteSource;
}

/** Makes scratch files; the host decides where they lie (memory, a disk without a name, a browser blob). */
export type Scratch = () => ScratchFile;

/** Scratch in memory, for small things and tests. */
export class MemoryScratch implements ScratchFile {
  private readonly parts: Uint8Array[] = [];
  size = 0;

  write(bytes: Uint8Array): void {
    this.parts.push(bytes.slice());
    this.size += bytes.length;
  }

  finish(name: string): ByteSource {
    const all = new Uint8Array(this.size);
    let at = 0;
    for (const part of this.parts) {
      all.set(part, at);
      at += part.length;
    }
    return new MemorySource(name, all);
  }
}

/** By what another thread opens a part of a source. */
export interface SliceHandle {
  readonly derived: 'slice';
  /** The handle of the source that it is a part of. */
  readonly of: unknown;
  readonly name: string;
  readonly start: number;
  readonly size: number;
}

/** Part of another source under a name of its own; the whole of it is that source by another name. */
export class SliceSource implements ByteSource {
  readonly size: number;
  readonly readInto?: (target: Uint8Array, offset: number) => number;

  constructor(
    readonly name: string,
    private readonly inner: ByteSource,
    private readonly start: number,
    size: number
  ) {
    this.size = Math.max(0, Math.min(size, inner.size - start));
    if (inner.readInto) this.readInto = (target, offset) => this.fill(target, offset);
  }

  get handle(): SliceHandle | undefined {
    const { name, start, size, inner } = this;
    if (inner.handle === undefined) return undefined;
    return { derived: 'slice', of: inner.handle, name, start, size };
  }

  private fill(target: Uint8Array, offset: number): number {
    const wanted = offset < 0 ? 0 : Math.max(0, Math.min(target.length, this.size - offset));
    if (wanted === 0) return 0;
    const place = wanted === target.length ? target : target.subarray(0, wanted);
    return this.inner.readInto!(place, this.start + offset);
  }

  read(offset: number, length: number): Uint8Array {
    const wanted = Math.min(length, this.size - offset);
    return wanted <= 0 || offset < 0
      ? new Uint8Array(0)
      : this.inner.read(this.start + offset, wanted);
  }
}
