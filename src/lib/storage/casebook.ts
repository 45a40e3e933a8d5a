import { messagesIn } from '$core/records';
import { logAct } from './custody';
import { dropUnneeded } from './evidence';
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
    .filter((record) => record.deletedAt === null && !record.isComing)
    .sort((a, b) => b.opened - a.opened)
    .map((record) => card(record, sources));
}

function card(record: CaseRecord, all: SourceRecord[]): CaseCard {
  const sources = all.filter(
    ({ caseId, removedAt }) => caseId === record.id && removedAt === undefined
  );
  let live = 0;
  let notLive = 0;
  for (const store of sources.flatMap((source) => source.stores)) {
    const counts = messagesIn(store);
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

/** How long a deleted case can be brought back, in milliseconds. */
const KEPT_FOR = 24 * 3_600_000;

/** Cases that were deleted and can be brought back, the last first. */
export async function deletedCases(): Promise<CaseCard[]> {
  const db = await openStorage();
  const [cases, sources] = await Promise.all([db.getAll('cases'), db.getAll('sources')]);
  return cases
    .filter(({ deletedAt, isComing }) => deletedAt !== null && !isComing)
    .sort((a, b) => (b.deletedAt ?? 0) - (a.deletedAt ?? 0))
    .map((record) => card(record, sources));
}

/** What goes along with a case, beside what its card says. */
export async function tollOf(id: string): Promise<{ notes: number; productions: number }> {
  const db = await openStorage();
  const [notes, productions] = await Promise.all([
    db.count('notes', keysFrom([id])),
    db.countFromIndex('productions', 'case', id)
  ]);
  return { notes, productions };
}

/** Removes for good what was deleted a day ago, and what an import left that was cut off. */
export async function purgeDeleted(now: number): Promise<void> {
  const cases = await (await openStorage()).getAll('cases');
  const { held = [] } = (await globalThis.navigator?.locks?.query()) ?? {};
  const coming = new Set(held.map(({ name }) => name));
  for (const { id, deletedAt, isComing } of cases) {
    const isOver = deletedAt !== null && !isComing && deletedAt < now - KEPT_FOR;
    if (isOver || (isComing && !coming.has(comingLock(id)))) await purgeCase(id);
  }
}

/** The lock that is held while a case is being imported. */
export function comingLock(id: string): string {
  return `ombudsman import ${id}`;
}

/** Removes a case and all that was found in it, for good. */
export async function purgeCase(id: string): Promise<void> {
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
  await tx.objectStore('places').delete(IDBKeyRange.bound(`${id}/`, `${id}/\uffff`));
  await tx.done;
  await dropUnneeded();
}
