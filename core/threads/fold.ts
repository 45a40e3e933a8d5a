import type { StoreMessage } from '../stores';

/** Most proofs kept for one message. */
const MOST_PROOFS = 12;

/** A store's message, and the key of the message whose earlier wording it is. */
export interface FoldedMessage extends StoreMessage {
  replacesKey: string | null;
}

/**
 * Folds copies of one message into one record with several proofs. A row that
 * differs from a live one in its read mark alone is such a copy; one that
 * differs in its wording is an earlier state of it.
 */
export function foldMessages(messages: StoreMessage[]): FoldedMessage[] {
  const folder = new Folder();
  const order = [...messages].sort((a, b) => rank(a) - rank(b) || b.certainty - a.certainty);
  for (const message of order) folder.add(message);
  return folder.result;
}

function rank(message: StoreMessage): number {
  if (isKept(message)) return 0;
  return message.state === 'fragment' ? 2 : 1;
}

/** Whether the store itself still holds the message. */
function isKept({ state, earlierOf }: StoreMessage): boolean {
  return state === 'live' || state === 'held' || earlierOf !== null;
}

/**
 * Folds freed messages against live ones that come one by one: a live message
 * takes up its copies; what differs in its wording is remembered as its
 * earlier state.
 */
export class StreamFolder {
  private readonly byMoment = new Map<number, StoreMessage[]>();
  private readonly byIdentity = new Map<string, StoreMessage[]>();
  private readonly byNumber = new Map<number, StoreMessage[]>();
  private readonly taken = new Set<StoreMessage>();
  /** Key of the present form, for freed messages that differ from a live one. */
  private readonly present = new Map<StoreMessage, string>();

  constructor(private readonly freed: readonly StoreMessage[]) {
    for (const message of freed) {
      pushTo(this.byMoment, message.sentAt ?? NO_MOMENT, message);
      if (typeof message.rowid === 'number') pushTo(this.byNumber, message.rowid, message);
      if (message.unique !== null) pushTo(this.byIdentity, message.unique, message);
    }
  }

  /** A live message with the proofs of its copies. */
  live(message: StoreMessage): FoldedMessage {
    // The row's reader made the message for this one use.
    const folded = message as FoldedMessage;
    folded.replacesKey = message.earlierOf;
    const moment = this.byMoment.get(message.sentAt ?? NO_MOMENT);
    if (moment) for (const freed of moment) this.compare(folded, freed);
    if (message.earlierOf !== null) return folded;
    for (const freed of this.sameIdentity(message)) {
      if (!this.taken.has(freed) && sameOrigin(message, freed))
        this.present.set(freed, message.key);
    }
    return folded;
  }

  private *sameIdentity({ rowid, unique, table }: StoreMessage): Generator<StoreMessage> {
    if (typeof rowid === 'number') {
      for (const freed of this.byNumber.get(rowid) ?? []) if (freed.table === table) yield freed;
    }
    if (unique !== null) {
      for (const freed of this.byIdentity.get(unique) ?? []) if (freed.table === table) yield freed;
    }
  }

  private compare(live: FoldedMessage, freed: StoreMessage): void {
    if (this.taken.has(freed) || momentKey(live) !== momentKey(freed)) return;
    const prefix = freed.state === 'fragment' ? freed.body.replace(/\ufffc$/, '') : null;
    const isCopy = live.body === freed.body && mayBeOne(freed, live);
    if (isCopy || (prefix !== null && live.body.startsWith(prefix))) {
      this.taken.add(freed);
      absorb(live, freed);
    } else if (isSameMoment(live, freed) && !this.present.has(freed))
      this.present.set(freed, live.key);
  }

  /** What is left of the freed messages, once all live ones have passed. */
  rest(): FoldedMessage[] {
    const folder = new Folder();
    const left = this.freed.filter((message) => !this.taken.has(message));
    left.sort((a, b) => rank(a) - rank(b) || b.certainty - a.certainty);
    for (const message of left) folder.add(message, this.present.get(message));
    return folder.result;
  }
}

const NO_MOMENT = -1;

