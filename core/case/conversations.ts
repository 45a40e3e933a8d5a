/** Works out who a case's correspondents are, which lines several stores hold, and what is known of each conversation. */
import {
  copiesIn,
  inOrderOfTime,
  joined,
  Stands,
  summaryOf,
  wroteTheSame,
  type Copies,
  type ThreadRange
} from './lines';
import {
  findJoins,
  joinPeople,
  UNDECIDED,
  type Decisions,
  type JoinedPeople,
  type NamedAddresses,
  type SharedLines
} from './people';
import type { Contact, Person } from '../records';
import { correspondents, mergePeople, nameByContacts, type Correspondent } from '../messages';
import { CaseIndex } from './case-index';
import type { CaseStore, Conversation } from './model';
import { byMember, partsByThread, strandsOf, type StorePart } from './parts';

const NO_COPIES: Copies = {
  store: new Uint32Array(0),
  row: new Uint32Array(0),
  forStore: new Uint32Array(0),
  forRow: new Uint32Array(0)
};

/**
 * Works out the conversations of a case, with the copies in them. Those of
 * whose stores none changed since `before` stay as they were; of the others
 * the columns are read.
 */
export async function indexOf<Store extends CaseStore>(
  caseId: string,
  stores: readonly Store[],
  before: CaseIndex<Store>,
  told: ToldPeople
): Promise<CaseIndex<Store>> {
  const { people, joined, shared } = peopleOf(stores, before, told);
  const individuals = byMember(joined.individuals);
  const personOf = (id: string): string => individuals.get(id)?.id ?? id;
  const ranges = partsByThread(stores);
  const conversations: Conversation[] = [];
  for (const row of correspondents(
    stores.flatMap(({ record }) => record.threads),
    personOf
  )) {
    const parts = row.threads.flatMap((thread) => ranges.get(thread) ?? []);
    conversations.push(
      keptConversation(row, parts, stores, before) ??
        (await workedOut(row, parts, stores, personOf))
    );
  }
  const ids = stores.map(({ id }) => id);
  return new CaseIndex(stores, { caseId, stores: ids, conversations, people, joined, shared });
}

/** What was told of a case's people by hand. */
export interface ToldPeople {
  decisions?: Decisions | undefined;
  book?: readonly NamedAddresses[] | undefined;
  /** Name of the owner. */
  client?: string;
}

/** Names, and which addresses are one person's. */
function peopleOf(
  stores: readonly CaseStore[],
  before: CaseIndex,
  { decisions = UNDECIDED, book = [], client = '' }: ToldPeople
): { people: Person[]; joined: JoinedPeople; shared: SharedLines[] } {
  let people: Person[] = [];
  for (const { record } of stores) people = mergePeople(people, record.people);
  const contacts = [
    ...book.map((entry, i): Contact => ({ ...LISTED, ...entry, id: `book/${i}` })),
    ...stores.flatMap(({ record }) => record.contacts)
  ];
  people = nameByContacts(people, contacts);
  const known = new Set(people.map(({ id }) => id));
  // What two stores share was worked out when the last pass over one of them ended.
  const shared = (before.record.shared ?? []).filter(({ a, b }) => known.has(a) && known.has(b));
  return {
    people,
    joined: joinPeople(findJoins({ people, contacts, shared, owner: client }), decisions),
    shared
  };
}

/** An entry of a list of contacts that was imported. */
const LISTED: Omit<Contact, 'name' | 'phones' | 'emails'> = {
  id: '',
  store: '',
  person: null,
  organisation: null,
  note: null,
  state: 'live',
  certainty: 100,
  proofs: []
};

/** Finds who wrote the same in several stores; the columns of all are read. */
export async function sharedLines(stores: readonly CaseStore[]): Promise<SharedLines[]> {
  if (stores.length < 2) return [];
  await Promise.all(stores.map((store) => store.load()));
  return wroteTheSame(
    stores.map(({ record, columns }) => ({
      contexts: record.contexts,
      columns,
      people: new Set(record.people.map(({ id }) => id))
    }))
  );
}

function runsOf(parts: readonly StorePart[], stores: readonly CaseStore[]): number[] {
  return parts.map(({ place }) => stores[place]!.record.run);
}

/** What was known of a conversation of one store that did not change; places of stores in copies may have moved. */
function keptConversation(
  row: Correspondent,
  parts: readonly StorePart[],
  stores: readonly CaseStore[],
  before: CaseIndex
): Conversation | null {
  const known = before.conversation(row.id);
  if (!known || known.copies.row.length > 0) return null;
  const runs = runsOf(parts, stores);
  const isSame =
    known.isAnswered !== undefined &&
    known.threads.length === row.threads.length &&
    known.threads.every((thread, i) => thread === row.threads[i]) &&
    known.runs.length === runs.length &&
    known.runs.every((run, i) => run === runs[i]);
  return isSame ? { ...known, ...row, runs } : null;
}

async function workedOut(
  row: Correspondent,
  parts: readonly StorePart[],
  stores: readonly CaseStore[],
  personOf: (id: string) => string
): Promise<Conversation> {
  await Promise.all(
    parts.map(({ place, range }) => stores[place]!.load(range.start, range.start + range.count))
  );
  const isOne = new Set(parts.map(({ place }) => place)).size < 2;
  const copies = isOne ? NO_COPIES : copiesOf(parts, stores, personOf);
  const stands = new Stands(copies);
  const summaries = parts.map(({ place, range }) =>
    summaryOf(range, stores[place]!.columns, (at) => !stands.isCopy(place, at))
  );
  const summary = summaries.length > 0 ? joined(summaries) : NOTHING;
  const isAnswered = parts.some(({ place, range }) => holdsOwn(stores[place]!, range));
  return { ...row, summary, isAnswered, copies, runs: runsOf(parts, stores) };
}

/** Whether the owner wrote any of some rows. */
function holdsOwn({ record, columns }: CaseStore, { start, count }: ThreadRange): boolean {
  const isOwn = record.contexts.map(({ direction }) => direction === 'outgoing');
  for (let row = start; row < start + count; row++) if (isOwn[columns.context[row]!]) return true;
  return false;
}

/** A line that one store has of one address, and another of another, is one where both are one person's. */
function copiesOf(
  parts: readonly StorePart[],
  stores: readonly CaseStore[],
  personOf: (id: string) => string
): Copies {
  const apart = stores.map(({ record, columns }) => ({
    contexts: record.contexts.map((context) => ({
      ...context,
      sender: context.sender === null ? null : personOf(context.sender)
    })),
    columns
  }));
  return copiesIn(inOrderOfTime(strandsOf(parts, stores)), apart);
}

const NOTHING = summaryOf(
  { id: '', start: 0, count: 0 },
  { sentAt: new Float64Array(0), state: new Uint8Array(0) }
);
