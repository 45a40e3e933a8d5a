import type { InputFile } from '$core/pass';
import type { BlobHandle } from './helpers';

/** A file that the user gave, read in place. Only workers have the synchronous reader that this needs. */
export class BlobSource implements InputFile {
  readonly size: number;
  private readonly reader = new FileReaderSync();

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
    return new Uint8Array(this.reader.readAsArrayBuffer(this.blob.slice(offset, end)));
  }
}
