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

/** Part of another source under a name of its own. */
export class SliceSource implements ByteSource {
  readonly size: number;

  constructor(
    readonly name: string,
    private readonly inner: ByteSource,
    private readonly start: number,
    size: number
  ) {
    this.size = Math.max(0, Math.min(size, inner.size - start));
  }

  read(offset: number, length: number): Uint8Array {
    const wanted = Math.min(length, this.size - offset);
    return wanted <= 0 || offset < 0
      ? new Uint8Array(0)
      : this.inner.read(this.start + offset, wanted);
  }
}
