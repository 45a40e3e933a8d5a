import {
  copiesIn,
  idKey,
  inOrderOfTime,
  joined,
  stateCounts,
  Stands,
  summaryOf,
  wroteTheSame,
  CHUNK,
  type Copies,
  type RowList,
  type Strand,
  type ThreadRange
} from '$core/lines';
import {
  emptyCounts,
  extraAt,
  idAt,
  STATES,
  type Attachment,
  type Call,
  type Contact,
  type Counts,
  type Gap,
  type Message,
  type Person,
  type RecordState,
  withJoined,
  type JoinedFile
} from '$core/records';
import {
  findJoins,
  joinPeople,
  UNDECIDED,
  type Decisions,
  type Individual,
  type JoinedPeople,
  type NamedAddresses,
  type SharedLines
} from '$core/people';
import { correspondents, mergePeople, nameByContacts, type Correspondent } from '$core/threads';
import { attachmentsOf } from '../storage/lines';
import type { Conversation, IndexRecord, PlacedGap } from '../storage/schema';
import { Recent } from './recent';
import { StoreLines } from './store-lines';

/** A line by the place of its store, and its row there. */
export interface Place {
  store: number;
  row: number;
}

/** What lists say of a line. */
export interface BriefLine extends Place {
  id: string;
  thread: string;
  sentAt: number | null;
  state: RecordState;
  line: number;
  attachments: string[];
}

/** A message with what the case adds to it. */
export interface Held {
  message: Message;
  line: number;
}

/** Where a range of a store's rows belongs. */
interface Part {
  place: number;
  range: ThreadRange;
}

/** Conversations whose rows in order stay at hand. */
const MOST_LISTS = 8;

/** The lines of a case: which conversations there are, and where each line lies. */
export class CaseIndex {
  readonly people: ReadonlyMap<string, Person>;
  /** Those of more than one address, by each of them. */
  readonly individuals: ReadonlyMap<string, Individual>;
  readonly conversations: readonly Conversation[];
  readonly calls: Call[];
  readonly contacts: Contact[];
  readonly gaps: PlacedGap[];
  private readonly byId: ReadonlyMap<string, Conversation>;
  private readonly byThread = new Map<string, Conversation>();
  private readonly ranges = new Map<string, Part>();
  private readonly lists = new Recent<RowList>(MOST_LISTS);
  private readonly stands = new Map<string, Stands>();
  private files: Promise<ReadonlyMap<string, KeptAttachment>> | null = null;

  constructor(
    readonly stores: readonly StoreLines[],
    readonly record: IndexRecord
  ) {
    this.people = new Map(record.people.map((person) => [person.id, person]));
    this.individuals = byMember(record.joined?.individuals ?? []);
    this.conversations = record.conversations;
    this.byId = new Map(record.conversations.map((row) => [row.id, row]));
    for (const row of record.conversations)
      for (const thread of row.threads) this.byThread.set(thread, row);
    stores.forEach(({ record }, place) => {
      for (const range of record.ranges) this.ranges.set(range.id, { place, range });
    });
    this.calls = stores.flatMap(({ record }) => record.calls);
    this.contacts = stores.flatMap(({ record }) => record.contacts);
    this.gaps = stores.flatMap(({ record }) => record.gaps);
  }

  static empty(caseId: string): CaseIndex {
    return new CaseIndex([], {
      caseId,
      stores: [],
      conversations: [],
      people: [],
      joined: { individuals: [], proposals: [], undone: [] },
      shared: []
    });
  }

  conversation(id: string): Conversation | undefined {
    return this.byId.get(id);
  }

  correspondentOf(thread: string): Conversation | undefined {
    return this.byThread.get(thread);
  }

  /** Lines that are shown, by state. */
  counts(): Counts {
    const counts = emptyCounts();
    for (const { summary } of this.conversations) {
      const own = stateCounts(summary);
      STATES.forEach((state, i) => (counts[state] += own[i]!));
    }
    return counts;
  }

  /** First and last known moment of the case; null when it holds none. */
  span(): { from: number; to: number } | null {
    let [from, to] = [Infinity, -Infinity];
    for (const { summary } of this.conversations) {
      if (summary.first < from) from = summary.first;
      if (summary.last > to) to = summary.last;
    }
    return from <= to ? { from, to } : null;
  }

  /** The store that holds a thread. */
  storeOf(thread: string): string | null {
    const part = this.ranges.get(thread);
    return part ? this.stores[part.place]!.id : null;
  }

  /** The parts of stores that a conversation's lines lie in. */
  partsOf({ threads }: Correspondent): Part[] {
    return threads.flatMap((thread) => this.ranges.get(thread) ?? []);
  }

