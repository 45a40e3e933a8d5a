/** Kinds of records that can be chosen, each by its ids. */
export type ChosenKind = 'lines' | 'calls' | 'contacts' | 'files' | 'gaps';

/** One exhibit: what stands under one heading of a record. */
export interface ExhibitEntry {
  id: string;
  kind: ChosenKind;
  /** Given by hand; null where it is called after what it holds. */
  name: string | null;
  /** Ids of the chosen records. */
  ids: string[];
  /** Lines that stand before and after the chosen ones, to be understood. */
  context: number;
  /** Days to which lines are trimmed, ISO dates, both included; null is open. */
  from: string | null;
  to: string | null;
  /** What is chosen from now on goes into another exhibit. */
  isClosed: boolean;
}

export interface ExhibitList {
  id: string;
  name: string;
  /** Order of the exhibits: as they were put, or by their first moment. */
  order: 'hand' | 'time';
  entries: ExhibitEntry[];
}

/** The lists of a case, of which one is in use. */
export interface ExhibitLists {
  lists: ExhibitList[];
  current: string;
}

/** What can be done with exhibit lists. */
export type ExhibitChange =
  | { type: 'choose'; kind: ChosenKind; ids: string[] }
  | { type: 'take-back'; ids: string[] }
  | { type: 'drop'; entry: string }
  | { type: 'name'; entry: string; name: string }
  /** Of one exhibit, or with null of all that hold lines and are not closed. */
  | { type: 'context'; entry: string | null; lines: number }
  | { type: 'trim'; entry: string; from: string | null; to: string | null }
  | { type: 'close'; entry: string; isClosed: boolean }
  | { type: 'arrange'; entries: string[] }
  | { type: 'order'; by: ExhibitList['order'] }
  | { type: 'add-list'; name: string }
  | { type: 'use-list'; list: string }
  | { type: 'name-list'; name: string }
  | { type: 'drop-list' };

/** What a change needs to know of the case, and of chance. */
export interface ExhibitFacts {
  /** The conversation of a line; lines of one go into one exhibit. */
  groupOf: (message: string) => string;
  newId: () => string;
}

export function firstLists(newId: () => string): ExhibitLists {
  const list = newList('Exhibits', newId);
  return { lists: [list], current: list.id };
}

function newList(name: string, newId: () => string): ExhibitList {
  return { id: newId(), name, order: 'hand', entries: [] };
}

export function currentList({ lists, current }: ExhibitLists): ExhibitList {
  return lists.find(({ id }) => id === current) ?? lists[0]!;
}

/** Ids of everything that is on a list. */
export function chosenOn({ entries }: ExhibitList): Set<string> {
  return new Set(entries.flatMap(({ ids }) => ids));
}

/** Lists as they are after a change; what was there is left as it is. */
export function applied(
  lists: ExhibitLists,
  change: ExhibitChange,
  facts: ExhibitFacts
): ExhibitLists {
  switch (change.type) {
    case 'add-list': {
      const list = newList(change.name.trim() || 'Exhibits', facts.newId);
      return { lists: [...lists.lists, list], current: list.id };
    }
    case 'use-list': {
      const isThere = lists.lists.some(({ id }) => id === change.list);
      return isThere ? { ...lists, current: change.list } : lists;
    }
    case 'drop-list': {
      const left = lists.lists.filter(({ id }) => id !== currentList(lists).id);
      return left.length === 0 ? firstLists(facts.newId) : { lists: left, current: left[0]!.id };
    }
    default: {
      const { id } = currentList(lists);
      return {
        ...lists,
        lists: lists.lists.map((list) => (list.id === id ? listAfter(list, change, facts) : list))
      };
    }
  }
}

type OneListChange = Exclude<ExhibitChange, { type: 'add-list' | 'use-list' | 'drop-list' }>;

