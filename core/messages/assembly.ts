import { append } from '../host';
import {
  OWNER,
  emptyCounts,
  STATES,
  type Attachment,
  type Call,
  type Contact,
  type Findings,
  type Gap,
  type Message,
  type Person,
  type RecordState,
  type Store,
  type Thread
} from '../records';
import type { NumberedTable, StoreCall, StoreContact, StoreMessage } from '../profiles';
import type { AddressBook } from './address';
import type { FoldedMessage } from './fold';
import { answerGap, counterGaps, numberGaps } from './gaps';
import { PlacedMessages, type WrittenColumns } from './placed';

export interface StoreFacts {
  id: string;
  source: string;
  path: string;
  profile: string;
  fit: number;
  limits: string[];
}

export function personId(address: string): string {
  return `p:${address}`;
}

const NONE: never[] = [];

/** What of a message is counted, where its record is not kept. */
interface CountedMessage {
  table: string;
  rowid: number | null;
  sentAt: number | null;
  thread: string;
  /** Null where it follows from the table and the row number. */
  id: string | null;
  state: RecordState;
}

/**
 * Takes the messages, calls and contacts of one store and makes records of
 * them: addresses joined to people, conversations told apart, ids given.
 */
export class Assembly {
  private readonly people = new Map<string, Person>();
  private readonly threads = new Map<string, Thread>();
  private readonly byRaw = new Map<string, Person>();
  private readonly byStored = new WeakMap<StoreMessage['thread'], Thread>();
  private readonly messages: Message[] = [];
  private readonly waiting: Message[] = [];
  private readonly attachments: Attachment[] = [];
  private readonly calls: Call[] = [];
  private readonly contacts: Contact[] = [];
  /** Record ids by the store's unique values and by its row numbers. */
  private readonly byName = new Map<string, string>();
  private readonly answers: { message: Message; names: string; table: string }[] = [];
  private readonly ids = new Set<string>();
  private readonly placed = new PlacedMessages();
  private readonly counts = emptyCounts();
  private readonly span = new Span();
  /** How many messages the store says each thread holds. */
  private readonly stated = new Map<string, number>();
  private readonly members = new Map<Thread, Set<string>>();

  constructor(
    readonly facts: StoreFacts,
    private readonly book: AddressBook,
    /** Names of messages that others answer. */
    readonly asked: ReadonlySet<string>
  ) {
    this.people.set(OWNER, { id: OWNER, name: null, addresses: [], owner: true });
  }

  /** Makes the record of a message. */
  add(folded: FoldedMessage): Message {
    const id = this.messageId(folded);
    const thread = this.thread(folded);
    const { direction, sentAt, deliveredAt, readAt, body, subject, state } = folded;
    const { certainty, reasons, replacesKey, attachments, proofs, location, purgeAt } = folded;
    const { source } = this.facts;
    const sender = this.sender(folded);
    this.join(thread, sender);
    const message: Message = {
      direction,
      sentAt,
      deliveredAt,
      readAt,
      body,
      subject,
      state,
      certainty,
      reasons,
      id,
      store: this.facts.id,
      thread: thread.id,
      sender,
      purgeAt,
      replaces: replacesKey === null ? null : `${this.facts.id}/${replacesKey}`,
      proofs: proofs.map((proof) => ({ source, ...proof })),
      attachments:
        attachments.length === 0 ? NONE : attachments.map((a, i) => this.attach(id, i, a)),
      replyTo: null,
      reactions: folded.reactions.length === 0 ? NONE : this.reactions(folded),
      location
    };
    // An answer cannot leave before the message that it answers is known.
    if (folded.replyTo !== null) this.waiting.push(message);
    else this.messages.push(message);
    this.place(folded, message, thread.id);
    this.remember(folded, message);
    return message;
  }

  /** Counts a message whose record is written elsewhere. */
  count({ table, rowid, sentAt, thread, id, state }: CountedMessage): void {
    this.placed.add(table, rowid, sentAt, thread, id);
    this.counts[state]++;
    this.span.add(sentAt);
  }

  /** Counts live messages that were written elsewhere; `threadOf` names the thread of a context. */
  countLive(table: string, columns: WrittenColumns, threadOf: (context: number) => string): void {
    this.placed.addColumns(table, columns, threadOf, null);
    this.counts.live += columns.rowids.length;
    this.span.addAll(columns.moments);
  }

  /** The same for freed messages, whose ids follow from nothing but their places. */
  countFreed(
    table: string,
    columns: WrittenColumns,
    threadOf: (context: number) => string,
    idOf: (i: number) => string
  ): void {
    this.placed.addColumns(table, columns, threadOf, idOf);
    this.counts.recovered += columns.rowids.length;
    this.span.addAll(columns.moments);
  }

