import { mkdtempSync, openSync, readSync, rmSync, unlinkSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MemoryScratch, type ByteSource, type ScratchFile } from '../core/host';

/** What is larger than this goes to disk. */
const IN_MEMORY = 8 << 20;

let folder: string | null = null;
let count = 0;

/** A scratch file that moves to a nameless file on disk when it grows. */
export class DiskScratch implements ScratchFile {
  private memory: MemoryScratch | null = new MemoryScratch();
  private descriptor = -1;
  size = 0;

  write(bytes: Uint8Array): void {
    if (this.memory && this.size + bytes.length > IN_MEMORY) this.moveToDisk(this.memory);
    if (this.memory) this.memory.write(bytes);
    else writeAll(this.descriptor, bytes, this.size);
    this.size += bytes.length;
  }

  private moveToDisk(memory: MemoryScratch): void {
    this.descriptor = nameless();
    const had = memory.finish('');
    writeAll(this.descriptor, had.read(0, had.size), 0);
    this.memory = null;
  }

  finish(name: string): ByteSource {
    return this.memory
      ? this.memory.finish(name)
      : new DiskSource(name, this.descriptor, this.size);
  }
}

/** How a scratch file is read in another thread: descriptors are those of the whole process. */
export interface ScratchHandle {
  descriptor: number;
  name: string;
  size: number;
}

/** A scratch file that was written to its end. */
export class DiskSource implements ByteSource {
  constructor(
    readonly name: string,
    private readonly descriptor: number,
    readonly size: number
  ) {}

  get handle(): ScratchHandle {
    const { descriptor, name, size } = this;
    return { descriptor, name, size };
  }

  read(offset: number, length: number): Uint8Array {
    const bytes = new Uint8Array(Math.max(0, Math.min(length, this.size - offset)));
    return bytes.subarray(0, this.readInto(bytes, offset));
  }

  readInto(target: Uint8Array, offset: number): number {
    const wanted = Math.max(0, Math.min(target.length, this.size - offset));
    let have = 0;
    while (have < wanted) {
      const got = readSync(this.descriptor, target, have, wanted - have, offset + have);
      if (got === 0) break;
      have += got;
    }
    return have;
  }
}

function writeAll(descriptor: number, bytes: Uint8Array, at: number): void {
  for (let done = 0; done < bytes.length;) {
    done += writeSync(descriptor, bytes, done, bytes.length - done, at + done);
  }
}

/** Opened and unlinked at once, so that nothing decrypted is left behind whatever happens. */
function nameless(): number {
  if (folder === null) {
    folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
    const made = folder;
    process.on('exit', () => rmSync(made, { recursive: true, force: true }));
  }
  const path = join(folder, String(++count));
  const descriptor = openSync(path, 'w+', 0o600);
  unlinkSync(path);
  return descriptor;
}
