import { append } from '$core/bytes';
import {
  OWNER,
  emptyCounts,
  type Counts,
  type Message,
  type Person,
  type Thread
} from '$core/records';
import {
  byTime,
  correspondents,
  mergePeople,
  nameByContacts,
  shownAddress,
  type Correspondent
} from '$core/threads';
import type { Attachment, Call, Contact, Gap } from '$core/records';
import type { ChunkRecord } from '../storage/schema';

/** A message with what the case adds to it. */
export interface Held {
  message: Message;
  line: number;
  /** Stores that hold the same message as well. */
  also: string[];
}

/** Everything of a case that reading needs, kept in the worker and built from chunks. */
export class Holdings {
  readonly people: Map<string, Person>;
  readonly correspondents: Correspondent[];
  readonly attachments: Map<string, Attachment>;
  readonly calls: Call[] = [];
  readonly contacts: Contact[] = [];
  readonly gaps: Gap[] = [];
  private readonly byCorrespondent = new Map<string, Held[]>();
  private readonly byId = new Map<string, Held>();
  /** Messages that stand as lines; copies of them in other stores do not. */
  private shown: ReadonlySet<string> = new Set();
  /** The line that stands for a copy, by the copy's message. */
  private readonly standsFor = new Map<string, Held>();

  constructor(chunks: ChunkRecord[]) {
    let people: Person[] = [];
    const threads: Thread[] = [];
    this.attachments = new Map();
    for (const chunk of chunks) {
      people = mergePeople(people, chunk.people);
      append(threads, chunk.threads);
      for (const attachment of chunk.attachments) this.attachments.set(attachment.id, attachment);
      // Cases of the first version of the storage have neither.
      append(this.calls, chunk.calls ?? []);
      append(this.contacts, chunk.contacts ?? []);
      append(this.gaps, chunk.gaps ?? []);
    }
    people = nameByContacts(people, this.contacts);
    this.people = new Map(people.map((person) => [person.id, person]));
    this.correspondents = correspondents(threads);
    this.place(chunks);
  }

  private place(chunks: ChunkRecord[]): void {
    const owner = new Map<string, Held[]>();
    for (const { id, threads } of this.correspondents) {
      const list: Held[] = [];
      this.byCorrespondent.set(id, list);
      for (const thread of threads) owner.set(thread, list);
    }
    for (const chunk of chunks) {
      chunk.messages.forEach((message, i) => {
        const held: Held = { message, line: chunk.lines[i] ?? 0, also: [] };
        owner.get(message.thread)?.push(held);
        this.byId.set(message.id, held);
      });
    }
    for (const [id, list] of this.byCorrespondent) {
      list.sort((a, b) => byTime(a.message, b.message));
      this.byCorrespondent.set(id, foldCopies(list, this.standsFor));
    }
    this.shown = new Set(
      [...this.byCorrespondent.values()].flat().map(({ message }) => message.id)
    );
  }

  of(correspondent: string): readonly Held[] {
    return this.byCorrespondent.get(correspondent) ?? [];
  }

  correspondentOf(thread: string): Correspondent | undefined {
    return this.correspondents.find(({ threads }) => threads.includes(thread));
  }

  /** Gaps that touch a conversation, by the message that stands behind them, or before them at the end. */
  gapsOf(correspondent: string): { before: Map<string, Gap[]>; after: Map<string, Gap[]> } {
    const own = new Set(this.of(correspondent).map(({ message }) => message.id));
    const before = new Map<string, Gap[]>();
    const after = new Map<string, Gap[]>();
    for (const gap of this.gaps) {
      if (gap.before !== null && own.has(gap.before)) put(before, gap.before, gap);
      else if (gap.after !== null && own.has(gap.after)) put(after, gap.after, gap);
    }
    return { before, after };
  }

  get(messageId: string): Held | undefined {
    return this.byId.get(messageId);
  }

  /** The line of a message, or the one that stands for it. */
  shownOf(messageId: string): Held | undefined {
    if (this.shown.has(messageId)) return this.byId.get(messageId);
    let held = this.standsFor.get(messageId);
    // What stood for a copy may be a copy of another.
    for (let next = held; next && (held = next);) next = this.standsFor.get(next.message.id);
    return held;
  }

  all(): Iterable<Held> {
    return this.byId.values();
  }

  counts(): Counts {
    const counts = emptyCounts();
    for (const { message } of this.byId.values()) {
      if (this.shown.has(message.id)) counts[message.state]++;
    }
    return counts;
  }

  /** First and last known moment of the case; null when it holds none. */
  span(): { from: number; to: number } | null {
    let from = Infinity;
    let to = -Infinity;
    for (const { message } of this.byId.values()) {
      if (message.sentAt === null) continue;
      if (message.sentAt < from) from = message.sentAt;
      if (message.sentAt > to) to = message.sentAt;
    }
    return from <= to ? { from, to } : null;
  }
}

function put(map: Map<string, Gap[]>, id: string, gap: Gap): void {
  const list = map.get(id);
  if (list) list.push(gap);
  else map.set(id, [gap]);
}

/**
 * One line for a message that several stores hold, as copies of one database
 * do. What one store holds live stands before what was recovered in another.
 */
function foldCopies(list: Held[], standsFor: Map<string, Held>): Held[] {
  const kept = new Map<string, Held>();
  const out = new Set<Held>();
  for (const held of list) {
    const key = contentOf(held.message);
    const known = key === null ? undefined : kept.get(key);
    if (!known || known.message.store === held.message.store) {
      // The same words twice in one store are two messages.
      out.add(held);
      if (key !== null && !known) kept.set(key, held);
    } else if (held.message.state === 'live' && known.message.state !== 'live') {
      held.also = [...known.also, known.message.store];
      out.delete(known);
      standsFor.set(known.message.id, held);
      out.add(held);
      kept.set(key!, held);
    } else {
      standsFor.set(held.message.id, known);
      if (!known.also.includes(held.message.store)) known.also.push(held.message.store);
    }
  }
  return list.filter((held) => out.has(held));
}

/** What tells a message wherever it is kept; null where too little is known of it. */
function contentOf({ sentAt, direction, sender, body, attachments }: Message): string | null {
  if (sentAt === null || (body === '' && attachments.length === 0)) return null;
  return JSON.stringify([sentAt, direction, sender, body, attachments.length]);
}

/** Resolves people to the names that the case knows. */
export class Naming {
  constructor(
    private readonly people: ReadonlyMap<string, Person>,
    private readonly names: Record<string, string>,
    private readonly owner: string
  ) {}

  person(id: string | null): string {
    if (id === null) return 'unknown sender';
    if (id === OWNER) return this.owner || 'owner';
    return this.names[id] || this.people.get(id)?.name || this.shown(id);
  }

  address(id: string | null): string {
    return id === null ? '' : (this.people.get(id)?.addresses[0] ?? '');
  }

  /** The address as people write it. */
  shown(id: string | null): string {
    return shownAddress(this.address(id));
  }

  correspondent(row: Correspondent): string {
    if (!row.group) return this.person(row.participants[0] ?? null);
    return row.title || row.participants.map((id) => this.person(id)).join(', ');
  }
}
