import { indexOf, inOrder, sharedLines, storeEntry, toldBy, type ToldPeople } from '$core/case';
import {
  numberRows,
  numbersGiven,
  StoreCollector,
  type RowColumns,
  type SortedStore
} from '$core/case/lines';
import { covers, withScope, type Scope } from '$core/examine';
import {
  BatchBuilder,
  emptyCounts,
  STATES,
  type Findings,
  type Message,
  type MessageBatch
} from '$core/records';
import {
  keptIndex,
  keptStores,
  removeBrokenRuns,
  removeRun,
  writeAttachments,
  writeOrigins,
  writeRows
} from '../../storage/lines';
import { openStorage } from '../../storage/open';
import type {
  CaseRecord,
  RunKey,
  SourceRecord,
  StoreRecord,
  TextsRecord
} from '../../storage/schema';
import { keptMessages, withKept } from './merging';
import { KeptIndex, StoreLines } from './store-lines';

/** Parts that may be on their way to the disk while more come. */
const MOST_WAITING = 6;
/** Messages that are put into columns at a time. */
const BATCH = 4096;

/** How a store's findings are kept. */
interface Keeping {
  /** Lines get their numbers only when the pass is sure, so that a number once seen stays. */
  isFinal: boolean;
  /** Rows that were written, of how many. */
  wrote?: (done: number, total: number) => void;
  /** What was looked for; what an examination with another scope found stays. Without it all is replaced. */
  scope?: Scope;
  /** Numbers that lines had in an earlier version of the storage, by the keys of their ids. */
  given?: Map<number, number>;
  /** Parts of an earlier version of the storage that this replaces. */
  instead?: [caseId: string, sourceId: string, store: string];
}

/** Keeps what passes find: puts messages in order, numbers lines, and writes them so that they can be read in parts. */
export class Keeper {
  private readonly coming = new Map<string, Coming>();

  private constructor(
    private readonly caseId: string,
    public index: KeptIndex
  ) {}

  static async open(caseId: string): Promise<Keeper> {
    return new Keeper(caseId, await openIndex(caseId));
  }

  /** Reads again what another tab may have changed. */
  async refresh(): Promise<void> {
    this.index = await openIndex(this.caseId);
  }

  /** Takes messages of a store that is still being read; their origins are written at once. */
  async add(sourceId: string, { store, ...batch }: MessageBatch): Promise<void> {
    const coming = this.comingOf(sourceId, store);
    const part = coming.collector.add({ store, ...batch });
    coming.written.push(writeOrigins({ ...coming.run, part, origins: batch.origins }));
    // Who writes faster than the disk waits for it.
    if (coming.written.length > MOST_WAITING) await coming.written.shift();
  }

  private comingOf(sourceId: string, store: string): Coming {
    let coming = this.coming.get(store);
    if (!coming) {
      const { caseId } = this;
      const run = { caseId, sourceId, store, run: this.nextRun() };
      coming = { run, collector: new StoreCollector(), written: [] };
      this.coming.set(store, coming);
    }
    return coming;
  }

  private lastRun = 0;
  private nextRun(): number {
    const known = this.index.stores.map(({ record }) => record.run);
    return (this.lastRun = Math.max(Date.now(), this.lastRun + 1, ...known.map((run) => run + 1)));
  }

  /** Forgets what came of stores whose end did not come. */
  async forget(): Promise<void> {
    for (const store of [...this.coming.keys()]) await this.drop(store);
  }

  /** Forgets what came of one store. */
  async drop(store: string): Promise<void> {
    const coming = this.coming.get(store);
    if (!coming) return;
    this.coming.delete(store);
    await Promise.allSettled(coming.written);
    await removeRun(coming.run);
  }

  /** Whether something is kept of a store. */
  knows(store: string): boolean {
    return this.index.stores.some(({ id }) => id === store);
  }

  /** Removes what was written of passes that were cut off. */
  async tidy(): Promise<void> {
    await removeBrokenRuns(this.caseId, await keptStores(this.caseId));
    // What an earlier version did not work out is kept, so that it is done once.
    const kept = await keptIndex(this.caseId);
    if (kept && !kept.joined) await (await openStorage()).put('indexes', this.index.record);
  }

