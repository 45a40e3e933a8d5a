import { closeSync, existsSync, linkSync, openSync, renameSync, rmSync } from 'node:fs';
import { Zip, ZipDeflate, ZipPassThrough } from 'fflate';
import { takenMeanwhile, writeAll, type PackageSink } from './folder';
import { partialBeside } from './partial';

/** What is packed already does not get smaller. */
const PACKED =
  /\.(jpe?g|png|gif|webp|heic|avif|mp4|mov|3gp|webm|m4a|aac|ogg|mp3|amr|pdf|xlsx|zip)$/i;

/** Writes a package as one archive, file by file. */
export class ZipSink implements PackageSink {
  private readonly partial: string;
  private readonly out: number;
  private readonly zip: Zip;
  private failure: Error | null = null;

  constructor(
    private readonly target: string,
    /** Folder inside the archive. */
    private readonly folder: string,
    private readonly made: number
  ) {
    this.partial = partialBeside(target);
    this.out = openSync(this.partial, 'wx');
    this.zip = new Zip((error, chunk) => {
      if (error) this.failure = error;
      else writeAll(this.out, chunk);
    });
  }

  put(path: string, bytes: Uint8Array): void {
    const name = `${this.folder}/${path}`;
    const entry = PACKED.test(path) ? new ZipPassThrough(name) : new ZipDeflate(name, { level: 6 });
    // Times in archives have no zone: those of UTC are the same everywhere.
    entry.mtime = new Date(this.made + new Date(this.made).getTimezoneOffset() * 60_000);
    this.zip.add(entry);
    entry.push(bytes, true);
    if (this.failure) throw this.failure;
  }

  finish(): void {
    this.zip.end();
    closeSync(this.out);
    if (this.failure) throw this.failure;
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
