import {
  BatchBuilder,
  idAt,
  ownExtra,
  type BatchContext,
  type IdForm,
  type MessageBatch,
  type ProofForm,
  type ReasonForm
} from '../records';
import { compareIds } from '../threads';
import { IdKeys, textKey } from './keys';
import { CHUNK, emptyColumns, type RowChunk, type RowColumns, type ThreadRange } from './model';

/** The messages of one store in their order. */
export interface SortedStore {
  count: number;
  contexts: BatchContext[];
  threads: ThreadRange[];
  columns: RowColumns;
  /** Texts and origins of the rows from `index * CHUNK` on. */
  chunk(index: number): RowChunk;
}

/** What a batch's dictionaries are in the store's own. */
interface Taken {
  batch: MessageBatch;
  /** Place of its first message among all that came. */
  start: number;
  contexts: Uint32Array;
  ids: IdForm[];
  reasons: ReasonForm[];
  proofs: ProofForm[];
}

/** Takes the messages of a store as they come, and puts them in order: by conversation and time. */
export class StoreCollector {
  count = 0;
  private readonly taken: Taken[] = [];
  private readonly contexts: BatchContext[] = [];
  private readonly contextPlaces = new Map<string, number>();
  private readonly idForms = new Map<string, IdForm>();
  private readonly reasonForms = new Map<string, ReasonForm>();
  private readonly proofForms = new Map<string, ProofForm>();

  constructor(private readonly store: string) {}

  add(batch: MessageBatch): void {
    if (batch.count === 0) return;
    const { lines, texts, origins } = batch;
    this.taken.push({
      batch,
      start: this.count,
      contexts: Uint32Array.from(lines.contexts, (context) => this.contextPlace(context)),
      ids: texts.idForms.map((form) => same(this.idForms, `${form.number}${form.prefix}`, form)),
      reasons: origins.reasonForms.map((form) =>
        same(this.reasonForms, `${form.before}\u0000${form.after}`, form)
      ),
      proofs: origins.proofForms.map((form) =>
        same(this.proofForms, `${form.method}\u0000${form.source}\u0000${form.path}`, form)
      )
    });
    this.count += batch.count;
  }

  private contextPlace(context: BatchContext): number {
    const { thread, sender, direction } = context;
    const key = `${direction}\u0000${thread}\u0000${sender ?? '\u0000'}`;
    let place = this.contextPlaces.get(key);
    if (place === undefined) {
      place = this.contexts.push(context) - 1;
      this.contextPlaces.set(key, place);
    }
    return place;
  }

  /** @param threads the store's conversations in their order; those without messages are left out. */
  sorted(threads: readonly { id: string }[]): SortedStore {
    const { ranges, order } = this.order(threads);
    return {
      count: this.count,
      contexts: this.contexts,
      threads: ranges,
      columns: this.columns(order),
      chunk: (index) => this.chunk(order.subarray(index * CHUNK, (index + 1) * CHUNK))
    };
  }

  /** All messages, named by their place among those that came, in order. */
  private order(threads: readonly { id: string }[]): { ranges: ThreadRange[]; order: Uint32Array } {
    const places = new Map(threads.map(({ id }, i) => [id, i]));
    const threadOf = Uint32Array.from(this.contexts, ({ thread }) => {
      const known = places.get(thread);
      if (known !== undefined) return known;
      places.set(thread, places.size);
      return places.size - 1;
    });
    const counts = new Uint32Array(places.size);
    for (const { batch, contexts } of this.taken)
      for (const context of batch.lines.context) counts[threadOf[contexts[context]!]!]!++;
    const ranges: ThreadRange[] = [];
    const next = new Uint32Array(places.size);
    let start = 0;
    for (const [id, place] of places) {
      next[place] = start;
      if (counts[place]! > 0) ranges.push({ id, start, count: counts[place]! });
      start += counts[place]!;
    }
    const order = new Uint32Array(this.count);
    const moments = new Float64Array(this.count);
    for (const { batch, contexts, start: first } of this.taken) {
      const { context, sentAt } = batch.lines;
      for (let i = 0; i < batch.count; i++) {
        const thread = threadOf[contexts[context[i]!]!]!;
        order[next[thread]!++] = first + i;
        moments[first + i] = Number.isNaN(sentAt[i]!) ? Infinity : sentAt[i]!;
      }
    }
    for (const range of ranges)
      this.sortByTime(order.subarray(range.start, range.start + range.count), moments);
    return { ranges, order };
  }

