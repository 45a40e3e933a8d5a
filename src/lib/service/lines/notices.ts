import type { CaseIndex, Conversation } from '$core/case';

/** Share of a store's people who have telephone numbers, from which on what has none is a service. */
const MOSTLY = 0.5;

const byIndex = new WeakMap<CaseIndex, Set<string>>();

/**
 * Whether a conversation is of codes, advertising and the like: nobody has
 * answered it, nobody named its sender, and that is a short number, or a name
 * in a store where people have telephone numbers.
 */
export function isNotice(row: Conversation, index: CaseIndex, isNamed: boolean): boolean {
  const [person] = row.participants;
  if (row.group || row.isAnswered || isNamed || person === undefined) return false;
  if (index.individuals.has(person)) return false;
  const address = index.people.get(person)?.addresses[0] ?? '';
  if (/^\d{2,6}$/.test(address)) return true;
  const isName = /^[\p{L}\d][\p{L}\d ._&+-]{1,15}$/u.test(address) && /\p{L}/u.test(address);
  return isName && row.threads.every((thread) => numbered(index).has(storeOf(thread, index)));
}

function storeOf(thread: string, index: CaseIndex): string {
  return index.storeOf(thread) ?? '';
}

/** Stores most of whose people have telephone numbers. */
function numbered(index: CaseIndex): Set<string> {
  let stores = byIndex.get(index);
  if (stores) return stores;
  stores = new Set();
  for (const { id, record } of index.stores) {
    const people = record.people.filter(({ owner }) => !owner);
    const numbers = people.filter(({ addresses }) => /^\+?\d{3,}$/.test(addresses[0] ?? ''));
    if (people.length > 0 && numbers.length >= people.length * MOSTLY) stores.add(id);
  }
  byIndex.set(index, stores);
  return stores;
}
