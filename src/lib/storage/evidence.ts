import { openStorage } from './open';
import type { EvidencePlace } from './schema';

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