  /** By time, unknown ones last, then by id. What is in order already, as most is, needs no sorting. */
  private sortByTime(order: Uint32Array, moments: Float64Array): void {
    let rising = 1;
    while (rising < order.length && moments[order[rising - 1]!]! < moments[order[rising]!]!)
      rising++;
    if (rising >= order.length) return;
    order.sort((a, b) => {
      const [first, second] = [moments[a]!, moments[b]!];
      return first < second ? -1 : first > second ? 1 : compareIds(this.idOf(a), this.idOf(b));
    });
  }

  private idOf(message: number): string {
    const { batch, start } = this.taken[this.takenOf(message)]!;
    return idAt(batch.texts, message - start);
  }

  /** Which batch a message came in. */
  private takenOf(message: number): number {
    const { taken } = this;
    let low = 0;
    let high = taken.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (taken[middle]!.start <= message) low = middle;
      else high = middle - 1;
    }
    return low;
  }

  private columns(order: Uint32Array): RowColumns {
    const unsorted = emptyColumns(this.count);
    for (const taken of this.taken) fillColumns(unsorted, taken);
    const sorted = emptyColumns(this.count);
    for (const name of Object.keys(sorted) as (keyof RowColumns)[]) {
      const [from, to] = [unsorted[name], sorted[name]];
      for (let row = 0; row < order.length; row++) to[row] = from[order[row]!]!;
    }
    return sorted;
  }

  private chunk(order: Uint32Array): RowChunk {
    const builder = new BatchBuilder(this.store);
    let at = 0;
    for (const message of order) {
      const { start, batch } = this.taken[at]!;
      if (message < start || message >= start + batch.count) at = this.takenOf(message);
      const taken = this.taken[at]!;
      copy(taken, message - taken.start, builder);
    }
    const { texts, origins } = builder.take();
    return { texts, origins };
  }
}

/** The object that was known first by a key, so that dictionaries hold it once. */
function same<T>(known: Map<string, T>, key: string, value: T): T {
  const first = known.get(key);
  if (first !== undefined) return first;
  known.set(key, value);
  return value;
}

function fillColumns(into: RowColumns, { batch, start, contexts }: Taken): void {
  const { lines, texts } = batch;
  const keys = new IdKeys();
  into.sentAt.set(lines.sentAt, start);
  into.state.set(lines.state, start);
  into.certainty.set(lines.certainty, start);
  for (let i = 0; i < batch.count; i++) {
    into.context[start + i] = contexts[lines.context[i]!]!;
    into.idKey[start + i] = keys.at(texts, i);
    const from = i === 0 ? 0 : texts.ends[i - 1]!;
    const isEmpty = from === texts.ends[i]!;
    into.contentKey[start + i] = isEmpty ? NaN : textKey(texts.text, from, texts.ends[i]!);
  }
  for (const [i, { attachments }] of texts.extras) {
    if (attachments.length === 0) continue;
    const key = into.contentKey[start + i]!;
    into.contentKey[start + i] = (Number.isNaN(key) ? 0 : Math.floor(key / 2)) + attachments.length;
  }
}

/** Adds a message of a batch to another. */
function copy({ batch, ids, reasons, proofs }: Taken, i: number, to: BatchBuilder): void {
  const { lines, texts, origins } = batch;
  to.knownText(texts.text, i === 0 ? 0 : texts.ends[i - 1]!, texts.ends[i]!);
  const extra = ownExtra(texts, i);
  if (extra) to.extra(extra);
  for (let at = i === 0 ? 0 : origins.proofEnds[i - 1]!; at < origins.proofEnds[i]!; at++)
    to.proof(
      proofs[origins.proofForm[at]!]!,
      origins.page[at]!,
      origins.offset[at]!,
      origins.length[at]!
    );
  to.plain({
    context: lines.contexts[lines.context[i]!]!,
    sentAt: lines.sentAt[i]!,
    deliveredAt: origins.deliveredAt[i]!,
    readAt: origins.readAt[i]!,
    state: lines.state[i]!,
    certainty: lines.certainty[i]!,
    idForm: ids[texts.idForm[i]!]!,
    idNumber: texts.idNumber[i]!,
    reasonForm: reasons[origins.reasonForm[i]!]!,
    reasonNumber: origins.reasonNumber[i]!
  });
}
