import type { IndexRecord, ToldAttachments } from '$core/case';
import { CHUNK, type RowColumns, type SortedStore } from '$core/case/lines';
import { openStorage } from './open';
import type {
  AttachmentsRecord,
  ColumnsRecord,
  OriginsRecord,
  RunKey,
  StoreRecord,
  TextsRecord
} from './schema';

/** Rows whose columns are kept together. */
export const COLUMNS_PART = 16 * CHUNK;
/** Attachments that are kept together. */
const ATTACHMENTS_PART = 2000;
/** Parts that are on their way to the disk at a time. */
const IN_FLIGHT = 4;

/** What belongs to a run over a store, each in parts. */
const PARTS = ['columns', 'texts', 'origins', 'attachments'] as const;

/** All keys that begin with the given parts. */
export function keysFrom(prefix: (string | number)[]): IDBKeyRange {
  return IDBKeyRange.bound(prefix, [...prefix, []]);
}

function keyOf({ caseId, sourceId, store, run }: RunKey): [string, string, string, number] {
  return [caseId, sourceId, store, run];
}

export async function keptStores(caseId: string): Promise<StoreRecord[]> {
  return (await openStorage()).getAll('stores', keysFrom([caseId]));
}

export async function keptIndex(caseId: string): Promise<IndexRecord | undefined> {
  return (await openStorage()).get('indexes', caseId);
}

export async function columnsPart(run: RunKey, part: number): Promise<RowColumns> {
  const kept = await (await openStorage()).get('columns', [...keyOf(run), part]);
  return known(kept, 'The columns').columns;
}

export async function textsPart(
  run: RunKey,
  part: number
): Promise<Pick<TextsRecord, 'texts' | 'beside'>> {
  const kept = await (await openStorage()).get('texts', [...keyOf(run), part]);
  return known(kept, 'The texts');
}

export async function originsPart(run: RunKey, part: number): Promise<OriginsRecord['origins']> {
  const kept = await (await openStorage()).get('origins', [...keyOf(run), part]);
  return known(kept, 'The origins').origins;
}

function known<T>(kept: T | undefined, what: string): T {
  if (kept === undefined) throw new Error(`${what} of some lines are no longer in this browser.`);
  return kept;
}

export async function attachmentsOf(run: RunKey): Promise<AttachmentsRecord[]> {
  return (await openStorage()).getAll('attachments', keysFrom(keyOf(run)));
}

/**
 * Writes the columns and texts of a run over a store, a few parts at a time.
 * Nothing reads them before the store's record names the run.
 */
export async function writeRows(
  run: RunKey,
  { count, columns, texts: textsOf }: SortedStore,
  beside: (texts: TextsRecord['texts']) => TextsRecord['beside'],
  wrote: (rows: number) => void
): Promise<void> {
  const waiting: Promise<void>[] = [];
  for (let part = 0; part * CHUNK < count; part++) {
    const texts = textsOf(part);
    const record: TextsRecord = { ...run, part, texts, beside: beside(texts) };
    waiting.push(putParts(record, columnsAt(run, columns, part * CHUNK)));
    if (waiting.length >= IN_FLIGHT) await waiting.shift();
    wrote(Math.min(count, (part + 1) * CHUNK));
  }
  await Promise.all(waiting);
}

/** The part of the columns that begins with a row; null where none does. */
function columnsAt(run: RunKey, columns: RowColumns, row: number): ColumnsRecord | null {
  if (row % COLUMNS_PART !== 0) return null;
  return { ...run, part: row / COLUMNS_PART, columns: slice(columns, row, row + COLUMNS_PART) };
}

function slice(columns: RowColumns, from: number, to: number): RowColumns {
  const { context, sentAt, state, certainty, line, idKey, contentKey, origin } = columns;
  return {
    context: context.slice(from, to),
    sentAt: sentAt.slice(from, to),
    state: state.slice(from, to),
    certainty: certainty.slice(from, to),
    line: line.slice(from, to),
    idKey: idKey.slice(from, to),
    contentKey: contentKey.slice(from, to),
    origin: origin.slice(from, to)
  };
}

async function putParts(texts: TextsRecord, columns: ColumnsRecord | null): Promise<void> {
  const db = await openStorage();
  const tx = db.transaction(['texts', 'columns'], 'readwrite', { durability: 'relaxed' });
  const puts: Promise<unknown>[] = [tx.objectStore('texts').put(texts)];
  if (columns) puts.push(tx.objectStore('columns').put(columns));
  await Promise.all([...puts, tx.done]);
}

export async function writeOrigins(record: OriginsRecord): Promise<void> {
  const db = await openStorage();
  const tx = db.transaction('origins', 'readwrite', { durability: 'relaxed' });
  await Promise.all([tx.store.put(record), tx.done]);
}

export async function writeAttachments(
  run: RunKey,
  { attachments, sentAt, states }: Required<ToldAttachments>
): Promise<void> {
  const db = await openStorage();
  for (let part = 0; part * ATTACHMENTS_PART < attachments.length; part++) {
    const [from, to] = [part * ATTACHMENTS_PART, (part + 1) * ATTACHMENTS_PART];
    const own = attachments.slice(from, to);
    await db.put('attachments', {
      ...run,
      part,
      attachments: own,
      sentAt: sentAt.slice(from, to),
      states: states.slice(from, to)
    });
  }
}

/** Removes what a run over a store left. */
export async function removeRun(run: RunKey): Promise<void> {
  const tx = (await openStorage()).transaction(PARTS, 'readwrite');
  const removals = PARTS.map((name) => tx.objectStore(name).delete(keysFrom(keyOf(run))));
  await Promise.all([...removals, tx.done]);
}

/** Removes what was written of runs that never came to their end. */
export async function removeBrokenRuns(
  caseId: string,
  stores: readonly StoreRecord[]
): Promise<void> {
  const db = await openStorage();
  const whole = new Set(stores.map((store) => JSON.stringify(keyOf(store))));
  const broken = new Map<string, RunKey>();
  for (const name of PARTS)
    for (const [, sourceId, store, run] of await db.getAllKeys(name, keysFrom([caseId]))) {
      const key: RunKey = { caseId, sourceId, store, run };
      if (!whole.has(JSON.stringify(keyOf(key)))) broken.set(JSON.stringify(keyOf(key)), key);
    }
  for (const run of broken.values()) await removeRun(run);
}
