import type { ByteSource, ScratchFile } from '$core/host';
import { BlobSource } from './blob-source';

/** Pieces are joined to blobs of this size, which the browser may move to disk. */
const PIECE = 4 << 20;

/** A scratch file as a blob, so that an unpacked archive does not fill the worker's memory. */
export class BlobScratch implements ScratchFile {
  private blobs: Blob[] = [];
  private pending: Uint8Array<ArrayBuffer>[] = [];
  private pendingSize = 0;
  size = 0;

  write(bytes: Uint8Array): void {
    this.pending.push(Uint8Array.from(bytes));
    this.pendingSize += bytes.length;
    this.size += bytes.length;
    if (this.pendingSize >= PIECE) this.flush();
  }

  private flush(): void {
    this.blobs.push(new Blob(this.pending));
    this.pending = [];
    this.pendingSize = 0;
  }

  finish(name: string): ByteSource {
    this.flush();
    return new BlobSource(new Blob(this.blobs), name);
  }
}
