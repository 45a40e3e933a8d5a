import { idKey } from '$core/lines';
import type { FileKind } from '$core/records';
import { fileKindOf } from '$core/records';
import type { CaseIndex } from './case-index';
import type { ReadFilter } from './protocol';

/** For each store the rows that pass, one byte each; null where all do. */
export type RowMask = readonly (Uint8Array | null)[];

const NONE = new Uint8Array(0);

/** What a filter asks beside states, times and texts; null where it asks nothing. */
export async function maskOf(
  index: CaseIndex,
  { place, has, label }: Pick<ReadFilter, 'place' | 'has' | 'label'>,
  labelled: (label: string) => string[]
): Promise<RowMask | null> {
  if (place === null && has === null && label === null) return null;
  let mask: (Uint8Array | null)[] = index.stores.map(({ id, record }) =>
    place === null || place === id || place === record.sourceId ? null : NONE
  );
  if (has !== null) mask = both(mask, await withFiles(index, has));
  if (label !== null) mask = both(mask, await rowsOf(index, labelled(label)));
  return mask;
}

function both(a: readonly (Uint8Array | null)[], b: readonly Uint8Array[]): Uint8Array[] {
  return b.map((own, i) => {
    const other = a[i];
    if (!other) return own;
    return other.length === 0 ? NONE : own.map((set, row) => set & other[row]!);
  });
}

/** Rows with files of a kind. */
async function withFiles(index: CaseIndex, has: FileKind | 'any'): Promise<Uint8Array[]> {
  const ids: string[] = [];
  for (const { attachment } of (await index.attachments()).values())
    if (has === 'any' || fileKindOf(attachment) === has) ids.push(attachment.message);
  return rowsOf(index, ids);
}

/** Rows of records by their ids. */
export async function rowsOf(index: CaseIndex, ids: Iterable<string>): Promise<Uint8Array[]> {
  const keys = new Set<number>();
  for (const id of ids) keys.add(idKey(id));
  await index.loadAll();
  return index.stores.map((store) => {
    const rows = new Uint8Array(store.record.count);
    if (keys.size > 0) for (const [, row] of store.rowsOf(keys)) rows[row] = 1;
    return rows;
  });
}