  async loadConversation(row: Correspondent): Promise<void> {
    await Promise.all(
      this.partsOf(row).map(({ place, range }) =>
        this.stores[place]!.load(range.start, range.start + range.count)
      )
    );
  }

  async loadAll(): Promise<void> {
    await Promise.all(this.stores.map((store) => store.load()));
  }

  /** The place of the conversation of each context of a store, among all; -1 where none has it. */
  conversationsIn(store: number): Int32Array {
    let known = this.inContexts[store];
    if (!known) {
      const places = new Map(this.conversations.map((row, i) => [row, i]));
      const { contexts } = this.stores[store]!.record;
      known = Int32Array.from(contexts, ({ thread }) => {
        const row = this.byThread.get(thread);
        return row ? places.get(row)! : -1;
      });
      this.inContexts[store] = known;
    }
    return known;
  }

  private readonly inContexts: Int32Array[] = [];

  /** Which lines stand for copies in a conversation. */
  standsOf({ id, copies }: Conversation): Stands {
    let stands = this.stands.get(id);
    if (!stands) this.stands.set(id, (stands = new Stands(copies)));
    return stands;
  }

  /** The lines of a conversation that are shown, in the order of time. */
  rows(id: string): Promise<RowList> {
    return this.lists.get(id, async () => {
      const row = this.byId.get(id);
      if (!row) return { store: new Uint32Array(0), row: new Uint32Array(0) };
      await this.loadConversation(row);
      const list = inOrderOfTime(strandsOf(this.partsOf(row), this.stores));
      return row.copies.row.length === 0 ? list : withoutCopies(list, this.standsOf(row));
    });
  }

  /** Where messages lie, by their ids; those that the case does not hold are left out. */
  async locate(ids: Iterable<string>): Promise<Map<string, Place>> {
    const byKey = new Map<number, string>();
    for (const id of ids) byKey.set(idKey(id), id);
    const found = new Map<string, Place>();
    if (byKey.size === 0) return found;
    const keys = new Set(byKey.keys());
    for (const [place, store] of this.stores.entries()) {
      await store.load();
      for (const [key, row] of store.rowsOf(keys))
        found.set(byKey.get(key)!, { store: place, row });
    }
    return found;
  }

  /** The same for one; null where the case does not hold it. */
  async locateOne(id: string): Promise<Place | null> {
    return (await this.locate([id])).get(id) ?? null;
  }

  /** The line that is shown for one: itself, unless another stands for it. */
  shown({ store, row }: Place): Place {
    const conversation = this.byThread.get(this.threadOf({ store, row }));
    return conversation ? this.standsOf(conversation).shown(store, row) : { store, row };
  }

  threadOf({ store, row }: Place): string {
    const { record, columns } = this.stores[store]!;
    return record.contexts[columns.context[row]!]!.thread;
  }

  async held(place: Place): Promise<Held> {
    const store = this.stores[place.store]!;
    return { message: await store.message(place.row), line: store.columns.line[place.row]! };
  }

  /** A message with its line; null where the case does not hold it. */
  async get(id: string): Promise<Held | null> {
    const place = await this.locateOne(id);
    return place && this.held(place);
  }

  async heldAll(places: Iterable<Place>): Promise<Held[]> {
    const all: Held[] = [];
    for (const place of places) all.push(await this.held(place));
    return all;
  }

  /** What lists say of a line, whose columns have to be there. */
  async brief({ store, row }: Place): Promise<BriefLine> {
    const lines = this.stores[store]!;
    const texts = await lines.texts(Math.floor(row / CHUNK));
    const at = lines.columns.sentAt[row]!;
    return {
      store,
      row,
      id: idAt(texts, row % CHUNK),
      thread: this.threadOf({ store, row }),
      sentAt: Number.isNaN(at) ? null : at,
      state: STATES[lines.columns.state[row]!]!,
      line: lines.columns.line[row]!,
      attachments: extraAt(texts, row % CHUNK).attachments
    };
  }

  /** Lines by their ids, each as what is shown for it. */
  async briefs(ids: Iterable<string>): Promise<Map<string, BriefLine>> {
    const found = new Map<string, BriefLine>();
    for (const [id, place] of await this.locate(ids))
      found.set(id, await this.brief(this.shown(place)));
    return found;
  }

  /** Stores that hold a line as well. */
  alsoIn(place: Place): string[] {
    const conversation = this.byThread.get(this.threadOf(place));
    if (!conversation || conversation.copies.row.length === 0) return [];
    const stores = this.standsOf(conversation).alsoIn(place.store, place.row);
    return [...new Set(stores)].map((store) => this.stores[store]!.id);
  }

  /** Paths of the stores by their ids. */
  storePaths(): [id: string, path: string][] {
    return this.stores.map(({ record }) => [record.store, record.facts.path]);
  }

