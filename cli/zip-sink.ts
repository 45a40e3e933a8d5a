import { closeSync, existsSync, linkSync, openSync, renameSync, rmSync } from 'node:fs';
import { makeZip } from 'client-zip';
import { inUtc } from '../core/shown';
import { takenMeanwhile, writeAll, type PackageSink } from './folder';
import { partialBeside } from './partial';

interface Entry {
  name: string;
  input: Uint8Array;
  lastModified: Date;
}

/** Writes a package as one archive, file by file, of any size and number (ZIP64). */
export class ZipSink implements PackageSink {
  private readonly partial: string;
  private readonly out: number;
  private readonly entries: WritableStreamDefaultWriter<Entry>;
  private readonly written: Promise<void>;
  private failure: unknown = null;

  constructor(
    private readonly target: string,
    /** Folder inside the archive. */
    private readonly folder: string,
    private readonly made: number
  ) {
    this.partial = partialBeside(target);
    this.out = openSync(this.partial, 'wx');
    const { readable, writable } = new TransformStream<Entry, Entry>();
    this.entries = writable.getWriter();
    this.written = this.write(readable).catch((error: unknown) => {
      this.failure = error;
    });
  }

  private async write(entries: ReadableStream<Entry>): Promise<void> {
    const zip = makeZip(entries as unknown as AsyncIterable<Entry>);
    for await (const chunk of zip as unknown as AsyncIterable<Uint8Array>)
      writeAll(this.out, chunk);
  }

  async put(path: string, bytes: Uint8Array): Promise<void> {
    const lastModified = inUtc(this.made);
    const name = `${this.folder}/${path}`;
    await Promise.race([this.entries.write({ name, input: bytes, lastModified }), this.written]);
    if (this.failure !== null) throw this.failure;
  }

  async finish(): Promise<void> {
    await Promise.race([this.entries.close(), this.written]);
    await this.written;
    closeSync(this.out);
    if (this.failure !== null) throw this.failure;
    try {
      // A link is only made where nothing has the name; a rename would take the place of what is there.
      linkSync(this.partial, this.target);
    } catch {
      if (existsSync(this.target)) throw takenMeanwhile(this.target);
      // Some disks know no links.
      renameSync(this.partial, this.target);
      return;
    }
    rmSync(this.partial);
  }

  abandon(): void {
    rmSync(this.partial, { force: true });
  }
}
