/** The lines of one store, held in memory: what the command opens a case file with. */
import { StoreCollector, type RowColumns, type SortedStore } from './lines';
import { BatchBuilder, type Findings, type Message, type TextColumns } from '../records';
import type { CaseStore, StoreEntry, ToldAttachments } from './model';
import { storeEntry, toldBy } from './store-entry';

/** Messages that are put into columns at a time. */
const BATCH = 4096;

export class HeldStore implements CaseStore {
  readonly record: StoreEntry;
  readonly columns: RowColumns;
  private readonly sorted: SortedStore;
  private readonly messages: readonly Message[];
  private readonly told: ToldAttachments;

  /** @param findings those of this store alone */
  constructor(findings: Findings) {
    const [facts] = findings.stores;
    const collector = new StoreCollector();
    const builder = new BatchBuilder(facts!.id);
    for (const message of findings.messages) {
      builder.add(message);
      if (builder.count >= BATCH) collector.add(builder.take());
    }
    if (builder.count > 0) collector.add(builder.take());
    this.sorted = collector.sorted(findings.threads);
    this.columns = this.sorted.columns;
    this.messages = findings.messages;
    this.record = storeEntry({ sourceId: facts!.source, run: 0 }, findings, this.sorted);
    this.told = toldBy(findings.attachments, this.columns);
  }

  get id(): string {
    return this.record.store;
  }

  load(): Promise<void> {
    return Promise.resolve();
  }

  *rowsOf(keys: ReadonlySet<number>): Generator<[key: number, row: number]> {
    const { idKey } = this.columns;
    for (let row = 0; row < idKey.length; row++)
      if (keys.has(idKey[row]!)) yield [idKey[row]!, row];
  }

  private readonly chunks = new Map<number, TextColumns>();

  texts(chunk: number): Promise<TextColumns> {
    let texts = this.chunks.get(chunk);
    if (!texts) this.chunks.set(chunk, (texts = this.sorted.texts(chunk)));
    return Promise.resolve(texts);
  }

  message(row: number): Promise<Message> {
    return Promise.resolve(this.messages[this.columns.origin[row]!]!);
  }

  attachments(): Promise<readonly ToldAttachments[]> {
    return Promise.resolve([this.told]);
  }
}
