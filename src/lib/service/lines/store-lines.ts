import { CaseIndex, Recent, type CaseStore, type ToldAttachments } from '$core/case';
import { CHUNK, emptyColumns, idKey, type RowColumns } from '$core/case/lines';
import {
  momentAt,
  originAt,
  STATES,
  textAt,
  type Message,
  type OriginColumns,
  type Proof,
  type TextColumns
} from '$core/records';
import {
  attachmentsOf,
  COLUMNS_PART,
  columnsPart,
  originsPart,
  textsPart
} from '../../storage/lines';
import type { StoreRecord } from '../../storage/schema';

/** Parts of texts and origins that stay at hand, over all stores. */
const MOST_TEXTS = 64;
const MOST_ORIGINS = 48;
const texts = new Recent<TextColumns>(MOST_TEXTS);
const origins = new Recent<OriginColumns>(MOST_ORIGINS);

/** The lines of one store: columns are read when they are first asked for and stay, texts and origins come and go. */
export class StoreLines implements CaseStore {
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

  private origins(part: number): Promise<OriginColumns> {
    const { record } = this;
    return origins.get(keyOf(record, part), () => originsPart(record, part));
  }

  /** The part of the origins that a message lies in, and its place there. */
  private originOf(row: number): { part: number; at: number } {
    const { originStarts } = this.record;
    const origin = this.columns.origin[row]!;
    let part = 0;
    let high = originStarts.length - 1;
    while (part < high) {
      const middle = (part + high + 1) >> 1;
      if (originStarts[middle]! <= origin) part = middle;
      else high = middle - 1;
    }
    return { part, at: origin - originStarts[part]! };
  }

  /** Where the messages that are neither live nor held were read from. */
  async *recoveredProofs(): AsyncGenerator<RecoveredProof> {
    await this.load();
    const places: { part: number; at: number }[] = [];
    this.columns.state.forEach((state, row) => {
      if (!isKept(state)) places.push(this.originOf(row));
    });
    // Each part is read once.
    for (const { part, at } of places.sort((a, b) => a.part - b.part))
      yield* proofsIn(await this.origins(part), at);
  }

  /** The record of a row, whose columns have to be there. */
  async message(row: number): Promise<Message> {
    const { part, at } = this.originOf(row);
    const [texts, origins] = await Promise.all([
      this.texts(Math.floor(row / CHUNK)),
      this.origins(part)
    ]);
    return this.recordOf(row, texts, origins, at);
  }

  private recordOf(row: number, texts: TextColumns, origins: OriginColumns, at: number): Message {
    const { record, columns } = this;
    return {
      ...record.contexts[columns.context[row]!]!,
      ...textAt(texts, row % CHUNK),
      ...originAt(origins, at),
      store: record.store,
      sentAt: momentAt(columns.sentAt, row),
      state: STATES[columns.state[row]!]!,
      certainty: columns.certainty[row]!
    };
  }

  attachments(): Promise<readonly ToldAttachments[]> {
    return attachmentsOf(this.record);
  }

  /** All records in the order of their rows; the origins are held meanwhile. */
  async *messages(): AsyncGenerator<Message> {
    await this.load();
    const { record } = this;
    const all = await Promise.all(
      Array.from(record.originStarts, (_, part) => originsPart(record, part))
    );
    for (let row = 0; row < record.count; row++) {
      const { part, at } = this.originOf(row);
      const texts = await this.texts(Math.floor(row / CHUNK));
      yield this.recordOf(row, texts, all[part]!, at);
    }
  }
}

/** A case's index over lines that are kept in this browser. */
export type KeptIndex = CaseIndex<StoreLines>;
export const KeptIndex = CaseIndex<StoreLines>;

export type RecoveredProof = Pick<Proof, 'path' | 'page' | 'offset' | 'method'>;

const LIVE = STATES.indexOf('live');
const HELD = STATES.indexOf('held');

function isKept(state: number): boolean {
  return state === LIVE || state === HELD;
}

function* proofsIn(origins: OriginColumns, i: number): Generator<RecoveredProof> {
  const { proofEnds, proofForms, proofForm, page, offset } = origins;
  for (let at = i === 0 ? 0 : proofEnds[i - 1]!; at < proofEnds[i]!; at++) {
    const { path, method } = proofForms[proofForm[at]!]!;
    yield { path, method, page: Number.isNaN(page[at]!) ? null : page[at]!, offset: offset[at]! };
  }
}

function keyOf({ caseId, store, run }: StoreRecord, chunk: number): string {
  return `${caseId}/${store}/${run}/${chunk}`;
}
