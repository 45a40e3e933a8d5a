import {
  OWNER,
  emptyCounts,
  type Attachment,
  type Call,
  type Contact,
  type Findings,
  type Gap,
  type Message,
  type Person,
  type Store,
  type Thread
} from '../records';
import type {
  NumberedTable,
  StoreCall,
  StoreContact,
  StoreMessage,
  StoreReading,
  StreamedReading
} from '../stores';
import { AddressBook, guessHome, type CountryCode } from './address';
import { answerGap, counterGaps, numberGaps, PlacedMessages } from './gaps';
import { foldMessages, StreamFolder, type FoldedMessage } from './fold';

export interface StoreFacts {
  id: string;
  source: string;
  path: string;
  profile: string;
  fit: number;
  limits: string[];
}

/**
 * Turns one store's messages into records: copies folded, addresses joined
 * to people, conversations told apart, ids given. Ids depend on the input
 * alone, so the same source gives the same ids again.
 */
export function assembleStore(
  facts: StoreFacts,
  reading: StoreReading,
  region: CountryCode | null
): Findings {
  const home = region ? { country: region } : guessHome(allAddresses(reading));
  const assembly = new Assembly(facts, new AddressBook(home));
  for (const message of foldMessages(reading.messages)) assembly.add(message);
  for (const call of reading.calls) assembly.addCall(call);
  for (const contact of reading.contacts) assembly.addContact(contact);
  assembly.nameAll(reading.names);
  return assembly.finish(reading.numbered);
}

/**
 * The same for a store that is too large to be held: live messages come one
 * by one and leave in batches, in the order of their table; what is left of
 * the findings comes last.
 */
export function* assembleStreamed(
  facts: StoreFacts,
  { held, sample, live, liveCount, hasAnswers }: StreamedReading,
  region: CountryCode | null,
  isWanted: (message: StoreMessage) => boolean
): Generator<{ messages: Message[]; done: number; total: number }, Findings> {
  const home = region
    ? { country: region }
    : guessHome(allAddresses({ ...held, messages: [...held.messages, ...sample] }));
  const assembly = new Assembly(facts, new AddressBook(home), true, hasAnswers);
  const folder = new StreamFolder(held.messages.filter(isWanted));
  let done = 0;
  for (const message of live()) {
    if (!isWanted(message)) continue;
    assembly.add(folder.live(message));
    if (++done % BATCH === 0) yield { messages: assembly.takeMessages(), done, total: liveCount };
  }
  for (const message of folder.rest()) assembly.add(message);
  for (const call of held.calls) assembly.addCall(call);
  for (const contact of held.contacts) assembly.addContact(contact);
  assembly.nameAll(held.names);
  const findings = assembly.finish(held.numbered);
  yield { messages: findings.messages, done, total: liveCount };
  return { ...findings, messages: [] };
}

const BATCH = 2000;
const NONE: never[] = [];

function allAddresses({ messages, calls, contacts }: StoreReading): Set<string> {
  const seen = new Set<string>();
  for (const { sender, thread } of messages) {
    if (sender !== null) seen.add(sender);
    for (const address of thread.participants) seen.add(address);
  }
  for (const { address } of calls) if (address !== null) seen.add(address);
  for (const { phones } of contacts) for (const phone of phones) seen.add(phone);
  return seen;
}

export function personId(address: string): string {
  return `p:${address}`;
}

class Assembly {
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
  private readonly counted = new Map<string, number>();

  constructor(
    private readonly facts: StoreFacts,
    private readonly book: AddressBook,
    /** Messages leave before all have come. */
    private readonly streamed = false,
    /** Some messages may answer others. */
    private readonly hasAnswers = true
  ) {
    this.people.set(OWNER, { id: OWNER, name: null, addresses: [], owner: true });
  }

  add(folded: FoldedMessage): void {
    const id = this.messageId(folded);
    const thread = this.thread(folded);
    const { direction, sentAt, deliveredAt, readAt, body, subject, state } = folded;
    const { certainty, reasons, replacesKey, attachments, proofs, location, purgeAt } = folded;
    const { source } = this.facts;
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
      sender: this.sender(folded),
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
    if (this.streamed && folded.replyTo !== null) this.waiting.push(message);
    else this.messages.push(message);
    this.place(folded, message, thread.id);
    if (this.hasAnswers) this.remember(folded, message);
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
    const known = this.streamed && state === 'live' && number !== null ? null : own;
    if (state !== 'earlier') this.placed.add(table, number, sentAt, id, known);
    if (thread.counted !== null) this.counted.set(id, thread.counted);
    this.counts[state]++;
    this.span.add(sentAt);
  }

  /** The messages that came since the last call. */
  takeMessages(): Message[] {
    return this.messages.splice(0);
  }

  private remember(folded: FoldedMessage, message: Message): void {
    const { id, state } = message;
    const { unique, rowid, table, replyTo } = folded;
    const names = [
      unique === null ? [] : [`u${unique}`],
      rowid === null ? [] : [`k${table}/${rowid}`]
    ];
    for (const name of names.flat()) {
      if (state !== 'earlier' && !this.byName.has(name)) this.byName.set(name, id);
    }
    if (replyTo !== null) this.answers.push({ message, names: replyTo, table });
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
    if (this.streamed && state === 'live' && rowid !== null) return `${this.facts.id}/${key}`;
    return this.freshId(key);
  }

  private freshId(key: string): string {
    const wanted = `${this.facts.id}/${key}`;
    let id = wanted;
    for (let n = 2; this.ids.has(id); n++) id = `${wanted}~${n}`;
    this.ids.add(id);
    return id;
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
    this.messages.push(...this.waiting);
    // Of a streamed store what is replaced has left already.
    if (!this.streamed) this.dropDanglingReplaced();
    const gaps: Gap[] = [];
    for (const { message, names, table } of this.answers) {
      const found = this.byName.get(`u${names}`) ?? this.byName.get(`k${table}/${names}`) ?? null;
      message.replyTo = found === message.id ? null : found;
      if (found === null) gaps.push(answerGap(message, names));
    }
    gaps.push(...this.missing(numbered));
    const { messages, calls, contacts } = this;
    for (const { state, at } of calls) {
      this.counts[state]++;
      this.span.add(at);
    }
    for (const { state } of contacts) this.counts[state]++;
    const store: Store = { ...this.facts, counts: this.counts, span: this.span.value() };
    return {
      stores: [store],
      people: [...this.people.values()],
      threads: [...this.threads.values()],
      messages: messages.sort(byTime),
      attachments: this.attachments,
      calls: calls.sort((a, b) => (a.at ?? Infinity) - (b.at ?? Infinity)),
      contacts,
      gaps: distinctGaps(gaps)
    };
  }

  private dropDanglingReplaced(): void {
    const kept = new Set(this.messages.map((m) => m.id));
    for (const message of this.messages) {
      if (message.replaces !== null && !kept.has(message.replaces)) message.replaces = null;
    }
  }

  /** Numbers tell best; where no number is missing, a conversation's own count may. */
  private missing(numbered: readonly NumberedTable[]): Gap[] {
    const { id } = this.facts;
    const byNumber = numbered.flatMap((table) => numberGaps(id, table, this.placed));
    return byNumber.length > 0 ? byNumber : counterGaps(id, this.counted, this.placed.byThread());
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

const collator = new Intl.Collator('en', { numeric: true });
function compareIds(a: string, b: string): number {
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

  value(): { from: number; to: number } | null {
    return this.from <= this.to ? { from: this.from, to: this.to } : null;
  }
}
