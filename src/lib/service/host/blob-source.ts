import type { InputFile } from '$core/examine';
import type { BlobHandle } from './helpers';

/** Asking the browser for bytes takes as long as reading this many: what is read goes on to be near. */
const BLOCK = 1 << 17;
/** Blocks of all files that stay at hand. */
const MOST_BLOCKS = 48;

/** The blocks that were read last, of whatever file. */
const blocks = new Map<string, Uint8Array>();
let sources = 0;

/** A file that the user gave, read in place. Only workers have the synchronous reader that this needs. */
export class BlobSource implements InputFile {
  readonly size: number;
  private readonly reader = new FileReaderSync();
  private readonly id = ++sources;

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
    const index = Math.floor(offset / BLOCK);
    const isWithin = Math.floor((end - 1) / BLOCK) === index;
    if (!isWithin || end - offset > BLOCK / 2) return this.fetch(offset, end);
    const from = index * BLOCK;
    return this.block(index).subarray(offset - from, end - from);
  }

  private block(index: number): Uint8Array {
    const key = `${this.id}/${index}`;
    let block = blocks.get(key);
    if (block) blocks.delete(key);
    else block = this.fetch(index * BLOCK, Math.min((index + 1) * BLOCK, this.size));
    blocks.set(key, block);
    if (blocks.size > MOST_BLOCKS) blocks.delete(blocks.keys().next().value!);
    return block;
  }

  private fetch(from: number, to: number): Uint8Array {
    return new Uint8Array(this.reader.readAsArrayBuffer(this.blob.slice(from, to)));
  }
}
