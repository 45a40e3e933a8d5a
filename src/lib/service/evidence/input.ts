import type { SourceInput } from '$core/examine';
import type { SourceRecord } from '../../storage/schema';
import { BlobSource } from '../host/blob-source';
import type { Shelf } from './shelf';

/** A source of the shelf with its bytes, as a pass wants it. */
export async function inputOf(shelf: Shelf, record: SourceRecord): Promise<SourceInput> {
  const blobs = await shelf.filesOf(record);
  const files = record.files.map(({ path, sha256, modifiedAt }, i) => {
    const blob = blobs[i];
    if (!blob) throw new Error(`${path} is not kept in this browser; add the source again`);
    // What lies outside is hashed each time: it may not be what it was.
    const known = record.isInPlace ? undefined : sha256;
    return new BlobSource(blob, path, modifiedAt ?? null, known);
  });
  return { id: record.id, name: record.name, files };
}
