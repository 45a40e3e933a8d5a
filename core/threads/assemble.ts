import {
  OWNER,
  countStates,
  type Attachment,
  type Findings,
  type Message,
  type Person,
  type Store,
  type Thread
} from '../records';
import type { StoreMessage } from '../stores';
import { AddressBook, guessHome, type CountryCode } from './address';
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
  messages: StoreMessage[],
  region: CountryCode | null
): Findings {
  const book = new AddressBook(region ? { country: region } : guessHome(allAddresses(messages)));
  const assembly = new Assembly(facts, book);
  for (const message of foldMessages(messages)) assembly.add(message);
  return assembly.finish();
}

function* allAddresses(messages: StoreMessage[]): Generator<string> {
  const seen = new Set<string>();
  for (const message of messages) {
    for (const address of [message.sender, ...message.thread.participants]) {
      if (address === null || seen.has(address)) continue;
      seen.add(address);
      yield address;
    }
  }
}

export function personId(address: string): string {
  return `p:${address}`;
}

class Assembly {
  private readonly people = new Map<string, Person>();
  private readonly threads = new Map<string, Thread>();
  private readonly messages: Message[] = [];
  private readonly attachments: Attachment[] = [];
  private readonly ids = new Set<string>();

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
    const { certainty, reasons, replacesKey, attachments, proofs } = folded;
    const { source } = this.facts;
    this.messages.push({
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
      purgeAt: null,
      replaces: replacesKey === null ? null : `${this.facts.id}/${replacesKey}`,
      proofs: proofs.map((proof) => ({ source, ...proof })),
      attachments: attachments.map((attachment, i) => this.attach(id, i, attachment)),
      replyTo: null,
      reactions: [],
      location: null
    });
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
    const person = { id, name: null, addresses: [address], owner: false };
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
    this.attachments.push({
      ...from,
      id,
      message,
      sha256: null,
      width: null,
      height: null,
      seconds: null
    });
    return id;
  }

  finish(): Findings {
    const kept = new Set(this.messages.map((m) => m.id));
    for (const message of this.messages) {
      if (message.replaces !== null && !kept.has(message.replaces)) message.replaces = null;
    }
    const counts = countStates(this.messages);
    const store: Store = { ...this.facts, counts };
    return {
      stores: [store],
      people: [...this.people.values()],
      threads: [...this.threads.values()],
      messages: this.messages.sort(byTime),
      attachments: this.attachments
    };
  }
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
