import {
  listOfFiles,
  type FileRecord,
  type Source,
  type SourceGlance,
  type SummedFile
} from '$core/records';
import { keysFrom } from '../../storage/lines';
import { openStorage } from '../../storage/open';
import {
  keepFiles,
  keepPlace,
  keptBlobs,
  placeOf,
  whileKeeping,
  type HashedFile
} from '../../storage/evidence';
import type { EvidencePlace, PassState, SourceRecord } from '../../storage/schema';
import { sha256 } from '../host/hash';
import { hashed } from './hashing';
import { blobsInPlace, listFolder, opened } from './in-place';
import type { AddResult, NamedBlob } from '../api/protocol';

/** Files of a folder past which they are not hashed when it is added. */
const MOST_HASHED = 20_000;

/** Reads and writes a case's sources. */
export class Shelf {
  /**
   * Where sources lie that are read in place. Browsers take a permission back
   * when nobody holds the handle it was given for, so they are held here.
   */
  private readonly held = new Map<string, EvidencePlace>();

  constructor(private readonly caseId: string) {}

  /** The sources of the case in the order in which they were added. */
  async sources(): Promise<SourceRecord[]> {
    return (await this.all()).filter(({ removedAt }) => removedAt === undefined);
  }

  /** Those that were removed and can be brought back. */
  async removed(): Promise<SourceRecord[]> {
    return (await this.all()).filter(({ removedAt }) => removedAt !== undefined);
  }

