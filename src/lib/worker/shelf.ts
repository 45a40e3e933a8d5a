import type { FileRecord, Findings, Source, SourceGlance } from '$core/records';
import { numberLines } from '$core/threads';
import { byTime } from '$core/threads';
import { openStorage } from '../storage/open';
import type {
  CaseRecord,
  ChunkRecord,
  CopiedFrom,
  PassState,
  SourceRecord
} from '../storage/schema';
import { createSHA256, type IHasher } from 'hash-wasm';
import { BlobSource } from './blob-source';
import type { AddResult, NamedBlob } from './protocol';

const CHUNK = 2000;
const HASH_STEP = 1 << 22;
const REPORT_EVERY = 100;

interface HashedFile {
  path: string;
  bytes: number;
  sha256: string;
  modifiedAt: number | null;
  blob: Blob;
}

/** Reads and writes a case's sources and what passes found in them. */
export class Shelf {
  constructor(private readonly caseId: string) {}

  async sources(): Promise<SourceRecord[]> {
    const db = await openStorage();
    const all = await db.getAllFromIndex('sources', 'case', this.caseId);
    return all.sort((a, b) => a.addedAt - b.addedAt);
  }

  async chunks(): Promise<ChunkRecord[]> {
    const db = await openStorage();
    return db.getAllFromIndex('chunks', 'case', this.caseId);
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

  async remove(id: string): Promise<void> {
    const db = await openStorage();
    const tx = db.transaction(['sources', 'chunks', 'files'], 'readwrite');
    await tx.objectStore('sources').delete(this.key(id));
    await tx.objectStore('files').delete(range([this.caseId, id]));
    await deleteChunks(tx.objectStore('chunks'), [this.caseId, id]);
    await tx.done;
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
    await (await openStorage()).delete('files', range([this.caseId, id]));
  }

  async keepFiles(sourceId: string, files: FileRecord[]): Promise<void> {
    const db = await openStorage();
    const { caseId } = this;
    const part = await db.count('files', range([caseId, sourceId]));
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

  /**
   * Keeps what a pass found of one store, in place of what was known of it.
   * Lines get their numbers only when the pass is sure (`final`), so that a
   * number once seen stays.
   */
  async keep(
    sourceId: string,
    findings: Findings,
    final: boolean,
    record: CaseRecord
  ): Promise<CaseRecord> {
    const store = findings.stores[0]!;
    const given = new Map<string, number>();
    const db = await openStorage();
    const tx = db.transaction(['sources', 'chunks', 'cases'], 'readwrite');
    const chunks = tx.objectStore('chunks');
    for (const chunk of await chunks.getAll(range([this.caseId, sourceId, store.id]))) {
      chunk.messages.forEach((m, i) => chunk.lines[i] && given.set(m.id, chunk.lines[i]!));
    }
    const numbers = final ? numberFrom(given, findings, record.lastLine) : given;
    await deleteChunks(chunks, [this.caseId, sourceId, store.id]);
    for (const chunk of cut(this.caseId, sourceId, findings, numbers)) await chunks.put(chunk);
    const source = await tx.objectStore('sources').get(this.key(sourceId));
    if (source) {
      const others = source.stores.filter((s) => s.id !== store.id);
      await tx.objectStore('sources').put({ ...source, stores: [...others, store] });
    }
    const current = (await tx.objectStore('cases').get(this.caseId)) ?? record;
    const lastLine = Math.max(current.lastLine, ...lastOf(numbers));
    const updated = { ...current, lastLine };
    await tx.objectStore('cases').put(updated);
    await tx.done;
    return updated;
  }
}

function lastOf(numbers: Map<string, number>): number[] {
  let last = 0;
  for (const number of numbers.values()) if (number > last) last = number;
  return [last];
}

/** Conversation by conversation, in time; numbers go on from the case's last one. */
function numberFrom(
  given: Map<string, number>,
  findings: Findings,
  last: number
): Map<string, number> {
  const order = new Map(findings.threads.map((thread, i) => [thread.id, i]));
  const messages = [...findings.messages].sort(
    (a, b) => order.get(a.thread)! - order.get(b.thread)! || byTime(a, b)
  );
  const base = new Map(given);
  if (last > 0 && ![...given.values()].includes(last)) base.set('', last);
  const numbers = numberLines(base, messages);
  numbers.delete('');
  return numbers;
}

function* cut(
  caseId: string,
  sourceId: string,
  findings: Findings,
  numbers: Map<string, number>
): Generator<ChunkRecord> {
  const store = findings.stores[0]!.id;
  const parts = Math.max(1, Math.ceil(findings.messages.length / CHUNK));
  for (let part = 0; part < parts; part++) {
    const messages = findings.messages.slice(part * CHUNK, (part + 1) * CHUNK);
    yield {
      caseId,
      sourceId,
      store,
      part,
      threads: part === 0 ? findings.threads : [],
      people: part === 0 ? findings.people : [],
      messages,
      lines: messages.map((message) => numbers.get(message.id) ?? 0),
      attachments: part === 0 ? findings.attachments : [],
      calls: part === 0 ? findings.calls : [],
      contacts: part === 0 ? findings.contacts : [],
      gaps: part === 0 ? findings.gaps : []
    };
  }
}

/** All keys that begin with the given parts. */
function range(prefix: string[]): IDBKeyRange {
  return IDBKeyRange.bound(prefix, [...prefix, []]);
}

async function deleteChunks(
  store: { delete(range: IDBKeyRange): Promise<void> },
  prefix: string[]
): Promise<void> {
  await store.delete(range(prefix));
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