  /** Keeps what a pass found of one store, with the messages that came before, in place of what was known of it. */
  async keep(
    sourceId: string,
    found: Findings,
    record: CaseRecord,
    how: Keeping
  ): Promise<CaseRecord> {
    const old = this.index.stores.find(({ id }) => id === found.stores[0]!.id);
    const isJoined = old !== undefined && how.scope !== undefined && !replaces(how.scope, old);
    const findings = isJoined ? await withKept(found, old) : found;
    const { run, sorted, originStarts } = await this.sorted(
      sourceId,
      findings,
      isJoined ? old : null
    );
    const lastLine = await this.number(sorted.columns, old, record, how);
    const names = new Map(findings.attachments.map(({ id, name }) => [id, name]));
    const beside = (texts: TextsRecord['texts']): TextsRecord['beside'] => besideOf(texts, names);
    await writeRows(run, sorted, beside, (rows) => how.wrote?.(rows, sorted.count));
    const { attachments } = findings;
    await writeAttachments(run, toldBy(attachments, sorted.columns));
    const scopes = how.scope && withScope(isJoined ? (old.record.scopes ?? []) : [], how.scope);
    const kept: StoreRecord = {
      ...run,
      ...storeEntry(run, isJoined ? counted(findings, sorted) : findings, sorted),
      originStarts,
      ...(scopes ? { scopes } : {})
    };
    const stores = [...this.index.stores.filter((store) => store !== old)];
    stores.push(new StoreLines(kept, sorted.columns));
    const index = await indexOf(this.caseId, inOrder(stores), this.index, await this.told());
    const updated = await this.swap(index, {
      record,
      lastLine,
      kept,
      ...(how.instead ? { instead: how.instead } : {})
    });
    if (old) await removeRun(old.record);
    return updated;
  }

  /** All messages of a store that came, in their order. */
  private async sorted(
    sourceId: string,
    { stores, messages, threads }: Findings,
    joined: StoreLines | null
  ): Promise<{ run: RunKey; sorted: SortedStore; originStarts: Uint32Array }> {
    const store = stores[0]!.id;
    for (const batch of batchesOf(store, messages)) await this.add(sourceId, batch);
    if (joined) {
      const came = this.comingOf(sourceId, store).collector.idKeys();
      const builder = new BatchBuilder(store);
      for await (const message of keptMessages(joined, came)) {
        builder.add(message);
        if (builder.count >= BATCH) await this.add(sourceId, builder.take());
      }
      if (builder.count > 0) await this.add(sourceId, builder.take());
    }
    const { run, collector, written } = this.comingOf(sourceId, store);
    this.coming.delete(store);
    await Promise.all(written);
    return { run, sorted: collector.sorted(threads), originStarts: collector.starts() };
  }

  private async number(
    columns: RowColumns,
    old: StoreLines | undefined,
    record: CaseRecord,
    { isFinal, given }: Keeping
  ): Promise<number> {
    await old?.load();
    const known = given ?? numbersGiven(old ? [old.columns] : []);
    const current = await (await openStorage()).get('cases', this.caseId);
    return numberRows(columns, known, (current ?? record).lastLine, isFinal);
  }

  /** From one moment to the next the case holds the new lines in place of the old. */
  private async swap(
    index: KeptIndex,
    { record, lastLine, kept, instead }: Swap
  ): Promise<CaseRecord> {
    const db = await openStorage();
    const tx = db.transaction(['stores', 'sources', 'cases', 'indexes', 'chunks'], 'readwrite');
    await tx.objectStore('stores').put(kept);
    await tx.objectStore('indexes').put(index.record);
    const sources = tx.objectStore('sources');
    const source = await sources.get(`${this.caseId}/${kept.sourceId}`);
    if (source) await sources.put(withStore(source, kept));
    const current = (await tx.objectStore('cases').get(this.caseId)) ?? record;
    const updated = { ...current, lastLine };
    await tx.objectStore('cases').put(updated);
    if (instead)
      await tx.objectStore('chunks').delete(IDBKeyRange.bound(instead, [...instead, []]));
    await tx.done;
    this.index = index;
    return updated;
  }

  /** Names and joins of people as they are kept with the case. */
  private async told(): Promise<ToldPeople> {
    return (await (await openStorage()).get('cases', this.caseId)) ?? {};
  }

  /** Joins people anew, after decisions or, with `compared`, after the lines of a store changed. */
  async join(compared: boolean): Promise<void> {
    const { caseId } = this;
    const { stores, record } = this.index;
    const shared = compared ? await sharedLines(stores) : (record.shared ?? []);
    const before = new KeptIndex(stores, { ...record, shared });
    const index = await indexOf(caseId, stores, before, await this.told());
    await (await openStorage()).put('indexes', index.record);
    this.index = index;
  }

  /** Takes a source's lines out of the case, with the source itself; they are kept until it is purged. */
  async remove(sourceId: string, removedAt: number): Promise<void> {
    await this.setRemoved(sourceId, removedAt);
  }

  /** Brings back a source that was removed, with its lines. */
  async restore(sourceId: string): Promise<void> {
    await this.setRemoved(sourceId, null);
  }

  private async setRemoved(sourceId: string, removedAt: number | null): Promise<void> {
    const others = this.index.stores.filter(({ record }) => record.sourceId !== sourceId);
    const own = removedAt === null ? await storesOf(this.caseId, sourceId) : [];
    const stores = inOrder([...others, ...own]);
    const index = await indexOf(this.caseId, stores, this.index, await this.told());
    const tx = (await openStorage()).transaction(['sources', 'indexes'], 'readwrite');
    const source = await tx.objectStore('sources').get(`${this.caseId}/${sourceId}`);
    if (source) {
      const { removedAt: _, ...rest } = source;
      await tx.objectStore('sources').put(removedAt === null ? rest : { ...rest, removedAt });
    }
    await tx.objectStore('indexes').put(index.record);
    await tx.done;
    this.index = index;
  }

