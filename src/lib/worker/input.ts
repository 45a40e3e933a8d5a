import type { SourceInput } from '$core/pass';
import type { SourceRecord } from '../storage/schema';
import { BlobSource } from './blob-source';
import type { Shelf } from './shelf';

/** A source of the shelf with its bytes, as a pass wants it. */
export async function inputOf(shelf: Shelf, record: SourceRecord): Promise<SourceInput> {
  const blobs = await shelf.blobs(record.files.map(({ sha256 }) => sha256));
  const files = record.files.map(({ path, sha256, modifiedAt }, i) => {
    const blob = blobs[i];
    if (!blob) throw new Error(`${path} is not kept in this browser; add the source again`);
    return new BlobSource(blob, path, modifiedAt ?? null, sha256);
  });
  return { id: record.id, name: record.name, files };
}