  private reactions({ reactions }: FoldedMessage): Message['reactions'] {
    return reactions.map(({ address, text, at }) => ({
      person: address === null ? OWNER : this.person(address).id,
      text,
      at
    }));
  }

  /** Keeps what tells later whether messages are missing. */
  private place({ table, rowid, thread }: FoldedMessage, message: Message, id: string): void {
    const { id: own, sentAt, state } = message;
    const number = typeof rowid === 'number' ? rowid : null;
    const known = state === 'live' && number !== null ? null : own;
    if (state !== 'earlier') this.placed.add(table, number, sentAt, id, known);
    if (thread.counted !== null) this.stated.set(id, thread.counted);
    this.counts[state]++;
    this.span.add(sentAt);
  }

  /** Messages that came so far. */
  get counted(): number {
    return Object.values(this.counts).reduce((sum, count) => sum + count, 0);
  }

  /** The messages that came since the last call. */
  takeMessages(): Message[] {
    return this.messages.splice(0);
  }

  private remember(folded: FoldedMessage, message: Message): void {
    const { id, state } = message;
    const { unique, rowid, table, replyTo } = folded;
    if (state !== 'earlier') {
      if (unique !== null && this.isAsked(unique)) this.nameOnce(`u${unique}`, id);
      if (rowid !== null && this.isAsked(rowid)) this.nameOnce(`k${table}/${rowid}`, id);
    }
    if (replyTo !== null) this.answers.push({ message, names: replyTo, table });
  }

  /** Whether another message answers the one of this name. */
  isAsked(name: string | number | bigint): boolean {
    return this.asked.size > 0 && this.asked.has(String(name));
  }

  private nameOnce(name: string, id: string): void {
    if (!this.byName.has(name)) this.byName.set(name, id);
  }

  addCall(call: StoreCall): void {
    const { source, id: store } = this.facts;
    const person = call.address ? this.person(call.address) : null;
    if (person && call.name) person.name ??= call.name;
    const { direction, at, seconds, state, certainty } = call;
    this.calls.push({
      id: this.freshId(call.key),
      store,
      person: person?.id ?? null,
      direction,
      at,
      seconds,
      state,
      certainty,
      proofs: call.proofs.map((proof) => ({ source, ...proof }))
    });
  }

  addContact(contact: StoreContact): void {
    const { source, id: store } = this.facts;
    const people = [...contact.phones, ...contact.emails].map((address) => this.person(address));
    for (const person of people) person.name ??= contact.name;
    const { key, proofs, ...told } = contact;
    this.contacts.push({
      ...told,
      id: this.freshId(key),
      store,
      person: people[0]?.id ?? null,
      proofs: proofs.map((proof) => ({ source, ...proof }))
    });
  }

  /** Names of the store's own for people who have none yet. */
  nameAll(names: ReadonlyMap<string, string>): void {
    for (const [raw, name] of names) {
      const known = this.people.get(personId(this.book.normalise(raw)));
      if (known) known.name ??= name;
    }
  }

  /** Keys of live rows are their numbers, which no two rows share. */
  private messageId({ key, state, rowid }: FoldedMessage): string {
    if (state === 'live' && rowid !== null) return `${this.facts.id}/${key}`;
    return this.freshId(key);
  }

  /** An id that no other record has. */
  private freshId(key: string): string {
    const id = this.idFor(key);
    this.claim(id);
    return id;
  }

  /** The id that the next record of this key would have. */
  idFor(key: string): string {
    const wanted = `${this.facts.id}/${key}`;
    let id = wanted;
    for (let n = 2; this.ids.has(id); n++) id = `${wanted}~${n}`;
    return id;
  }

  /** Keeps an id from being given again. */
  claim(id: string): void {
    this.ids.add(id);
  }

  private sender(message: FoldedMessage): string | null {
    if (message.direction === 'outgoing') return OWNER;
    return message.sender === null ? null : this.person(message.sender).id;
  }

  private person(raw: string): Person {
    let known = this.byRaw.get(raw);
    if (!known) this.byRaw.set(raw, (known = this.personAt(this.book.normalise(raw))));
    return known;
  }

  private personAt(address: string): Person {
    const id = personId(address);
    const known = this.people.get(id);
    if (known) return known;
    const person: Person = { id, name: null, addresses: [address], owner: false };
    this.people.set(id, person);
    return person;
  }

  /** Who writes in a conversation takes part in it, whatever the store lists. */
  private join(thread: Thread, sender: string | null): void {
    if (sender === null || sender === OWNER) return;
    let members = this.members.get(thread);
    if (!members) this.members.set(thread, (members = new Set(thread.participants)));
    if (members.has(sender)) return;
    members.add(sender);
    thread.participants.push(sender);
    // A second name may be the same person's, written in another way; a third is a group's.
    if (members.size > 2) thread.group = true;
  }

