import {
  idAt,
  TextBuilder,
  type BatchContext,
  type IdForm,
  type LineColumns,
  type MessageBatch,
  type TextColumns
} from '../../records';
import { compareIds } from '../../messages';
import { IdKeys, textKey } from './keys';
import { CHUNK, emptyColumns, type RowColumns, type ThreadRange } from './model';

/** The messages of one store in their order. */
export interface SortedStore {
  count: number;
  contexts: BatchContext[];
  threads: ThreadRange[];
  columns: RowColumns;
  /** Texts of the rows from `index * CHUNK` on. */
  texts(index: number): TextColumns;
}

/** What is needed of a batch until all have come, and what its dictionaries are in the store's own. */
interface Taken {
  count: number;
  lines: LineColumns;
  texts: TextColumns;
  /** Place of its first message among all that came. */
  start: number;
  contexts: Uint32Array;
  ids: IdForm[];
}

/** Takes the messages of a store as they come, and puts them in order: by conversation and time. */
export class StoreCollector {
  count = 0;
  private readonly taken: Taken[] = [];
  private readonly contexts: BatchContext[] = [];
  private readonly contextPlaces = new Map<string, number>();
  private readonly idForms = new Map<string, IdForm>();

  /** Places of the batches' first messages among all that came. */
  starts(): Uint32Array {
    return Uint32Array.from(this.taken, ({ start }) => start);
  }

  /** Keeps all but the origins of a batch; returns how many came before. */
  add(batch: MessageBatch): number {
    const { count, lines, texts } = batch;
    this.taken.push({
      count,
      lines,
      texts,
      start: this.count,
      contexts: Uint32Array.from(lines.contexts, (context) => this.contextPlace(context)),
      ids: texts.idForms.map((form) => same(this.idForms, `${form.number}${form.prefix}`, form))
    });
    this.count += count;
    return this.taken.length - 1;
  }

  /** Keys of the ids of all that came. */
  idKeys(): Set<number> {
    const keys = new IdKeys();
    const all = new Set<number>();
    for (const { count, texts } of this.taken)
      for (let i = 0; i < count; i++) all.add(keys.at(texts, i));
    return all;
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
      texts: (index) => this.texts(order.subarray(index * CHUNK, (index + 1) * CHUNK))
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
    for (const { lines, contexts } of this.taken)
      for (const context of lines.context) counts[threadOf[contexts[context]!]!]!++;
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
    for (const { count, lines, contexts, start: first } of this.taken) {
      const { context, sentAt } = lines;
      for (let i = 0; i < count; i++) {
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
    const { texts, start } = this.taken[this.takenOf(message)]!;
    return idAt(texts, message - start);
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
    sorted.origin = order;
    for (const name of Object.keys(sorted) as (keyof RowColumns)[]) {
      if (name === 'origin') continue;
      const [from, to] = [unsorted[name], sorted[name]];
      for (let row = 0; row < order.length; row++) to[row] = from[order[row]!]!;
    }
    return sorted;
  }

  private texts(order: Uint32Array): TextColumns {
    const builder = new TextBuilder();
    let at = 0;
    for (const message of order) {
      const { start, count } = this.taken[at]!;
      if (message < start || message >= start + count) at = this.takenOf(message);
      const { texts, ids, start: first } = this.taken[at]!;
      builder.add(texts, message - first, ids);
    }
    return builder.take();
  }
}

/** The object that was known first by a key, so that dictionaries hold it once. */
function same<T>(known: Map<string, T>, key: string, value: T): T {
  const first = known.get(key);
  if (first !== undefined) return first;
  known.set(key, value);
  return value;
}

function fillColumns(into: RowColumns, { count, lines, texts, start, contexts }: Taken): void {
  const keys = new IdKeys();
  into.sentAt.set(lines.sentAt, start);
  into.state.set(lines.state, start);
  into.certainty.set(lines.certainty, start);
  for (let i = 0; i < count; i++) {
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
