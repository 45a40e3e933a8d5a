import type { InputFile } from '$core/pass';
import type { BlobHandle } from './helpers';

const SMALL = 1 << 14;

/** A file that the user gave, read in place. Only workers have the synchronous reader that this needs. */
export class BlobSource implements InputFile {
  readonly size: number;
  private readonly reader = new FileReaderSync();
  /** All of a small file: asking for it takes longer than reading it. */
  private whole: Uint8Array | null = null;

  constructor(
    private readonly blob: Blob,
    readonly name: string,
    readonly modifiedAt: number | null = null,
    readonly sha256?: string
  ) {
    this.size = blob.size;
  }

  get handle(): BlobHandle {
    return { blob: this.blob, name: this.name };
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset >= end) return new Uint8Array(0);
    if (this.size <= SMALL) {
      this.whole ??= new Uint8Array(this.reader.readAsArrayBuffer(this.blob));
      return this.whole.subarray(offset, end);
    }
    return new Uint8Array(this.reader.readAsArrayBuffer(this.blob.slice(offset, end)));
  }
}
