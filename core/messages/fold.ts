import { hashText } from '../host';
import {
  isKept,
  type FreedMessages,
  type PlainSink,
  type StoreMessage,
  type Wait
} from '../profiles';
import { FreedIndexes } from './freed-indexes';

/** Freed messages between two rests. */
const STEP = 1000;
/** Most proofs kept for one message. */
const MOST_PROOFS = 12;

/** A store's message, and the key of the message whose earlier wording it is. */
export interface FoldedMessage extends StoreMessage {
  replacesKey: string | null;
}

function rank(message: StoreMessage): number {
  if (isKept(message)) return 0;
  return message.state === 'fragment' ? 2 : 1;
}

/**
 * Folds copies of one message into one record with several proofs. Live ones
 * come one by one and take up their copies among the freed ones: a row that
 * differs from a live one in its read mark alone is such a copy; one that
 * differs in its wording is an earlier state of it. Freed messages are read when they are compared or given out.
 */
export class StreamFolder {
  readonly indexes: FreedIndexes;
  private readonly taken: Uint8Array;
  /** Key of the present form, for freed messages that differ from a live one. */
  private readonly present = new Map<number, string>();

  constructor(
    private readonly freed: FreedMessages,
    private readonly isWanted: (message: StoreMessage) => boolean
  ) {
    this.indexes = FreedIndexes.of(freed);
    this.taken = new Uint8Array(freed.count);
  }

  /** A live message with the proofs of its copies. */
  live(message: StoreMessage): FoldedMessage {
    // The row's reader made the message for this one use.
    const folded = message as FoldedMessage;
    folded.replacesKey = message.earlierOf;
    for (const index of this.indexes.byMoment.all(message.sentAt ?? NaN))
      this.compare(folded, index);
    if (message.earlierOf !== null) return folded;
    for (const index of this.sameIdentity(message)) {
      if (this.taken[index]) continue;
      const freed = this.message(index);
      if (!freed || freed.table !== message.table) continue;
      if (isDamagedCopy(message, freed)) {
        this.taken[index] = 1;
        absorb(folded, freed);
      } else if (sameOrigin(message, freed)) this.present.set(index, message.key);
    }
    return folded;
  }

  private *sameIdentity({ rowid, unique }: Identity): Generator<number> {
    if (typeof rowid === 'number') yield* this.indexes.byNumber.all(rowid);
    if (unique !== null) yield* this.indexes.byUnique.all(hashText(unique));
  }

  /** The freed message itself, without its earlier wordings. */
  private message(index: number): StoreMessage | undefined {
    return this.freed.read(index).at(-1);
  }

  private compare(live: FoldedMessage, index: number): void {
    if (this.taken[index]) return;
    const freed = this.message(index);
    if (!freed || momentKey(live) !== momentKey(freed)) return;
    const prefix = freed.state === 'fragment' ? freed.body.replace(/\ufffc$/, '') : null;
    const isCopy = live.body === freed.body && mayBeOne(freed, live);
    if (isCopy || (prefix !== null && live.body.startsWith(prefix))) {
      this.taken[index] = 1;
      absorb(live, freed);
    } else if (isSameMoment(live, freed) && !this.present.has(index))
      this.present.set(index, live.key);
  }

  /**
   * What is left of the freed messages, once all live ones have passed, and
   * `more` that is known only then. Messages that share no moment with
   * another have no copies, and need not be held together.
   */
  *rest(
    more: () => StoreMessage[],
    sink: PlainSink | null = null
  ): Generator<FoldedMessage | Wait | null> {
    const together: Present[] = [];
    const left = this.left();
    yield null;
    if (sink) yield* this.share(left.alone, sink, together);
    else yield* this.readAlone(left.alone, null, together);
    for (const index of left.others) this.readInto(together, index);
    for (const message of more())
      if (this.isWanted(message)) together.push({ message, present: undefined });
    together.sort(
      ({ message: a }, { message: b }) => rank(a) - rank(b) || b.certainty - a.certainty
    );
    const folder = new Folder();
    for (const { message, present } of together) folder.add(message, present);
    yield* folder.result;
  }

  /** Freed messages that no live one took up: those that share no moment with another, and the others. */
  private left(): { alone: Uint32Array; others: Uint32Array } {
    const alone = new Uint32Array(this.freed.count);
    const others: number[] = [];
    const { moments } = this.freed;
    const shared = this.indexes.sharedMoments();
    let count = 0;
    for (let index = 0; index < this.freed.count; index++) {
      if (this.taken[index]) continue;
      const isAlone = !Number.isNaN(moments[index]!) && !shared.has(moments[index]!);
      if (isAlone && !this.present.has(index)) alone[count++] = index;
      else others.push(index);
    }
    return { alone: alone.subarray(0, count), others: Uint32Array.from(others) };
  }

  private *share(
    alone: Uint32Array,
    sink: PlainSink,
    together: Present[]
  ): Generator<FoldedMessage | Wait | null> {
    for (const step of this.freed.share(alone, sink)) {
      if (step.type === 'wait') yield step;
      else yield* this.readAlone(step.indexes, sink, together);
    }
  }

  /** Messages that have no copies leave one by one; rows that are several messages are put with the others. */
  private *readAlone(
    indexes: Uint32Array,
    sink: PlainSink | null,
    together: Present[]
  ): Generator<FoldedMessage | null> {
    for (const [i, index] of indexes.entries()) {
      if (i % STEP === 0) yield null;
      if (sink && this.freed.give(index, sink)) continue;
      const messages = this.freed.read(index).filter(this.isWanted);
      const [message] = messages;
      if (messages.length === 1) yield { ...message!, replacesKey: message!.earlierOf };
      else for (const message of messages) together.push({ message, present: undefined });
    }
  }

  private readInto(together: Present[], index: number): void {
    const present = this.present.get(index);
    for (const message of this.freed.read(index))
      if (this.isWanted(message)) together.push({ message, present });
  }
}

/** A freed message, and the key of its present form where that is known. */
interface Present {
  message: StoreMessage;
  present: string | undefined;
}

type Identity = Pick<StoreMessage, 'sentAt' | 'rowid' | 'unique'>;

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
    const same =
      this.byContent.get(contentKey(message))?.find((other) => mayBeOne(message, other)) ??
      identities(message)
        .map((identity) => this.byIdentity.get(identity))
        .find((other) => other !== undefined && isDamagedCopy(other, message));
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

/** Words that nobody writes twice by chance under the same row number. */
const TELLING = 16;

/** The same words under the same number: what else differs was written over. */
function isDamagedCopy(kept: StoreMessage, freed: StoreMessage): boolean {
  const isSame = kept.rowid !== null && kept.rowid === freed.rowid && kept.body === freed.body;
  return isSame && isKept(kept) && freed.body.length >= TELLING;
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
  into.proofs = [...into.proofs, ...fresh.slice(0, Math.max(0, MOST_PROOFS - into.proofs.length))];
  into.rowid ??= copy.rowid;
}
