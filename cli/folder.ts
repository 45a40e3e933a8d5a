import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  renameSync,
  rmSync,
  statSync,
  writeSync
} from 'node:fs';
import { dirname, join } from 'node:path';
import { partialBeside } from './partial';

/** Takes the files of a package; nothing stands under its name before it is whole. */
export interface PackageSink {
  put(path: string, bytes: Uint8Array): void;
  /** Gives the package its name. */
  finish(): void;
}

/** Writes a package into a folder that is made for it. */
export class FolderSink implements PackageSink {
  private readonly partial: string;

  constructor(private readonly target: string) {
    this.partial = partialBeside(target);
    mkdirSync(this.partial, { recursive: true });
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
    // An empty folder of that name may be there.
    if (existsSync(this.target) && statSync(this.target).isDirectory())
      rmSync(this.target, { recursive: true });
    renameSync(this.partial, this.target);
  }
}

export function writeAll(out: number, bytes: Uint8Array): void {
  for (let done = 0; done < bytes.length;) done += writeSync(out, bytes, done);
}
