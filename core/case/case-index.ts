import { CHUNK, idKey, inOrderOfTime, stateCounts, Stands, type RowList } from './lines';
import type { Individual } from './people';
import {
  emptyCounts,
  extraAt,
  idAt,
  STATES,
  withJoined,
  type Attachment,
  type Call,
  type Contact,
  type Counts,
  type Gap,
  type JoinedFile,
  type Message,
  type Person,
  type RecordState
} from '../records';
import type { Correspondent } from '../messages';
import type { CaseStore, Conversation, IndexRecord, PlacedGap } from './model';
import { byMember, partsByThread, strandsOf, type StorePart } from './parts';
import { Recent } from './recent';

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

/** Conversations whose rows in order stay at hand. */
const MOST_LISTS = 8;

/** The lines of a case: which conversations there are, and where each line lies. */
export class CaseIndex<Store extends CaseStore = CaseStore> {
  readonly people: ReadonlyMap<string, Person>;
  /** Those of more than one address, by each of them. */
  readonly individuals: ReadonlyMap<string, Individual>;
  readonly conversations: readonly Conversation[];
  readonly calls: Call[];
  readonly contacts: Contact[];
  readonly gaps: PlacedGap[];
  private readonly byId: ReadonlyMap<string, Conversation>;
  private readonly byThread = new Map<string, Conversation>();
  private readonly ranges: ReadonlyMap<string, StorePart>;
  private readonly lists = new Recent<RowList>(MOST_LISTS);
  private readonly stands = new Map<string, Stands>();
  private files: Promise<ReadonlyMap<string, KeptAttachment>> | null = null;

  constructor(
    readonly stores: readonly Store[],
    readonly record: IndexRecord
  ) {
    this.people = new Map(record.people.map((person) => [person.id, person]));
    this.individuals = byMember(record.joined?.individuals ?? []);
    this.conversations = record.conversations;
    this.byId = new Map(record.conversations.map((row) => [row.id, row]));
    for (const row of record.conversations)
      for (const thread of row.threads) this.byThread.set(thread, row);
    this.ranges = partsByThread(stores);
    this.calls = stores.flatMap(({ record }) => record.calls);
    this.contacts = stores.flatMap(({ record }) => record.contacts);
    this.gaps = stores.flatMap(({ record }) => record.gaps);
  }

  static empty<Store extends CaseStore>(caseId: string): CaseIndex<Store> {
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
  partsOf({ threads }: Correspondent): StorePart[] {
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

  /** The lines that a line stands for, which other stores hold as well. */
  copiesOf(place: Place): readonly Place[] {
    const conversation = this.byThread.get(this.threadOf(place));
    if (!conversation || conversation.copies.row.length === 0) return [];
    return this.standsOf(conversation).copiesOf(place.store, place.row);
  }

  /** Stores that hold a line as well. */
  alsoIn(place: Place): string[] {
    const stores = this.copiesOf(place).map(({ store }) => store);
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
    for (const store of this.stores) {
      if (store.record.attachments === 0) continue;
      for (const { attachments, sentAt, states } of await store.attachments())
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

function withoutCopies({ store, row }: RowList, stands: Stands): RowList {
  const kept: number[] = [];
  for (let at = 0; at < row.length; at++) if (!stands.isCopy(store[at]!, row[at]!)) kept.push(at);
  return {
    store: Uint32Array.from(kept, (at) => store[at]!),
    row: Uint32Array.from(kept, (at) => row[at]!)
  };
}
