import type { RowColumns, ThreadRange } from './model';

/** Rows of one conversation in a store, which has the place among the stores. */
export interface Strand {
  store: number;
  columns: Pick<RowColumns, 'sentAt'>;
  range: Pick<ThreadRange, 'start' | 'count'>;
}

/** Lines by the place of their store and their row in it. */
export interface RowList {
  store: Uint32Array;
  row: Uint32Array;
}

/** The rows of a conversation's strands in the order of time, those of one moment in the order of the strands. */
export function inOrderOfTime(strands: readonly Strand[]): RowList {
  const count = strands.reduce((sum, { range }) => sum + range.count, 0);
  const list: RowList = { store: new Uint32Array(count), row: new Uint32Array(count) };
  const next = strands.map(({ range }) => range.start);
  for (let at = 0; at < count; at++) {
    const least = strands.length === 1 ? 0 : earliest(strands, next);
    list.store[at] = strands[least]!.store;
    list.row[at] = next[least]!++;
  }
  return list;
}

/** The strand whose next row is the earliest. */
function earliest(strands: readonly Strand[], next: readonly number[]): number {
  let least = -1;
  let moment = 0;
  for (let i = 0; i < strands.length; i++) {
    const { columns, range } = strands[i]!;
    if (next[i]! >= range.start + range.count) continue;
    const at = columns.sentAt[next[i]!]!;
    const own = Number.isNaN(at) ? Infinity : at;
    if (least < 0 || own < moment) [least, moment] = [i, own];
  }
  return least;
}
