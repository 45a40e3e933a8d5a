import { STATES, type BatchContext } from '../../records';
import type { RowList } from './merge';
import type { Copies, RowColumns } from './model';

const LIVE = STATES.indexOf('live');

/** What of a store tells copies of its lines in others. */
export interface ToldApart {
  contexts: readonly BatchContext[];
  columns: Pick<RowColumns, 'context' | 'sentAt' | 'state' | 'contentKey'>;
}

/** A line that is shown, and where another took its place, that one. */
interface Kept {
  store: number;
  row: number;
}

/**
 * One line for a message that several stores hold, as copies of one database
 * do. What one store holds live stands before what was recovered in another.
 * The same words twice in one store are two messages.
 * @param list rows of one conversation in the order of time.
 */
export function copiesIn(list: RowList, stores: readonly ToldApart[]): Copies {
  const found: Record<keyof Copies, number[]> = { store: [], row: [], forStore: [], forRow: [] };
  const hide = (copy: Kept, shown: Kept): void => {
    found.store.push(copy.store);
    found.row.push(copy.row);
    found.forStore.push(shown.store);
    found.forRow.push(shown.row);
  };
  for (let from = 0; from < list.row.length;) {
    const end = endOfSecond(list, from, stores);
    if (end - from > 1) foldSecond(list, from, end, stores, hide);
    from = end;
  }
  return {
    store: Uint32Array.from(found.store),
    row: Uint32Array.from(found.row),
    forStore: Uint32Array.from(found.forStore),
    forRow: Uint32Array.from(found.forRow)
  };
}

/** Where the rows of one second end; rows whose time is unknown stand each alone. */
function endOfSecond({ store, row }: RowList, from: number, stores: readonly ToldApart[]): number {
  const secondAt = (at: number): number =>
    Math.floor(stores[store[at]!]!.columns.sentAt[row[at]!]! / SECOND);
  const second = secondAt(from);
  let end = from + 1;
  while (end < row.length && secondAt(end) === second) end++;
  return end;
}

const SECOND = 1000;

/** Stores that keep whole seconds tell the same moment as those that keep more. */
function isSameMoment(a: number, b: number): boolean {
  return a === b || a % SECOND === 0 || b % SECOND === 0;
}

function foldSecond(
  list: RowList,
  from: number,
  end: number,
  stores: readonly ToldApart[],
  hide: (copy: Kept, shown: Kept) => void
): void {
  const kept = new Map<string, Kept>();
  for (let place = from; place < end; place++) {
    const own: Kept = { store: list.store[place]!, row: list.row[place]! };
    const { contexts, columns } = stores[own.store]!;
    const content = columns.contentKey[own.row]!;
    if (Number.isNaN(content)) continue;
    const { direction, sender } = contexts[columns.context[own.row]!]!;
    const key = `${direction}\u0000${content}\u0000${sender}`;
    const known = kept.get(key);
    const at = (one: Kept): number => stores[one.store]!.columns.sentAt[one.row]!;
    if (!known || !isSameMoment(at(known), at(own))) kept.set(key, own);
    else if (known.store !== own.store) {
      const isLive = (one: Kept): boolean => stores[one.store]!.columns.state[one.row] === LIVE;
      if (isLive(own) && !isLive(known)) {
        hide(known, own);
        kept.set(key, own);
      } else hide(own, known);
    }
  }
}

/** The line that stands for a copy, through others that it stood for. */
export class Stands {
  private readonly byRow = new Map<string, Kept>();

  constructor({ store, row, forStore, forRow }: Copies) {
    for (let i = 0; i < row.length; i++)
      this.byRow.set(`${store[i]}/${row[i]}`, { store: forStore[i]!, row: forRow[i]! });
  }

  isCopy(store: number, row: number): boolean {
    return this.byRow.size > 0 && this.byRow.has(`${store}/${row}`);
  }

  /** The line that is shown for a row: itself, where it is no copy. */
  shown(store: number, row: number): Kept {
    let kept: Kept = { store, row };
    for (
      let next: Kept | undefined = kept;
      next;
      next = this.byRow.get(`${kept.store}/${kept.row}`)
    )
      kept = next;
    return kept;
  }

  /** The lines that a line stands for. */
  copiesOf(store: number, row: number): readonly Kept[] {
    this.copies ??= this.inverse();
    return this.copies.get(`${store}/${row}`) ?? [];
  }

  private copies: Map<string, Kept[]> | null = null;

  private inverse(): Map<string, Kept[]> {
    const copies = new Map<string, Kept[]>();
    for (const copy of this.byRow.keys()) {
      const [store, row] = copy.split('/').map(Number) as [number, number];
      const shown = this.shown(store, row);
      const key = `${shown.store}/${shown.row}`;
      const known = copies.get(key);
      if (known) known.push({ store, row });
      else copies.set(key, [{ store, row }]);
    }
    return copies;
  }
}
