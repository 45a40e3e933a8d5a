import { idKey } from '$core/case/lines';
import type { FileKind } from '$core/records';
import { fileKindOf } from '$core/records';
import type { ReadFilter } from '../api/protocol';
import type { KeptIndex } from './store-lines';

/** For each store the rows that pass, one byte each; null where all do. */
export type RowMask = readonly (Uint8Array | null)[];

/** What a filter asks beside states, times and texts; null where it asks nothing. */
export async function maskOf(
  index: KeptIndex,
  { place, has, label }: Pick<ReadFilter, 'place' | 'has' | 'label'>,
  labelled: (label: string) => string[]
): Promise<RowMask | null> {
  if (place === null && has === null && label === null) return null;
  let mask: readonly (Uint8Array | null)[] =
    place === null ? index.stores.map(() => null) : heldIn(index, place);
  if (has !== null) mask = both(mask, await withFiles(index, has));
  if (label !== null) mask = both(mask, await rowsOf(index, labelled(label)));
  return mask;
}

/** Lines that a source or a store holds: its own, and those of others that stand for its copies. */
function heldIn(index: KeptIndex, place: string): (Uint8Array | null)[] {
  const isAsked = index.stores.map(({ id, record }) => place === id || place === record.sourceId);
  const mask = index.stores.map(({ record }, i) =>
    isAsked[i] ? null : new Uint8Array(record.count)
  );
  for (const row of index.conversations) {
    const { store, row: rows } = row.copies;
    for (let i = 0; i < rows.length; i++) {
      if (!isAsked[store[i]!]) continue;
      const shown = index.standsOf(row).shown(store[i]!, rows[i]!);
      const own = mask[shown.store];
      if (own) own[shown.row] = 1;
    }
  }
  return mask;
}

function both(a: readonly (Uint8Array | null)[], b: readonly Uint8Array[]): Uint8Array[] {
  return b.map((own, i) => {
    const other = a[i];
    if (!other) return own;
    return own.map((set, row) => set & other[row]!);
  });
}

/** Rows with files of a kind. */
async function withFiles(index: KeptIndex, has: FileKind | 'any'): Promise<Uint8Array[]> {
  const ids: string[] = [];
  for (const { attachment } of (await index.attachments()).values())
    if (has === 'any' || fileKindOf(attachment) === has) ids.push(attachment.message);
  return rowsOf(index, ids);
}

/** Rows of records by their ids. */
export async function rowsOf(index: KeptIndex, ids: Iterable<string>): Promise<Uint8Array[]> {
  const keys = new Set<number>();
  for (const id of ids) keys.add(idKey(id));
  await index.loadAll();
  return index.stores.map((store) => {
    const rows = new Uint8Array(store.record.count);
    if (keys.size > 0) for (const [, row] of store.rowsOf(keys)) rows[row] = 1;
    return rows;
  });
}
