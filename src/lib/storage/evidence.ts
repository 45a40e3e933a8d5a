import { openStorage } from './open';
import type { EvidencePlace, SourceRecord } from './schema';

/** Files below this size are kept together with others: each by itself would take the disk far longer. */
const SMALL = 1 << 18;
/** Bytes of small files that are kept together. */
const PACK = 1 << 25;

/** A file of a source with its checksum. */
export interface HashedFile {
  path: string;
  bytes: number;
  sha256: string;
  modifiedAt: number | null;
  blob: Blob;
}

/** Keeps files by their checksums; those that are kept already are kept once. */
export async function keepFiles(files: readonly HashedFile[]): Promise<void> {
  const db = await openStorage();
  const known = new Set(await db.getAllKeys('blobs'));
  const fresh = new Map(
    files.filter(({ sha256 }) => !known.has(sha256)).map((file) => [file.sha256, file.blob])
  );
  for (const pack of packsOf(fresh)) {
    const id = crypto.randomUUID();
    const blob = new Blob(pack.map(([, part]) => part));
    const tx = db.transaction(['packs', 'blobs'], 'readwrite');
    const puts: Promise<unknown>[] = [tx.objectStore('packs').put({ id, blob })];
    let from = 0;
    for (const [sha256, { size }] of pack) {
      puts.push(tx.objectStore('blobs').put({ sha256, pack: id, from, to: from + size }));
      from += size;
    }
    await Promise.all([...puts, tx.done]);
  }
  for (const [sha256, blob] of fresh)
    if (blob.size >= SMALL) await db.put('blobs', { sha256, blob });
}

function* packsOf(files: ReadonlyMap<string, Blob>): Generator<[string, Blob][]> {
  let pack: [string, Blob][] = [];
  let bytes = 0;
  for (const [sha256, blob] of files) {
    if (blob.size >= SMALL) continue;
    pack.push([sha256, blob]);
    bytes += blob.size;
    if (bytes < PACK) continue;
    yield pack;
    [pack, bytes] = [[], 0];
  }
  if (pack.length > 0) yield pack;
}

/** The bytes of kept files by their checksums, in their order; undefined for those that are not kept. */
export async function keptBlobs(sha256: readonly string[]): Promise<(Blob | undefined)[]> {
  const tx = (await openStorage()).transaction(['blobs', 'packs']);
  const packs = new Map<string, Promise<Blob | undefined>>();
  const packOf = (id: string): Promise<Blob | undefined> => {
    let pack = packs.get(id);
    if (!pack) {
      pack = tx
        .objectStore('packs')
        .get(id)
        .then((kept) => kept?.blob);
      packs.set(id, pack);
    }
    return pack;
  };
  return Promise.all(
    sha256.map(async (key) => {
      const kept = await tx.objectStore('blobs').get(key);
      if (!kept || 'blob' in kept) return kept?.blob;
      return (await packOf(kept.pack))?.slice(kept.from, kept.to);
    })
  );
}

/** Remembers where the files of a source lie on the disk. */
export async function keepPlace(source: string, place: EvidencePlace): Promise<void> {
  await (await openStorage()).put('places', { source, place });
}

export async function placeOf(source: string): Promise<EvidencePlace | undefined> {
  return (await (await openStorage()).get('places', source))?.place;
}

/**
 * Keeps bytes that are on their way into a source from being taken for such
 * that nobody needs, in whatever tab: who adds shares, who clears away is alone.
 */
export function whileKeeping<T>(mode: LockMode, work: () => Promise<T>): Promise<T> {
  // Only browsers have tabs.
  const { locks } = globalThis.navigator ?? {};
  if (!locks) return work();
  return locks.request('ombudsman evidence', { mode }, work) as Promise<T>;
}

/** Removes evidence that no source of any case needs any more. */
export function dropUnneeded(): Promise<void> {
  return whileKeeping('exclusive', clearUnneeded);
}

async function clearUnneeded(): Promise<void> {
  const tx = (await openStorage()).transaction(['sources', 'blobs', 'packs'], 'readwrite');
  const left = await tx.objectStore('sources').getAll();
  const needed = new Set(
    left.filter((source) => !source.isInPlace).flatMap(({ files }) => files.map((f) => f.sha256))
  );
  const packs = new Set<string>();
  for (let at = await tx.objectStore('blobs').openCursor(); at; at = await at.continue()) {
    if (!needed.has(at.value.sha256)) await at.delete();
    else if ('pack' in at.value) packs.add(at.value.pack);
  }
  for (const key of await tx.objectStore('packs').getAllKeys())
    if (!packs.has(key)) await tx.objectStore('packs').delete(key);
  await tx.done;
}

/** Removes a source for good: its record, what was found in it, and its bytes where no other source needs them. */
export async function purgeSource({ caseId, id, key }: SourceRecord): Promise<void> {
  const db = await openStorage();
  const tx = db.transaction([...OF_SOURCE, 'sources', 'places'], 'readwrite');
  const own = IDBKeyRange.bound([caseId, id], [caseId, id, []]);
  await Promise.all(OF_SOURCE.map((name) => tx.objectStore(name).delete(own)));
  await tx.objectStore('sources').delete(key);
  await tx.objectStore('places').delete(key);
  await tx.done;
  await dropUnneeded();
}

/** What is kept by case and source. */
const OF_SOURCE = ['stores', 'columns', 'texts', 'origins', 'attachments', 'files'] as const;
