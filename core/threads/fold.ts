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

class Folder {
  readonly result: FoldedMessage[] = [];
  private readonly byContent = new Map<string, FoldedMessage[]>();
  private readonly byMoment = new Map<string, FoldedMessage[]>();
  private readonly byIdentity = new Map<string, FoldedMessage>();

  add(message: StoreMessage): void {
    if (!isKept(message)) {
      const twin = this.twinOf(message);
      if (twin) return absorb(twin, message);
    }
    const folded: FoldedMessage = { ...message, replacesKey: message.earlierOf };
    const present = isKept(message) ? undefined : this.presentForm(message);
    if (present && message.state === 'recovered') {
      folded.state = 'earlier';
      folded.replacesKey = present.key;
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
