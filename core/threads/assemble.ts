import {
  OWNER,
  countStates,
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
import type { NumberedTable, StoreCall, StoreContact, StoreMessage, StoreReading } from '../stores';
import { AddressBook, guessHome, type CountryCode } from './address';
import { answerGap, counterGaps, numberGaps, type PlacedMessage } from './gaps';
import { foldMessages, type FoldedMessage } from './fold';

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
  private readonly messages: Message[] = [];
  private readonly attachments: Attachment[] = [];
  private readonly calls: Call[] = [];
  private readonly contacts: Contact[] = [];
  /** Record ids by the store's unique values and by its row numbers. */
  private readonly byName = new Map<string, string>();
  private readonly answers: { message: Message; names: string; table: string }[] = [];
  private readonly ids = new Set<string>();
  private readonly placed: PlacedMessage[] = [];
  /** How many messages the store says each thread holds. */
  private readonly counted = new Map<string, number>();

  constructor(
    private readonly facts: StoreFacts,
    private readonly book: AddressBook
  ) {
    this.people.set(OWNER, { id: OWNER, name: null, addresses: [], owner: true });
  }

  add(folded: FoldedMessage): void {
    const id = this.freshId(folded.key);
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
      attachments: attachments.map((attachment, i) => this.attach(id, i, attachment)),
      replyTo: null,
      reactions: folded.reactions.map(({ address, text, at }) => ({
        person: address === null ? OWNER : this.person(address).id,
        text,
        at
      })),
      location
    };
    this.messages.push(message);
    this.place(folded, message, thread.id);
    this.remember(folded, message);
  }

  /** Keeps what tells later whether messages are missing. */
  private place({ table, rowid, thread }: FoldedMessage, message: Message, id: string): void {
    this.placed.push({ message, table, rowid: typeof rowid === 'number' ? rowid : null });
    if (thread.counted !== null) this.counted.set(id, thread.counted);
  }

  private remember(folded: FoldedMessage, { id, state }: Message): void {
    const { unique, rowid, table, replyTo } = folded;
    const names = [
      unique === null ? [] : [`u${unique}`],
      rowid === null ? [] : [`k${table}/${rowid}`]
    ];
    for (const name of names.flat()) {
      if (state !== 'earlier' && !this.byName.has(name)) this.byName.set(name, id);
    }
    const message = this.messages[this.messages.length - 1]!;
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
    const address = this.book.normalise(raw);
    const id = personId(address);
    const known = this.people.get(id);
    if (known) return known;
    const person: Person = { id, name: null, addresses: [address], owner: false };
    this.people.set(id, person);
    return person;
  }

  private thread(message: FoldedMessage): Thread {
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
    const kept = new Set(this.messages.map((m) => m.id));
    for (const message of this.messages) {
      if (message.replaces !== null && !kept.has(message.replaces)) message.replaces = null;
    }
    const gaps: Gap[] = [];
    for (const { message, names, table } of this.answers) {
      const found = this.byName.get(`u${names}`) ?? this.byName.get(`k${table}/${names}`) ?? null;
      message.replyTo = found === message.id ? null : found;
      if (found === null) gaps.push(answerGap(message, names));
    }
    gaps.push(...this.missing(numbered));
    const { messages, calls, contacts } = this;
    const counts = countStates([...messages, ...calls, ...contacts]);
    const store: Store = { ...this.facts, counts, span: spanOf([...messages, ...calls]) };
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

  /** Numbers tell best; where no number is missing, a conversation's own count may. */
  private missing(numbered: readonly NumberedTable[]): Gap[] {
    const { id } = this.facts;
    const byNumber = numbered.flatMap((table) => numberGaps(id, table, this.placed));
    return byNumber.length > 0 ? byNumber : counterGaps(id, this.counted, this.messages);
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

function spanOf(
  records: readonly { sentAt?: number | null; at?: number | null }[]
): { from: number; to: number } | null {
  let from = Infinity;
  let to = -Infinity;
  for (const record of records) {
    const at = record.sentAt ?? record.at ?? null;
    if (at === null) continue;
    if (at < from) from = at;
    if (at > to) to = at;
  }
  return from <= to ? { from, to } : null;
}