  /**
   * Takes out stores of a source that an examination which looked for all of
   * them did not meet again, because something else reads their files now.
   */
  async retire(
    sourceId: string,
    scope: Scope,
    isGone: (store: StoreLines) => boolean
  ): Promise<void> {
    const gone = this.index.stores.filter(
      (store) => store.record.sourceId === sourceId && isGone(store) && replaces(scope, store)
    );
    if (gone.length === 0) return;
    const stores = this.index.stores.filter((store) => !gone.includes(store));
    const index = await indexOf(this.caseId, stores, this.index, await this.told());
    const tx = (await openStorage()).transaction(['stores', 'sources', 'indexes'], 'readwrite');
    for (const { record } of gone)
      await tx.objectStore('stores').delete([this.caseId, sourceId, record.store]);
    const source = await tx.objectStore('sources').get(`${this.caseId}/${sourceId}`);
    const ids = new Set(gone.map(({ id }) => id));
    if (source) {
      const left = source.stores.filter(({ id }) => !ids.has(id));
      await tx.objectStore('sources').put({ ...source, stores: left });
    }
    await tx.objectStore('indexes').put(index.record);
    await tx.done;
    this.index = index;
    for (const { record } of gone) await removeRun(record);
  }
}

/** A store that is still being read. */
interface Coming {
  run: RunKey;
  collector: StoreCollector;
  /** Parts of the origins that are on their way to the disk. */
  written: Promise<void>[];
}

interface Swap {
  record: CaseRecord;
  lastLine: number;
  kept: StoreRecord;
  instead?: [string, string, string];
}

async function openIndex(caseId: string): Promise<KeptIndex> {
  const [records, kept, sources] = await Promise.all([
    keptStores(caseId),
    keptIndex(caseId),
    (await openStorage()).getAllFromIndex('sources', 'case', caseId)
  ]);
  const removed = new Set(sources.filter((one) => one.removedAt !== undefined).map(({ id }) => id));
  const here = records.filter(({ sourceId }) => !removed.has(sourceId));
  const stores = inOrder(here.map((record) => new StoreLines(record)));
  if (!kept?.joined) {
    const told = (await (await openStorage()).get('cases', caseId)) ?? {};
    const empty = KeptIndex.empty(caseId);
    const before = kept ? new KeptIndex(stores, kept) : empty;
    const shared = await sharedLines(stores);
    return indexOf(caseId, stores, new KeptIndex(stores, { ...before.record, shared }), told);
  }
  return new KeptIndex(stores, kept);
}

async function storesOf(caseId: string, sourceId: string): Promise<StoreLines[]> {
  const records = await keptStores(caseId);
  return records
    .filter((record) => record.sourceId === sourceId)
    .map((record) => new StoreLines(record));
}

function withStore(source: SourceRecord, { facts }: StoreRecord): SourceRecord {
  const others = source.stores.filter(({ id }) => id !== facts.id);
  return { ...source, stores: [...others, facts] };
}

function* batchesOf(store: string, messages: readonly Message[]): Generator<MessageBatch> {
  const builder = new BatchBuilder(store);
  for (const message of messages) {
    builder.add(message);
    if (builder.count >= BATCH) yield builder.take();
  }
  if (builder.count > 0) yield builder.take();
}

/** Whether an examination looked for all that the kept findings of a store come from. */
function replaces(scope: Scope, { record }: StoreLines): boolean {
  return (record.scopes ?? []).every((known) => covers(scope, known));
}

/** Findings with the counts of what is kept after they were put to others. */
function counted(findings: Findings, { columns }: SortedStore): Findings {
  const counts = emptyCounts();
  for (const state of columns.state) counts[STATES[state]!]++;
  const others = emptyCounts();
  for (const { state } of [...findings.calls, ...findings.contacts]) others[state]++;
  for (const state of STATES) counts[state] += others[state];
  const [facts, ...rest] = findings.stores;
  return { ...findings, stores: [{ ...facts!, counts, others }, ...rest] };
}

/** Subjects and names of files, which are searched as well. */
function besideOf(
  texts: TextsRecord['texts'],
  names: ReadonlyMap<string, string | null>
): TextsRecord['beside'] {
  return texts.extras.flatMap(([i, { subject, attachments }]): TextsRecord['beside'] => {
    const words = [subject, ...attachments.map((id) => names.get(id) ?? null)];
    const told = words.filter((word) => word !== null && word !== '').join('\n');
    return told === '' ? [] : [[i, told]];
  });
}