  private joined: Readonly<Record<string, JoinedFile>> | undefined;

  /** Takes up which files were joined to attachments by hand. */
  joinFiles(joined: Readonly<Record<string, JoinedFile>> | undefined): void {
    if (this.joined === joined) return;
    this.joined = joined;
    this.files = null;
  }

  /** All attachments of the case, with the moments of their messages. */
  attachments(): Promise<ReadonlyMap<string, KeptAttachment>> {
    return (this.files ??= this.readAttachments());
  }

  private async readAttachments(): Promise<ReadonlyMap<string, KeptAttachment>> {
    const all = new Map<string, KeptAttachment>();
    for (const { record } of this.stores) {
      if (record.attachments === 0) continue;
      for (const { attachments, sentAt, states } of await attachmentsOf(record))
        attachments.forEach((attachment, i) =>
          all.set(attachment.id, {
            attachment: withJoined(attachment, this.joined?.[attachment.id]),
            own: attachment,
            state: STATES[states?.[i] ?? -1] ?? attachment.state,
            sentAt: Number.isNaN(sentAt[i]!) ? null : sentAt[i]!
          })
        );
    }
    return all;
  }

  /** Gaps beside lines of a conversation: by the line that stands behind them, or before them at the end. */
  gapsOf(row: Conversation): { before: Map<string, Gap[]>; after: Map<string, Gap[]> } {
    const before = new Map<string, Gap[]>();
    const after = new Map<string, Gap[]>();
    const stands = this.standsOf(row);
    const isOwn = (side: PlacedGap['before']): boolean => {
      if (side === null || this.byThread.get(side.thread) !== row) return false;
      return !stands.isCopy(this.ranges.get(side.thread)!.place, side.row);
    };
    for (const { gap, ...sides } of this.gaps) {
      if (isOwn(sides.before)) put(before, gap.before!, gap);
      else if (isOwn(sides.after)) put(after, gap.after!, gap);
    }
    return { before, after };
  }
}

export interface KeptAttachment {
  attachment: Attachment;
  /** As the store tells of it, without a file that was joined by hand. */
  own: Attachment;
  /** When its message was sent. */
  sentAt: number | null;
  /** What became of its message. */
  state: RecordState;
}

function put(map: Map<string, Gap[]>, id: string, gap: Gap): void {
  const list = map.get(id);
  if (list) list.push(gap);
  else map.set(id, [gap]);
}

function strandsOf(parts: readonly Part[], stores: readonly StoreLines[]): Strand[] {
  return parts.map(({ place, range }) => ({
    store: place,
    columns: stores[place]!.columns,
    range
  }));
}

function withoutCopies({ store, row }: RowList, stands: Stands): RowList {
  const kept: number[] = [];
  for (let at = 0; at < row.length; at++) if (!stands.isCopy(store[at]!, row[at]!)) kept.push(at);
  return {
    store: Uint32Array.from(kept, (at) => store[at]!),
    row: Uint32Array.from(kept, (at) => row[at]!)
  };
}

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
export async function indexOf(
  caseId: string,
  stores: readonly StoreLines[],
  before: CaseIndex,
  told: ToldPeople
): Promise<CaseIndex> {
  const { people, joined, shared } = peopleOf(stores, before, told);
  const individuals = byMember(joined.individuals);
  const personOf = (id: string): string => individuals.get(id)?.id ?? id;
  const ranges = new Map<string, Part>();
  stores.forEach(({ record }, place) => {
    for (const range of record.ranges) ranges.set(range.id, { place, range });
  });
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
  stores: readonly StoreLines[],
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
export async function sharedLines(stores: readonly StoreLines[]): Promise<SharedLines[]> {
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

function byMember(individuals: readonly Individual[]): Map<string, Individual> {
  return new Map(individuals.flatMap((one) => one.members.map((id) => [id, one] as const)));
}

function runsOf(parts: readonly Part[], stores: readonly StoreLines[]): number[] {
  return parts.map(({ place }) => stores[place]!.record.run);
}

/** What was known of a conversation of one store that did not change; places of stores in copies may have moved. */
function keptConversation(
  row: Correspondent,
  parts: readonly Part[],
  stores: readonly StoreLines[],
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
  parts: readonly Part[],
  stores: readonly StoreLines[],
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
function holdsOwn({ record, columns }: StoreLines, { start, count }: ThreadRange): boolean {
  const isOwn = record.contexts.map(({ direction }) => direction === 'outgoing');
  for (let row = start; row < start + count; row++) if (isOwn[columns.context[row]!]) return true;
  return false;
}

/** A line that one store has of one address, and another of another, is one where both are one person's. */
function copiesOf(
  parts: readonly Part[],
  stores: readonly StoreLines[],
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
