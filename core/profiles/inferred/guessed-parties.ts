import { type Context, type Fit, type FoundParties, nameOf } from './context';
import { alwaysThere, ownerByPresence, type Talk } from './direction';
import type { Field } from './fields';

/**
 * Where no name says anything: two columns of which one tells conversations
 * apart, because one writer of the other is in all of them.
 */
export function byPresenceAlone(
  { fields }: Context,
  text: Field,
  fit: Fit,
  shaped: string | null
): FoundParties | null {
  const identities = fields.filter((field) => field !== text && isIdentity(field));
  const texts = identities.filter(({ facts }) => facts.texts === facts.filled);
  const pair = partiesOf(texts);
  if (pair) {
    fit.add(7, `one name stands in ${nameOf(pair[0])} or ${nameOf(pair[1])} of every row`);
    return {
      sender: pair[0],
      recipient: pair[1],
      peer: null,
      room: null,
      isPairOpen: true,
      isGuessed: true
    };
  }
  const pairs = texts.flatMap((sender) =>
    identities.flatMap((room) => {
      const spread = room === sender ? null : spreadOf(talksOf(sender, room));
      return spread === null || spread > MOST_SPREAD ? [] : [{ room, sender, spread }];
    })
  );
  const [best] = pairs.sort((a, b) => a.spread - b.spread);
  if (best) {
    const { room, sender } = best;
    const reason = `${nameOf(room)} and ${nameOf(sender)} are those of conversations and writers: one writer is in all of them`;
    fit.add(10, reason);
    return { sender, recipient: null, peer: null, room, isGuessed: true };
  }
  if (shaped !== null) return null;
  const [peer = null] = texts;
  if (peer) fit.add(8, `${nameOf(peer)} has few values, as the other party of conversations has`);
  return { sender: null, recipient: null, peer, room: peer, isGuessed: true };
}

/** Two columns of which one or the other holds the same name in every row. */
function partiesOf(texts: readonly Field[]): [Field, Field] | null {
  for (const [i, a] of texts.entries())
    for (const b of texts.slice(i + 1))
      if (
        alwaysThere(a.values, b.values) !== null &&
        a.values.every((value, n) => value !== b.values[n])
      )
        return [a, b];
  return null;
}

/** Conversations in which one who is not the owner may be, on the average, for them to be conversations. */
const MOST_SPREAD = 3.5;

/** In how many conversations each writer but the owner is, on the average; null where nobody is in all. */
function spreadOf(talks: Talk[]): number | null {
  const owner = ownerByPresence(talks);
  if (owner === null) return null;
  const rooms = new Map<string, Set<string>>();
  for (const { author, conversation } of talks)
    if (author !== null && String(author) !== owner)
      rooms.set(String(author), (rooms.get(String(author)) ?? new Set()).add(String(conversation)));
  const all = [...rooms.values()].reduce((sum, set) => sum + set.size, 0);
  return rooms.size === 0 ? null : all / rooms.size;
}

/** Values that stand again and again, and are more than two. */
function isIdentity({ facts, hops }: Field): boolean {
  const { distinct, filled, rows, clock, blobs } = facts;
  if (hops > 0 || clock || blobs > 0 || filled < rows * 0.9) return false;
  return distinct >= 3 && distinct <= rows * 0.3 && (facts.wording?.score ?? 0) < 0.75;
}

export function talksOf(sender: Field, room: Field): Talk[] {
  return sender.values.map((author, i) => ({ author, conversation: room.values[i] ?? null }));
}