  /** Rows of one conversation often share what the store says of it. */
  private thread(message: FoldedMessage): Thread {
    let known = this.byStored.get(message.thread);
    if (!known) this.byStored.set(message.thread, (known = this.threadOf(message)));
    return known;
  }

  private threadOf(message: FoldedMessage): Thread {
    const { participants, peer, title } = message.thread;
    const people = [...new Set(participants.map((raw) => this.person(raw).id))];
    const reused = peer !== null && !people.includes(this.person(peer).id);
    const members = reused ? [this.person(peer).id] : people;
    const id = this.threadId(message.thread.key, members, reused);
    const known = this.threads.get(id);
    if (known) return known;
    const group = members.length > 1;
    const thread = { id, store: this.facts.id, title, participants: members, group };
    this.threads.set(id, thread);
    return thread;
  }

  /** One conversation per set of participants; a group keeps its own key, for two groups can have the same members. */
  private threadId(key: string, members: string[], reused: boolean): string {
    const base = `${this.facts.id}/t`;
    if (members.length === 1) return `${base}/${members[0]!.slice(2)}`;
    return `${base}/${reused || key === '' ? [...members].sort().join('+') : `g:${key}`}`;
  }

  private attach(message: string, i: number, from: StoreMessage['attachments'][number]): string {
    const id = `${message}/a${i + 1}`;
    const { thumbnail, ...told } = from;
    this.attachments.push({ ...told, id, message, sha256: null, thumbnail });
    return id;
  }

  finish(numbered: readonly NumberedTable[]): Findings {
    append(this.messages, this.waiting);
    const gaps: Gap[] = [];
    for (const { message, names, table } of this.answers) {
      const found = this.byName.get(`u${names}`) ?? this.byName.get(`k${table}/${names}`) ?? null;
      message.replyTo = found === message.id ? null : found;
      if (found === null) gaps.push(answerGap(message, names));
    }
    append(gaps, this.missing(numbered));
    const { calls, contacts } = this;
    const others = emptyCounts();
    for (const { state, at } of calls) {
      others[state]++;
      this.span.add(at);
    }
    for (const { state } of contacts) others[state]++;
    for (const state of STATES) this.counts[state] += others[state];
    const store: Store = { ...this.facts, counts: this.counts, others, span: this.span.value() };
    return {
      stores: [store],
      people: [...this.people.values()],
      threads: [...this.threads.values()],
      messages: [],
      attachments: this.attachments,
      calls: calls.sort((a, b) => (a.at ?? Infinity) - (b.at ?? Infinity)),
      contacts,
      gaps: distinctGaps(gaps)
    };
  }

  /** Numbers tell best; where no number is missing, a conversation's own count may. */
  private missing(numbered: readonly NumberedTable[]): Gap[] {
    const { id } = this.facts;
    const byNumber = numbered.flatMap((table) => numberGaps(id, table, this.placed));
    return byNumber.length > 0 ? byNumber : counterGaps(id, this.stated, this.placed.byThread());
  }
}

/** Several lines can answer the same missing message. */
function distinctGaps(gaps: Gap[]): Gap[] {
  const seen = new Set<string>();
  return gaps.filter(({ reason, thread }) => {
    const key = `${thread}\u0000${reason}`;
    return !seen.has(key) && seen.add(key);
  });
}

/** By time sent, unknown times last, then by id so that the order is the same each time. */
export function byTime(a: Message, b: Message): number {
  const first = a.sentAt ?? Infinity;
  const second = b.sentAt ?? Infinity;
  if (first !== second) return first < second ? -1 : 1;
  return compareIds(a.id, b.id);
}

/** Made when it is first needed, for that takes longer than many a store. */
let collator: Intl.Collator | null = null;
/** Numbers in ids in the order of their value. */
export function compareIds(a: string, b: string): number {
  collator ??= new Intl.Collator('en', { numeric: true });
  return collator.compare(a, b);
}

/** First and last of the moments that are known. */
class Span {
  private from = Infinity;
  private to = -Infinity;

  add(at: number | null): void {
    if (at === null) return;
    if (at < this.from) this.from = at;
    if (at > this.to) this.to = at;
  }

  /** NaN stands for a moment that is not known. */
  addAll(moments: Float64Array): void {
    for (const moment of moments) if (!Number.isNaN(moment)) this.add(moment);
  }

  value(): { from: number; to: number } | null {
    return this.from <= this.to ? { from: this.from, to: this.to } : null;
  }
}
