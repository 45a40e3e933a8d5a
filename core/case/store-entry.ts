/** What a case knows of one store, made of what was found in it and of its messages in their order. */
import { idKey, type RowColumns, type SortedStore } from './lines';
import { STATES, type Attachment, type Findings, type Gap } from '../records';
import { compareIds } from '../messages';
import type { CaseStore, PlacedGap, StoreEntry, ToldAttachments } from './model';

/** By source, and within it by path. */
export function inOrder<Store extends CaseStore>(stores: readonly Store[]): Store[] {
  return [...stores].sort(
    ({ record: a }, { record: b }) =>
      compareIds(a.sourceId, b.sourceId) ||
      compareIds(a.facts.path, b.facts.path) ||
      compareIds(a.store, b.store)
  );
}

/** What is known of a store beside its lines. The findings are those of this store; its messages may be left out. */
export function storeEntry(
  { sourceId, run }: Pick<StoreEntry, 'sourceId' | 'run'>,
  findings: Findings,
  sorted: SortedStore
): StoreEntry {
  const { threads, people, calls, contacts, gaps, attachments } = findings;
  return {
    ...{ sourceId, run, store: findings.stores[0]!.id },
    count: sorted.count,
    facts: findings.stores[0]!,
    contexts: sorted.contexts,
    ranges: sorted.threads,
    threads,
    people,
    calls,
    contacts,
    gaps: placedGaps(gaps, sorted),
    attachments: attachments.length
  };
}

/** Rows of messages by the keys of their ids. */
function rowsOf(ids: Iterable<string>, { idKey: keys }: RowColumns): Map<number, number> {
  const wanted = new Set<number>();
  for (const id of ids) wanted.add(idKey(id));
  const rows = new Map<number, number>();
  if (wanted.size > 0)
    for (let row = 0; row < keys.length; row++)
      if (wanted.has(keys[row]!)) rows.set(keys[row]!, row);
  return rows;
}

function placedGaps(gaps: readonly Gap[], { columns, contexts }: SortedStore): PlacedGap[] {
  const ids = gaps.flatMap(({ before, after }) => [before, after]).filter((id) => id !== null);
  const rows = rowsOf(ids, columns);
  const side = (id: string | null): PlacedGap['before'] => {
    const row = id === null ? undefined : rows.get(idKey(id));
    if (row === undefined) return null;
    return { thread: contexts[columns.context[row]!]!.thread, row };
  };
  return gaps.map((gap) => ({ gap, before: side(gap.before), after: side(gap.after) }));
}

/** What the messages of attachments say of them: when they were sent, and what became of them. */
export function toldBy(
  attachments: readonly Attachment[],
  columns: RowColumns
): Required<ToldAttachments> {
  const rows = rowsOf(
    attachments.map(({ message }) => message),
    columns
  );
  const sentAt = new Float64Array(attachments.length).fill(NaN);
  const states = new Uint8Array(attachments.length);
  attachments.forEach(({ message, state }, i) => {
    const row = rows.get(idKey(message));
    if (row !== undefined) sentAt[i] = columns.sentAt[row]!;
    states[i] = row === undefined ? STATES.indexOf(state) : columns.state[row]!;
  });
  return { attachments, sentAt, states };
}
