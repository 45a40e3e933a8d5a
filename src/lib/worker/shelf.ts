import type { FileRecord, Source, SourceGlance } from '$core/records';
import { keysFrom } from '../storage/lines';
import { openStorage } from '../storage/open';
import { keepFiles, keepPlace, keptBlobs, placeOf, type HashedFile } from '../storage/evidence';
import type { CopiedFrom, EvidencePlace, PassState, SourceRecord } from '../storage/schema';
import { hashed } from './hashing';
import { blobsInPlace, listFolder, opened } from './in-place';
import type { AddResult, NamedBlob } from './protocol';

/** Files of a folder past which they are not hashed when it is added. */
const MOST_HASHED = 20_000;

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
    const sums = await hashed(files, report);
    try {
      await keepFiles(sums);
    } catch (error) {
      if (!(error instanceof DOMException && error.name === 'QuotaExceededError')) throw error;
      const reason = `${name} was not added: this browser has no room left for it.`;
      return { ok: false, reason };
    }
    return this.put(name, sums, copied ? { copied } : {});
  }

  /** Puts a source on the shelf that is read where it lies. Large folders are only listed, and hashed when they are examined. */
  async addInPlace(
    name: string,
    place: EvidencePlace,
    report: (fraction: number) => void
  ): Promise<AddResult> {
    const listed = 'folder' in place ? await listFolder(place.folder) : place.files;
    if (listed.length === 0) return { ok: false, reason: `The folder ${name} is empty.` };
    const isHashed = listed.length <= MOST_HASHED;
    const files = isHashed
      ? await hashed(await opened(listed), report)
      : listed.map(({ path }) => ({ path, bytes: 0, sha256: '', modifiedAt: null }));
    return this.put(name, files, { isInPlace: true }, place);
  }

  private async put(
    name: string,
    files: readonly Omit<HashedFile, 'blob'>[],
    more: Pick<SourceRecord, 'copied' | 'isInPlace'>,
    place?: EvidencePlace
  ): Promise<AddResult> {
    const present = await this.sources();
    const listing = fingerprint(files);
    // Without checksums nothing is known of the bytes.
    const isKnown = files.every(({ sha256 }) => sha256 !== '');
    const twin = present.find((source) => isKnown && fingerprint(source.files) === listing);
    const known = twin?.name ?? null;
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
      ...more
    };
    if (place) await keepPlace(source.key, place);
    await (await openStorage()).put('sources', source);
    return { ok: true, source, known };
  }

  /** Takes a source from which nothing was read yet off the shelf. */
  async remove(id: string): Promise<void> {
    await (await openStorage()).delete('sources', this.key(id));
  }

  async blob(sha256: string): Promise<Blob | null> {
    return (await keptBlobs([sha256]))[0] ?? null;
  }

  /** The files of a source in their order. @throws EvidenceAwayError where it lies on the disk and cannot be read now. */
  async filesOf(record: SourceRecord): Promise<(Blob | undefined)[]> {
    if (record.isInPlace) return blobsInPlace(record, await placeOf(record.key));
    return keptBlobs(record.files.map(({ sha256 }) => sha256));
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
    const files = source ? withSums(record, source) : record.files;
    await (
      await openStorage()
    ).put('sources', { ...record, files, pass, source: source ?? record.source });
  }
}

/** Sizes and checksums that were first known when a source was examined. */
function withSums({ files }: SourceRecord, { parts }: Source): SourceRecord['files'] {
  if (files.every(({ sha256 }) => sha256 !== '')) return files;
  const sums = new Map(parts.map((part) => [part.path, part]));
  return files.map((file) => {
    const part = file.sha256 === '' ? sums.get(file.path) : undefined;
    return part ? { ...file, bytes: part.bytes, sha256: part.sha256 } : file;
  });
}

function fingerprint(files: readonly { path: string; sha256: string }[]): string {
  return files
    .map((file) => `${file.sha256} ${file.path}`)
    .sort()
    .join('\n');
}

/** Says beforehand, with figures, when the browser's share of the disk is too small. */
async function missingRoom(bytes: number): Promise<string | null> {
  const { quota, usage } = await navigator.storage.estimate();
  if (quota === undefined || usage === undefined || bytes * 1.2 <= quota - usage) return null;
  const mb = (n: number): string => `${Math.ceil(n / 1e6).toLocaleString('en')} MB`;
  return `This browser can keep ${mb(quota - usage)} more, and the source with its findings needs about ${mb(bytes * 1.2)}. Make room on the disk, or delete a case, and add it again.`;
}