function listAfter(list: ExhibitList, change: OneListChange, facts: ExhibitFacts): ExhibitList {
  const { entries } = list;
  const changed = (id: string, told: Partial<ExhibitEntry>): ExhibitList => ({
    ...list,
    entries: entries.map((entry) => (entry.id === id ? { ...entry, ...told } : entry))
  });
  switch (change.type) {
    case 'choose':
      return { ...list, entries: withChosen(entries, change.kind, change.ids, facts) };
    case 'take-back':
      return { ...list, entries: without(entries, new Set(change.ids)) };
    case 'drop':
      return { ...list, entries: entries.filter(({ id }) => id !== change.entry) };
    case 'name':
      return changed(change.entry, { name: change.name.trim() || null });
    case 'context': {
      const context = Math.max(0, Math.min(50, Math.round(change.lines)));
      if (change.entry !== null) return changed(change.entry, { context });
      const takes = ({ kind, isClosed }: ExhibitEntry): boolean => kind === 'lines' && !isClosed;
      return {
        ...list,
        entries: entries.map((entry) => (takes(entry) ? { ...entry, context } : entry))
      };
    }
    case 'trim':
      return changed(change.entry, { from: change.from, to: change.to });
    case 'close':
      return changed(change.entry, { isClosed: change.isClosed });
    case 'arrange':
      return { ...list, order: 'hand', entries: arranged(entries, change.entries) };
    case 'order':
      return { ...list, order: change.by };
    case 'name-list':
      return { ...list, name: change.name.trim() || list.name };
  }
}

/** Entries in the order of ids; those that are not named keep their place at the end. */
function arranged(entries: readonly ExhibitEntry[], ids: readonly string[]): ExhibitEntry[] {
  const place = new Map(ids.map((id, i) => [id, i]));
  const at = ({ id }: ExhibitEntry): number => place.get(id) ?? ids.length;
  return [...entries].sort((a, b) => at(a) - at(b));
}

function without(entries: readonly ExhibitEntry[], gone: ReadonlySet<string>): ExhibitEntry[] {
  return entries
    .map((entry) =>
      entry.ids.some((id) => gone.has(id))
        ? { ...entry, ids: entry.ids.filter((id) => !gone.has(id)) }
        : entry
    )
    .filter(({ ids }) => ids.length > 0);
}

/** Puts records on a list: lines to the others of their conversation, the rest to the others of their kind. */
function withChosen(
  entries: readonly ExhibitEntry[],
  kind: ChosenKind,
  ids: readonly string[],
  facts: ExhibitFacts
): ExhibitEntry[] {
  const known = new Set(entries.flatMap((entry) => entry.ids));
  const groups = new Map<string, string[]>();
  for (const id of new Set(ids)) {
    if (known.has(id)) continue;
    const group = kind === 'lines' ? facts.groupOf(id) : kind;
    const own = groups.get(group);
    if (own) own.push(id);
    else groups.set(group, [id]);
  }
  const out = [...entries];
  for (const [group, added] of groups) {
    const at = out.findIndex(
      (entry) =>
        entry.kind === kind &&
        !entry.isClosed &&
        (kind !== 'lines' || facts.groupOf(entry.ids[0]!) === group)
    );
    if (at >= 0) out[at] = { ...out[at]!, ids: [...out[at]!.ids, ...added] };
    else out.push(newEntry(kind, added, facts.newId()));
  }
  return out;
}

function newEntry(kind: ChosenKind, ids: string[], id: string): ExhibitEntry {
  return { id, kind, name: null, ids, context: 0, from: null, to: null, isClosed: false };
}

/** Entries in the order in which they are produced. */
export function inOrder(
  { order, entries }: ExhibitList,
  firstMoment: (entry: ExhibitEntry) => number | null
): ExhibitEntry[] {
  if (order === 'hand') return [...entries];
  const at = new Map(entries.map((entry) => [entry, firstMoment(entry) ?? Infinity]));
  return [...entries].sort((a, b) => at.get(a)! - at.get(b)!);
}

/** One list of the lines that a case chose before it had lists; groups come with the first change. */
export function listsOfLines(messages: readonly string[], facts: ExhibitFacts): ExhibitLists {
  const lists = firstLists(facts.newId);
  return messages.length === 0
    ? lists
    : applied(lists, { type: 'choose', kind: 'lines', ids: [...messages] }, facts);
}
