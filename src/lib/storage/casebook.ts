import { logAct } from './custody';
import { keysFrom } from './lines';
import { openStorage } from './open';
import type { CaseRecord, SourceRecord } from './schema';

/** What the casebook shows of a case. */
export interface CaseCard {
  record: CaseRecord;
  sources: number;
  live: number;
  notLive: number;
}

export async function listCases(): Promise<CaseCard[]> {
  const db = await openStorage();
  const [cases, sources] = await Promise.all([db.getAll('cases'), db.getAll('sources')]);
  return cases
    .filter((record) => record.deletedAt === null)
    .sort((a, b) => b.opened - a.opened)
    .map((record) => card(record, sources));
}

function card(record: CaseRecord, all: SourceRecord[]): CaseCard {
  const sources = all.filter((source) => source.caseId === record.id);
  let live = 0;
  let notLive = 0;
  for (const { counts } of sources.flatMap((source) => source.stores)) {
    live += counts.live;
    notLive += counts.held + counts.recovered + counts.fragment + counts.earlier;
  }
  return { record, sources: sources.length, live, notLive };
}

async function getCase(id: string): Promise<CaseRecord | undefined> {
  return (await openStorage()).get('cases', id);
}

export async function putCase(record: CaseRecord): Promise<void> {
  await (await openStorage()).put('cases', record);
}

/** Keeps a new case, and begins its log. */
export async function beginCase(record: CaseRecord): Promise<void> {
  await putCase(record);
  const { name, client, zone, demo } = record;
  await logAct(record.id, 'case opened', { name, client, zone, ...(demo ? { demo } : {}) });
}

export function newCase(name: string, client: string, zone: string): CaseRecord {
  return {
    id: crypto.randomUUID(),
    name,
    client,
    zone,
    region: null,
    opened: Date.now(),
    names: {},
    lastLine: 0,
    deletedAt: null,
    demo: false,
    lastProduction: null
  };
}

export async function setDeleted(id: string, deletedAt: number | null): Promise<void> {
  const record = await getCase(id);
  if (!record) return;
  await putCase({ ...record, deletedAt });
  await logAct(id, deletedAt === null ? 'case brought back' : 'case deleted', {});
}

/** Removes for good what was deleted, and files that no case needs any more. */
export async function purgeDeleted(before: number): Promise<void> {
  const db = await openStorage();
  const cases = await db.getAll('cases');
  for (const record of cases) {
    if (record.deletedAt !== null && record.deletedAt < before) await purgeCase(record.id);
  }
}

async function purgeCase(id: string): Promise<void> {
  const db = await openStorage();
  const tx = db.transaction(
    [
      'cases',
      'sources',
      'chunks',
      'stores',
      'columns',
      'texts',
      'origins',
      'attachments',
      'indexes',
      'packs',
      'places',
      'files',
      'blobs',
      'exhibits',
      'productions',
      'custody',
      'intakes',
      'copies',
      'copyParts',
      'copyLines',
      'notes'
    ],
    'readwrite'
  );
  await tx.objectStore('cases').delete(id);
  await tx.objectStore('exhibits').delete(id);
  await tx.objectStore('intakes').delete(id);
  await tx.objectStore('indexes').delete(id);
  for (const name of ['stores', 'columns', 'texts', 'origins', 'attachments', 'notes'] as const)
    await tx.objectStore(name).delete(keysFrom([id]));
  for (const name of ['sources', 'chunks', 'files', 'productions', 'custody'] as const) {
    const store = tx.objectStore(name);
    for (const key of await store.index('case').getAllKeys(id)) await store.delete(key as never);
  }
  for (const key of await tx.objectStore('copies').index('case').getAllKeys(id)) {
    await tx.objectStore('copies').delete(key);
    await tx.objectStore('copyParts').delete(IDBKeyRange.bound([key], [key, []]));
    await tx.objectStore('copyLines').delete(IDBKeyRange.bound([key], [key, []]));
  }
  const left = await tx.objectStore('sources').getAll();
  const needed = new Set(left.flatMap((source) => source.files.map((file) => file.sha256)));
  await tx.objectStore('places').delete(IDBKeyRange.bound(`${id}/`, `${id}/\uffff`));
  const packs = new Set<string>();
  for (const kept of await tx.objectStore('blobs').getAll()) {
    if (!needed.has(kept.sha256)) await tx.objectStore('blobs').delete(kept.sha256);
    else if ('pack' in kept) packs.add(kept.pack);
  }
  for (const key of await tx.objectStore('packs').getAllKeys())
    if (!packs.has(key)) await tx.objectStore('packs').delete(key);
  await tx.done;
}
