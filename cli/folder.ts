import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  renameSync,
  rmdirSync,
  rmSync,
  writeSync
} from 'node:fs';
import { dirname, join } from 'node:path';
import { partialBeside } from './partial';
import { UsageError } from './usage-error';

/** Takes the files of a package; nothing stands under its name before it is whole. */
export interface PackageSink {
  put(path: string, bytes: Uint8Array): void | Promise<void>;
  /** Gives the package its name. @throws UsageError where something has that name by now */
  finish(): void | Promise<void>;
  /** Leaves nothing behind. */
  abandon(): void;
}

/** Another run, or somebody, was there first: what is theirs stays. */
export function takenMeanwhile(target: string): UsageError {
  return new UsageError(
    `${target} came into being while the records were produced; it was left as it is, and nothing was written.`
  );
}

/** Writes a package into a folder that is made for it. */
export class FolderSink implements PackageSink {
  private readonly partial: string;

  constructor(private readonly target: string) {
    this.partial = partialBeside(target);
    // Making all folders of a path at once never ends in places where none can be made.
    const above = dirname(this.partial);
    if (!existsSync(above)) mkdirSync(above, { recursive: true });
    mkdirSync(this.partial);
  }

  put(path: string, bytes: Uint8Array): void {
    const file = join(this.partial, path);
    mkdirSync(dirname(file), { recursive: true });
    const out = openSync(file, 'wx');
    try {
      writeAll(out, bytes);
    } finally {
      closeSync(out);
    }
  }

  finish(): void {
    // An empty folder of that name may be there; one that holds something by now is somebody's.
    try {
      if (existsSync(this.target)) rmdirSync(this.target);
      renameSync(this.partial, this.target);
    } catch (error) {
      if (existsSync(this.target)) throw takenMeanwhile(this.target);
      throw error;
    }
  }

  abandon(): void {
    rmSync(this.partial, { recursive: true, force: true });
  }
}

export function writeAll(out: number, bytes: Uint8Array): void {
  for (let done = 0; done < bytes.length;) done += writeSync(out, bytes, done);
}