  private async all(): Promise<SourceRecord[]> {
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

  /** Changes a source as it is kept, which others may have changed meanwhile. */
  async update(
    id: string,
    change: (kept: SourceRecord) => Partial<SourceRecord>
  ): Promise<SourceRecord | null> {
    const tx = (await openStorage()).transaction('sources', 'readwrite');
    const kept = await tx.store.get(this.key(id));
    const changed = kept ? { ...kept, ...change(kept) } : null;
    if (changed) await tx.store.put(changed);
    await tx.done;
    return changed;
  }

  /** Gives a source a name that no other of the case has; returns it. */
  async rename(id: string, name: string, isNamed: boolean): Promise<string> {
    const own = untaken(
      name,
      (await this.all()).filter((source) => source.id !== id)
    );
    await this.update(id, ({ source }) => ({
      name: own,
      isNamed,
      source: source && { ...source, name: own }
    }));
    return own;
  }

  async setLocalZone(id: string, zone: string | null): Promise<void> {
    const tx = (await openStorage()).transaction('sources', 'readwrite');
    const kept = await tx.store.get(this.key(id));
    if (kept) {
      const { localZone: _, ...rest } = kept;
      await tx.store.put(zone === null ? rest : { ...rest, localZone: zone });
    }
    await tx.done;
  }

  /** Where a source lies that is read in place. */
  async place(id: string): Promise<EvidencePlace | undefined> {
    const key = this.key(id);
    const place = this.held.get(key) ?? (await placeOf(key));
    if (place) this.held.set(key, place);
    return place;
  }

  /** Hashes the files, keeps them in this browser and puts the source on the shelf. */
  async add(
    name: string,
    files: NamedBlob[],
    report: (fraction: number) => void,
    how: Pick<SourceRecord, 'copied' | 'isNamed'> = {}
  ): Promise<AddResult> {
    const total = files.reduce((sum, file) => sum + file.blob.size, 0);
    const short = await missingRoom(total);
    if (short !== null) return { ok: false, reason: short };
    const sums = await hashed(files, report);
    return whileKeeping('shared', async () => {
      try {
        await keepFiles(sums);
      } catch (error) {
        if (!(error instanceof DOMException && error.name === 'QuotaExceededError')) throw error;
        const reason = `${name} was not added: this browser has no room left for it.`;
        return { ok: false, reason };
      }
      return this.put(name, sums, how);
    });
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
    more: Pick<SourceRecord, 'copied' | 'isInPlace' | 'isNamed'>,
    place?: EvidencePlace
  ): Promise<AddResult> {
    const sum = await sumOf(files);
    const present = await this.all();
    const twins = sum === '' ? [] : present.filter((source) => source.sum === sum);
    const absent = twins.find(({ isAway, removedAt }) => isAway || removedAt !== undefined);
    // The same evidence meets what is known of it.
    if (absent) return this.meet(absent, files, place);
    const source: Omit<SourceRecord, 'key' | 'id'> = {
      caseId: this.caseId,
      name: untaken(name, present),
      addedAt: Date.now(),
      files: files.map(({ path, bytes, sha256, modifiedAt }) => ({
        path,
        bytes,
        sha256,
        modifiedAt
      })),
      sum,
      source: null,
      pass: { state: 'none' },
      stores: [],
      glance: null,
      ...more
    };
    const kept = await this.numbered(source, present);
    if (place) await this.setPlace(kept.id, place);
    return { ok: true, source: kept, known: twins[0]?.name ?? null, met: false };
  }

  /** Keeps a source under a number that no other of the case ever had. */
  private async numbered(
    source: Omit<SourceRecord, 'key' | 'id'>,
    present: readonly SourceRecord[]
  ): Promise<SourceRecord> {
    const tx = (await openStorage()).transaction(['cases', 'sources'], 'readwrite');
    const record = await tx.objectStore('cases').get(this.caseId);
    const highest = Math.max(0, ...present.map(({ id }) => Number(id.slice(1)) || 0));
    const next = Math.max(highest, record?.lastSource ?? 0) + 1;
    const known = source.sum ? record?.removedSources?.[source.sum] : undefined;
    const id = known !== undefined && !present.some((one) => one.id === known) ? known : `s${next}`;
    if (record && id !== known) await tx.objectStore('cases').put({ ...record, lastSource: next });
    const kept = { ...source, id, key: this.key(id) };
    await tx.objectStore('sources').put(kept);
    await tx.done;
    return kept;
  }

  /** Evidence that came again: what was found in it, and chosen of it, is there. */
  private async meet(
    known: SourceRecord,
    files: readonly Omit<HashedFile, 'blob'>[],
    place: EvidencePlace | undefined
  ): Promise<AddResult> {
    if (place) await this.setPlace(known.id, namedAs(known, place));
    const times = new Map(files.map(({ path, modifiedAt }) => [path, modifiedAt]));
    const source = await this.update(known.id, ({ files }) => ({
      isAway: false,
      isInPlace: place !== undefined,
      files: files.map((file) => ({ ...file, modifiedAt: times.get(file.path) ?? null }))
    }));
    return { ok: true, source: source ?? known, known: null, met: true };
  }

  private async setPlace(id: string, place: EvidencePlace): Promise<void> {
    await keepPlace(this.key(id), place);
    this.held.set(this.key(id), place);
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
    if (record.isInPlace) return blobsInPlace(record, await this.place(record.id));
    return keptBlobs(record.files.map(({ sha256 }) => sha256));
  }

  /** What a pass recognised, before it is over. */
  async setSource(id: string, source: Source): Promise<void> {
    await this.update(id, () => ({ source }));
  }

  /** Keeps what was seen of a source before any pass. */
  async setGlance(id: string, glance: SourceGlance): Promise<void> {
    await this.update(id, () => ({ glance }));
  }

  /** Keeps files that a source lists. */
  async keepFiles(sourceId: string, files: FileRecord[]): Promise<void> {
    const db = await openStorage();
    const { caseId } = this;
    const part = await db.count('files', keysFrom([caseId, sourceId]));
    await db.put('files', { caseId, sourceId, part, files });
  }

  /** Keeps files that an examination lists until it is known whether it comes to its end. */
  stageFiles(sourceId: string, files: FileRecord[]): Promise<void> {
    return this.keepFiles(stagedFor(sourceId), files);
  }

  /** Forgets what an examination that was cut off had listed. */
  async dropStaged(sourceId: string): Promise<void> {
    await (await openStorage()).delete('files', keysFrom([this.caseId, stagedFor(sourceId)]));
  }

  /** Puts the list that an examination made in place of the one before; where it did not come to its end, only if there is none. */
  async takeStaged(sourceId: string, isWhole: boolean): Promise<void> {
    const tx = (await openStorage()).transaction('files', 'readwrite');
    const own = keysFrom([this.caseId, sourceId]);
    const staged = keysFrom([this.caseId, stagedFor(sourceId)]);
    if (isWhole || (await tx.store.count(own)) === 0) {
      await tx.store.delete(own);
      for (let at = await tx.store.openCursor(staged); at; at = await at.continue())
        await tx.store.put({ ...at.value, sourceId });
    }
    await tx.store.delete(staged);
    await tx.done;
  }

  async files(): Promise<FileRecord[]> {
    const shown = new Set((await this.sources()).map(({ id }) => id));
    const all = await (await openStorage()).getAllFromIndex('files', 'case', this.caseId);
    return all.flatMap(({ sourceId, files }) => (shown.has(sourceId) ? files : []));
  }

  async setPass(id: string, pass: PassState, source?: Source): Promise<void> {
    const kept = await this.get(id);
    const files = kept && source ? withSums(kept, source) : kept?.files;
    const sum = files ? await sumOf(files) : '';
    await this.update(id, (now) => ({
      pass,
      ...(source ? { source, files: files ?? now.files } : {}),
      // A checksum that was once known stays: it is what later ones are held against.
      sum: now.sum || sum
    }));
  }
}

/** A file by itself may have another name than when it was first seen. */
function namedAs({ files }: SourceRecord, place: EvidencePlace): EvidencePlace {
  const [only] = files;
  if ('folder' in place || files.length !== 1 || place.files.length !== 1) return place;
  return { files: [{ path: only!.path, handle: place.files[0]!.handle }] };
}

/** No source's id ends so. */
function stagedFor(sourceId: string): string {
  return `${sourceId}~`;
}

/** The checksum by which a source is known; empty where not all of its files were hashed. */
export async function sumOf(files: readonly SummedFile[]): Promise<string> {
  if (files.length === 1) return files[0]!.sha256;
  const list = listOfFiles(files);
  return list === null ? '' : sha256(new TextEncoder().encode(list));
}

/** A name that no other source of the case has. */
function untaken(name: string, present: readonly SourceRecord[]): string {
  const names = new Set(present.map((source) => source.name));
  let own = name;
  for (let n = 2; names.has(own); n++) own = `${name} (${n})`;
  return own;
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

/** Says beforehand, with figures, when the browser's share of the disk is too small. */
async function missingRoom(bytes: number): Promise<string | null> {
  const { quota, usage } = await navigator.storage.estimate();
  if (quota === undefined || usage === undefined || bytes * 1.2 <= quota - usage) return null;
  const mb = (n: number): string => `${Math.ceil(n / 1e6).toLocaleString('en')} MB`;
  return `This browser can keep ${mb(quota - usage)} more, and the source with its findings needs about ${mb(bytes * 1.2)}. Make room on the disk, or delete a case, and add it again.`;
}
