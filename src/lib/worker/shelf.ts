import type { FileRecord, Source, SourceGlance } from '$core/records';
import { keysFrom } from '../storage/lines';
import { openStorage } from '../storage/open';
import type { CopiedFrom, PassState, SourceRecord } from '../storage/schema';
import { createSHA256, type IHasher } from 'hash-wasm';
import { BlobSource } from './blob-source';
import type { AddResult, NamedBlob } from './protocol';

const HASH_STEP = 1 << 22;
const REPORT_EVERY = 100;

interface HashedFile {
  path: string;
  bytes: number;
  sha256: string;
  modifiedAt: number | null;
  blob: Blob;
}

/** Reads and writes a case's sources. */
export class Shelf {
  constructor(private readonly caseId: string) {}

  async sources(): Promise<SourceRecord[]> {
    const db = await openStorage();
    const all = await db.getAllFromIndex('sources', 'case', this.caseId);
    return all.sort((a, b) => a.addedAt - b.addedAt);
  }

  async get(id: string): Promise<SourceRecord | undefined> {
    return (await openStorage()).get('sources', this.key(id));
  }

  private key(id: string): string {
    return `${this.caseId}/${id}`;
  }

  /** Hashes the files, keeps them in this browser and puts the source on the shelf. */
  async add(
    name: string,
    files: NamedBlob[],
    report: (fraction: number) => void,
    copied?: CopiedFrom
  ): Promise<AddResult> {
    const total = files.reduce((sum, file) => sum + file.blob.size, 0);
    const short = await missingRoom(total);
    if (short !== null) return { ok: false, reason: short };
    let done = 0;
    const hashed: HashedFile[] = [];
    const hasher = await createSHA256();
    let nextReport = 0;
    let nextRest = Date.now() + REPORT_EVERY;
    for (const { path, blob } of files) {
      const sha256 = hashBlob(hasher, blob, (bytes) => {
        done += bytes;
        // A folder can hold a hundred thousand files; the page is told now and then.
        if (Date.now() < nextReport) return;
        nextReport = Date.now() + REPORT_EVERY;
        report(done / Math.max(total, 1));
      });
      if (Date.now() > nextRest) {
        await new Promise((resolve) => setTimeout(resolve));
        nextRest = Date.now() + REPORT_EVERY;
      }
      const modifiedAt = blob instanceof File ? blob.lastModified : null;
      hashed.push({ path, bytes: blob.size, sha256, modifiedAt, blob });
    }
    return this.store(name, hashed, copied);
  }

  private async store(
    name: string,
    files: HashedFile[],
    copied: CopiedFrom | undefined
  ): Promise<AddResult> {
    const present = await this.sources();
    const listing = fingerprint(files);
    const known = present.find((source) => fingerprint(source.files) === listing)?.name ?? null;
    const highest = Math.max(0, ...present.map((source) => Number(source.id.slice(1))));
    const id = `s${highest + 1}`;
    const source: SourceRecord = {
      key: this.key(id),
      caseId: this.caseId,
      id,
      name,
      addedAt: Date.now(),
      files: files.map(({ path, bytes, sha256, modifiedAt }) => ({
        path,
        bytes,
        sha256,
        modifiedAt
      })),
      source: null,
      pass: { state: 'none' },
      stores: [],
      glance: null,
      ...(copied ? { copied } : {})
    };
    const db = await openStorage();
    const tx = db.transaction(['sources', 'blobs'], 'readwrite');
    try {
      // Put together, not one after the other: only the whole has to have come to an end.
      const blobs = tx.objectStore('blobs');
      const puts = files.map(({ sha256, blob }) => blobs.put({ sha256, blob }));
      await Promise.all([...puts, tx.objectStore('sources').put(source), tx.done]);
    } catch (error) {
      if (error instanceof DOMException && error.name === 'QuotaExceededError') {
        return {
          ok: false,
          reason: `${name} was not added: this browser has no room left for it.`
        };
      }
      throw error;
    }
    return { ok: true, source, known };
  }

  /** Takes a source from which nothing was read yet off the shelf. */
  async remove(id: string): Promise<void> {
    await (await openStorage()).delete('sources', this.key(id));
  }

  async blob(sha256: string): Promise<Blob | null> {
    return (await (await openStorage()).get('blobs', sha256))?.blob ?? null;
  }

  /** The blobs of many files at once, in their order. */
  async blobs(sha256: readonly string[]): Promise<(Blob | undefined)[]> {
    const store = (await openStorage()).transaction('blobs').objectStore('blobs');
    return Promise.all(sha256.map(async (key) => (await store.get(key))?.blob));
  }

  /** What a pass recognised, before it is over. */
  async setSource(id: string, source: Source): Promise<void> {
    const record = await this.get(id);
    if (record) await (await openStorage()).put('sources', { ...record, source });
  }

  /** Keeps what was seen of a source before any pass. */
  async setGlance(id: string, glance: SourceGlance): Promise<void> {
    const record = await this.get(id);
    if (record) await (await openStorage()).put('sources', { ...record, glance });
  }

  async clearFiles(id: string): Promise<void> {
    await (await openStorage()).delete('files', keysFrom([this.caseId, id]));
  }

  async keepFiles(sourceId: string, files: FileRecord[]): Promise<void> {
    const db = await openStorage();
    const { caseId } = this;
    const part = await db.count('files', keysFrom([caseId, sourceId]));
    await db.put('files', { caseId, sourceId, part, files });
  }

  async files(): Promise<FileRecord[]> {
    const all = await (await openStorage()).getAllFromIndex('files', 'case', this.caseId);
    return all.flatMap(({ files }) => files);
  }

  async setPass(id: string, pass: PassState, source?: Source): Promise<void> {
    const record = await this.get(id);
    if (!record) return;
    await (
      await openStorage()
    ).put('sources', { ...record, pass, source: source ?? record.source });
  }
}

function fingerprint(files: { path: string; sha256: string }[]): string {
  return files
    .map((file) => `${file.sha256} ${file.path}`)
    .sort()
    .join('\n');
}

function hashBlob(hasher: IHasher, blob: Blob, read: (bytes: number) => void): string {
  hasher.init();
  const source = new BlobSource(blob, '');
  for (let at = 0; at < blob.size; at += HASH_STEP) {
    const part = source.read(at, HASH_STEP);
    hasher.update(part);
    read(part.length);
  }
  return hasher.digest('hex');
}

/** Says beforehand, with figures, when the browser's share of the disk is too small. */
async function missingRoom(bytes: number): Promise<string | null> {
  const { quota, usage } = await navigator.storage.estimate();
  if (quota === undefined || usage === undefined || bytes * 1.2 <= quota - usage) return null;
  const mb = (n: number): string => `${Math.ceil(n / 1e6).toLocaleString('en')} MB`;
  return `This browser can keep ${mb(quota - usage)} more, and the source with its findings needs about ${mb(bytes * 1.2)}. Make room on the disk, or delete a case, and add it again.`;
}
