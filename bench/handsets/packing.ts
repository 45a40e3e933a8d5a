import type { CopyDepth } from '../../core/acquire';
import { writeAb } from '../writers/ab';
import { writeBackup } from '../writers/backup';
import { writeDisk } from '../writers/disk';
import { hasTable, withStore } from '../writers/store';
import { writeTar } from '../writers/tar';
import type { HandsetContents, HandsetFile, HandsetStore } from './contents';
import type { HandsetModel } from './models';

/** The files of a copy, by their paths. */
export type Packed = Record<string, Uint8Array>;

/** Storage of the simulated handsets, in blocks of 4 KiB. */
const STORAGE_BLOCKS = 2048;

/** What a handset yields at a depth, as files; the same bytes each time. */
export function packed(
  model: HandsetModel,
  contents: HandsetContents,
  depth: CopyDepth,
  kinds: readonly string[] | null
): Packed {
  const isWanted = (kind: string): boolean => kinds === null || kinds.includes(kind);
  const stores = contents.stores.filter(({ kind }) => isWanted(kind));
  const media = isWanted('media') ? contents.media : [];
  switch (depth) {
    case 'logical':
      return handedOut(model, contents, stores, media);
    case 'file-system':
      return { 'file-system.tar': writeTar(asFiles(model, stores, media), contents.at) };
    case 'physical':
      return { 'storage.img': wholeStorage(model, contents) };
  }
}

/** What a handset hands out: records in fresh stores, and the files that a person would see. */
function handedOut(
  model: HandsetModel,
  contents: HandsetContents,
  stores: readonly HandsetStore[],
  media: readonly HandsetFile[]
): Packed {
  // What other apps keep is not handed out.
  const records = stores
    .filter(({ kind }) => kind !== 'apps')
    .map((store) => ({ ...store, bytes: withoutFreed(store.bytes) }));
  const shown = media.filter(({ owner }) => owner === 'shared' || owner === 'MediaDomain');
  if (model.family === 'joined') return asBackup(model, contents, [...records, ...shown]);
  const files = Object.fromEntries(
    [...records, ...shown].map(({ owner, path, bytes }) => [
      owner === 'shared' ? `shared/0/${path}` : `apps/${owner}/${path.replace('databases', 'db')}`,
      bytes
    ])
  );
  return { 'handed-out.ab': writeAb({ tar: writeTar(files, contents.at), compressed: true }) };
}

function asBackup(
  { name, model, system, serial }: HandsetModel,
  { at }: HandsetContents,
  files: readonly HandsetFile[]
): Packed {
  return writeBackup({
    layout: 'database',
    device: { name, model, system, serial, phone: '', at: new Date(at) },
    files: files.map(({ owner, path, bytes }) => ({ domain: owner, path, bytes, modifiedAt: at }))
  });
}

/** The records of a store in a fresh one: nothing deleted, nothing that waits to be purged. */
function withoutFreed(bytes: Uint8Array): Uint8Array {
  return withStore(bytes, (db) => {
    if (hasTable(db, HELD)) {
      db.run(`DELETE FROM message WHERE ROWID IN (SELECT message_id FROM ${HELD})`);
      db.run(`DELETE FROM ${HELD}`);
    }
    db.run('PRAGMA secure_delete=ON');
    db.run('VACUUM');
  });
}

const HELD = 'chat_recoverable_message_join';

function asFiles(
  { family }: HandsetModel,
  stores: readonly HandsetStore[],
  media: readonly HandsetFile[]
): Packed {
  return Object.fromEntries(
    [...stores, ...media].map(({ owner, path, bytes }) => [
      family === 'joined' ? `mobile/${path}` : placeOf(owner, path),
      bytes
    ])
  );
}

function placeOf(owner: string, path: string): string {
  return owner === 'shared' ? `media/0/${path}` : `data/${owner}/${path}`;
}

function wholeStorage(model: HandsetModel, contents: HandsetContents): Uint8Array {
  return writeDisk({
    files: asFiles(model, contents.stores, contents.media),
    deleted: contents.deleted,
    modifiedAt: contents.at,
    blocks: STORAGE_BLOCKS
  });
}
