import { CHUNK, emptyColumns, idKey, type RowColumns } from '$core/lines';
import {
  messageAt,
  momentAt,
  STATES,
  type Message,
  type MessageBatch,
  type OriginColumns,
  type Proof,
  type TextColumns
} from '$core/records';
import { COLUMNS_PART, columnsPart, originsPart, textsPart } from '../storage/lines';
import type { StoreRecord } from '../storage/schema';
import { Recent } from './recent';

/** Texts and origins of this many chunks stay at hand, over all stores. */
const MOST_TEXTS = 64;
const MOST_ORIGINS = 16;
const texts = new Recent<TextColumns>(MOST_TEXTS);
const origins = new Recent<OriginColumns>(MOST_ORIGINS);

/** The lines of one store: columns are read when they are first asked for and stay, texts and origins come and go. */
export class StoreLines {
  readonly columns: RowColumns;
  private readonly parts: (Promise<void> | undefined)[] = [];

  /** @param columns where they are known already. */
  constructor(
    readonly record: StoreRecord,
    columns?: RowColumns
  ) {
    this.columns = columns ?? emptyColumns(record.count);
    if (columns)
      for (let part = 0; part * COLUMNS_PART < record.count; part++)
        this.parts[part] = Promise.resolve();
  }

  get id(): string {
    return this.record.store;
  }

  /** Makes sure that the columns of some rows are there. */
  async load(from = 0, to = this.record.count): Promise<void> {
    const needed: Promise<void>[] = [];
    for (let part = Math.floor(from / COLUMNS_PART); part * COLUMNS_PART < to; part++)
      needed.push((this.parts[part] ??= this.read(part)));
    await Promise.all(needed);
  }

  private async read(part: number): Promise<void> {
    const read = await columnsPart(this.record, part);
    for (const name of Object.keys(read) as (keyof RowColumns)[])
      this.columns[name].set(read[name], part * COLUMNS_PART);
  }

  /** When a message was sent, by its id; null where that is not known. Asks for all columns to be there. */
  momentOf(id: string): number | null {
    const row = this.columns.idKey.indexOf(idKey(id));
    return row < 0 ? null : momentAt(this.columns.sentAt, row);
  }

  /** Rows of the messages of these ids, by the key of the id. */
  *rowsOf(keys: ReadonlySet<number>): Generator<[key: number, row: number]> {
    const { idKey } = this.columns;
    for (let row = 0; row < idKey.length; row++)
      if (keys.has(idKey[row]!)) yield [idKey[row]!, row];
  }

  texts(chunk: number): Promise<TextColumns> {
    const { record } = this;
    return texts.get(keyOf(record, chunk), async () => (await textsPart(record, chunk)).texts);
  }

  private origins(chunk: number): Promise<OriginColumns> {
    const { record } = this;
    return origins.get(keyOf(record, chunk), () => originsPart(record, chunk));
  }

  /** Where the messages that are neither live nor held were read from. */
  async *recoveredProofs(): AsyncGenerator<RecoveredProof> {
    await this.load();
    const { state } = this.columns;
    for (let chunk = 0; chunk * CHUNK < state.length; chunk++) {
      const own = state.subarray(chunk * CHUNK, (chunk + 1) * CHUNK);
      if (own.every((one) => isKept(one))) continue;
      const origins = await originsPart(this.record, chunk);
      for (let i = 0; i < own.length; i++) if (!isKept(own[i]!)) yield* proofsIn(origins, i);
    }
  }

  /** The record of a row, whose columns have to be there. */
  async message(row: number): Promise<Message> {
    return messageAt(await this.batch(Math.floor(row / CHUNK)), row % CHUNK);
  }

  /** The messages of a chunk, whose columns have to be there. */
  async batch(chunk: number): Promise<MessageBatch> {
    const [texts, origins] = await Promise.all([this.texts(chunk), this.origins(chunk)]);
    const { columns, record } = this;
    const [first, end] = [chunk * CHUNK, Math.min((chunk + 1) * CHUNK, record.count)];
    const lines = {
      contexts: record.contexts,
      context: columns.context.subarray(first, end),
      sentAt: columns.sentAt.subarray(first, end),
      state: columns.state.subarray(first, end),
      certainty: columns.certainty.subarray(first, end)
    };
    return { store: record.store, count: end - first, lines, texts, origins };
  }
}

export type RecoveredProof = Pick<Proof, 'path' | 'page' | 'offset'>;

const LIVE = STATES.indexOf('live');
const HELD = STATES.indexOf('held');

function isKept(state: number): boolean {
  return state === LIVE || state === HELD;
}

function* proofsIn(origins: OriginColumns, i: number): Generator<RecoveredProof> {
  const { proofEnds, proofForms, proofForm, page, offset } = origins;
  for (let at = i === 0 ? 0 : proofEnds[i - 1]!; at < proofEnds[i]!; at++) {
    const { path } = proofForms[proofForm[at]!]!;
    yield { path, page: Number.isNaN(page[at]!) ? null : page[at]!, offset: offset[at]! };
  }
}

function keyOf({ caseId, store, run }: StoreRecord, chunk: number): string {
  return `${caseId}/${store}/${run}/${chunk}`;
}
