import { CopyError, PART, type CopyLogEntry, type CopyPlace } from '$core/acquire';
import { openStorage } from './open';
import type { CopyRecord } from './schema';

export async function keptCopies(caseId: string): Promise<CopyRecord[]> {
  return (await openStorage()).getAllFromIndex('copies', 'case', caseId);
}

export async function keptCopy(key: string): Promise<CopyRecord | undefined> {
  return (await openStorage()).get('copies', key);
}

export async function keepCopy(record: CopyRecord): Promise<void> {
  await (await openStorage()).put('copies', record);
}

/** Removes a copy that is not wanted any more, or that became a source. */
export async function removeCopy(key: string): Promise<void> {
  const tx = (await openStorage()).transaction(['copies', 'copyParts', 'copyLines'], 'readwrite');
  const own = IDBKeyRange.bound([key], [key, []]);
  await tx.objectStore('copies').delete(key);
  await tx.objectStore('copyParts').delete(own);
  await tx.objectStore('copyLines').delete(own);
  await tx.done;
}

/** A copy in this browser: its parts are kept one by one as they are verified. */
export class BrowserCopy implements CopyPlace {
  private constructor(
    private readonly key: string,
    private readonly parts: Map<string, Blob[]>,
    readonly entries: CopyLogEntry[]
  ) {}

  static async open(key: string): Promise<BrowserCopy> {
    const db = await openStorage();
    const own = IDBKeyRange.bound([key], [key, []]);
    const parts = new Map<string, Blob[]>();
    for (const { path, n, blob } of await db.getAll('copyParts', own)) {
      const known = parts.get(path) ?? [];
      known[n] = blob;
      parts.set(path, known);
    }
    const lines = await db.getAll('copyLines', own);
    return new BrowserCopy(
      key,
      parts,
      lines.map(({ entry }) => entry)
    );
  }

  log(): Promise<CopyLogEntry[]> {
    return Promise.resolve([...this.entries]);
  }

  async addToLog(entry: CopyLogEntry): Promise<void> {
    const n = this.entries.push(entry) - 1;
    await this.kept(async () => {
      await (await openStorage()).put('copyLines', { copy: this.key, n, entry });
    });
  }

  size(path: string): Promise<number> {
    return Promise.resolve(this.blob(path).size);
  }

  /** What is there of a file. */
  blob(path: string): Blob {
    return new Blob(this.parts.get(path) ?? []);
  }

  async read(path: string, offset: number, length: number): Promise<Uint8Array> {
    const part = this.blob(path).slice(offset, offset + length);
    return new Uint8Array(await part.arrayBuffer());
  }

  async append(path: string, bytes: Uint8Array): Promise<void> {
    const known = this.parts.get(path) ?? [];
    const blob = new Blob([Uint8Array.from(bytes)]);
    const n = known.length;
    await this.kept(async () => {
      await (await openStorage()).put('copyParts', { copy: this.key, path, n, blob });
    });
    known.push(blob);
    this.parts.set(path, known);
  }

  /** Parts have one size, so a cut is at the bound of one. */
  async cut(path: string, size: number): Promise<void> {
    const left = Math.ceil(size / PART);
    const db = await openStorage();
    await db.delete(
      'copyParts',
      IDBKeyRange.bound([this.key, path, left], [this.key, path, Infinity])
    );
    this.parts.set(path, (this.parts.get(path) ?? []).slice(0, left));
  }

  /** It becomes a source by being added to this case. */
  finish(): Promise<void> {
    return Promise.resolve();
  }

  private async kept(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      if (!(error instanceof DOMException) || error.name !== 'QuotaExceededError') throw error;
      throw new CopyError(
        'no-room',
        'This browser has no room left for the copy. Make room, then resume it.'
      );
    }
  }
}