/** Without a number or key, a moment told to the millisecond stands for them. */
function isSameMoment(live: StoreMessage, { unique, rowid, sentAt }: StoreMessage): boolean {
  return (
    live.state === 'live' &&
    unique === null &&
    rowid === null &&
    sentAt !== null &&
    sentAt % 1000 !== 0
  );
}

function pushTo<K>(map: Map<K, StoreMessage[]>, key: K, message: StoreMessage): void {
  const list = map.get(key);
  if (list) list.push(message);
  else map.set(key, [message]);
}

class Folder {
  readonly result: FoldedMessage[] = [];
  private readonly byContent = new Map<string, FoldedMessage[]>();
  private readonly byMoment = new Map<string, FoldedMessage[]>();
  private readonly byIdentity = new Map<string, FoldedMessage>();

  /** `presentKey` names a live message that this one was before, where that is known already. */
  add(message: StoreMessage, presentKey?: string): void {
    if (!isKept(message)) {
      const twin = this.twinOf(message);
      if (twin) return absorb(twin, message);
    }
    const folded: FoldedMessage = { ...message, replacesKey: message.earlierOf };
    const present = isKept(message) ? undefined : (presentKey ?? this.presentForm(message)?.key);
    if (present !== undefined && message.state === 'recovered') {
      folded.state = 'earlier';
      folded.replacesKey = present;
    }
    this.keep(folded);
  }

  private keep(message: FoldedMessage): void {
    this.result.push(message);
    push(this.byContent, contentKey(message), message);
    push(this.byMoment, momentKey(message), message);
    for (const identity of identities(message)) {
      if (!this.byIdentity.has(identity)) this.byIdentity.set(identity, message);
    }
  }

  private twinOf(message: StoreMessage): FoldedMessage | undefined {
    const same = this.byContent.get(contentKey(message))?.find((other) => mayBeOne(message, other));
    if (same || message.state !== 'fragment') return same;
    const prefix = message.body.replace(/\ufffc$/, '');
    return this.byMoment.get(momentKey(message))?.find((other) => other.body.startsWith(prefix));
  }

  /** A live message with the same identity and another wording. */
  private presentForm(message: StoreMessage): FoldedMessage | undefined {
    for (const identity of identities(message)) {
      const found = this.byIdentity.get(identity);
      if (found && isKept(found) && sameOrigin(found, message)) return found;
    }
    // Without a number or key, a moment told to the millisecond stands for them.
    if (message.unique !== null || message.rowid !== null) return undefined;
    if (message.sentAt === null || message.sentAt % 1000 === 0) return undefined;
    return this.byMoment.get(momentKey(message))?.find((other) => other.state === 'live');
  }
}

/** Two rows with different numbers are two messages, however alike. */
function mayBeOne(a: StoreMessage, b: StoreMessage): boolean {
  if (a.unique !== null && b.unique !== null) return a.unique === b.unique;
  return a.rowid === null || b.rowid === null || a.rowid === b.rowid;
}

/** Row numbers are used again: only the moment and the other party tell that it is the same message. */
function sameOrigin(a: StoreMessage, b: StoreMessage): boolean {
  if (a.unique !== null && a.unique === b.unique) return true;
  return a.sentAt !== null && a.sentAt === b.sentAt && a.sender === b.sender;
}

function identities(message: StoreMessage): string[] {
  const out: string[] = [];
  if (message.unique !== null) out.push(`u${message.table}/${message.unique}`);
  if (message.rowid !== null) out.push(`r${message.table}/${message.rowid}`);
  return out;
}

function contentKey(message: StoreMessage): string {
  return `${momentKey(message)}\u0000${message.body}`;
}

function momentKey(message: StoreMessage): string {
  const { table, sentAt, direction, sender } = message;
  return [table, sentAt, direction, sender].join('\u0000');
}

function push(map: Map<string, FoldedMessage[]>, key: string, message: FoldedMessage): void {
  const list = map.get(key);
  if (list) list.push(message);
  else map.set(key, [message]);
}

function absorb(into: FoldedMessage, copy: StoreMessage): void {
  const fresh = copy.proofs.filter(
    (proof) => !into.proofs.some((p) => p.path === proof.path && p.offset === proof.offset)
  );
  into.proofs = [...into.proofs, ...fresh].slice(0, MOST_PROOFS);
  into.rowid ??= copy.rowid;
}
