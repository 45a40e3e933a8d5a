import { byMembers, byWriters, conversation, own } from './conversation';
import type { Context, Fit, FoundParties } from './context';
import {
  alwaysThere,
  byAbsence,
  byAuthor,
  byColumn,
  byReceipt,
  holdsInGroups,
  ownerByPresence,
  type OpenDirection,
  type WorkedDirection
} from './direction';
import { byKinds } from './direction-kinds';
import type { Field, RowFields } from './fields';
import { byPresenceAlone, talksOf } from './guessed-parties';
import { isNameless, RECIPIENT } from './links';
import { selfNamed } from './owner';
import { PEOPLE } from './people';
import { PEER_NAME, person, SENDER_NAME } from './person';
import { byShape } from './shape';

export function findParties(context: Context, text: Field, fit: Fit): FoundParties {
  const shape = byShape(context.root, context.tables, context.links);
  const called = conversation(context, fit) ?? byMembers(context, shape.conversation, fit);
  const named = person(context, SENDER_NAME, text, [], called);
  const writes = named ?? own(context, shape.person) ?? person(context, PEER_NAME, text, [], null);
  const room = called ?? byWriters(context, writes, fit);
  const isCalled = (room ?? named ?? person(context, PEER_NAME, text, [], room)) !== null;
  const alone = isCalled ? null : byPresenceAlone(context, text, fit, shape.person);
  if (alone) return alone;
  const isPeer = named !== null && isOtherParty(named, room);
  const peer = isPeer ? named : person(context, PEER_NAME, text, [named], room);
  const sender = isPeer ? null : (named ?? (peer ? null : own(context, shape.person)));
  const recipient = person(context, RECIPIENT, text, [sender, peer], room);
  // Where one of them is in all conversations, a column of others names who wrote.
  const isWriter =
    peer && room && !sender && peer.facts.distinct > 1 && ownerByPresence(talksOf(peer, room));
  if (isWriter) return { sender: peer, recipient: null, peer: null, room };
  if (room || (sender && recipient)) return { sender, recipient, peer, room };
  const beside = peer && !sender ? roomBeside(context, peer) : null;
  return { sender, recipient, peer, room: beside ?? peer };
}

/** Share of rows in which the conversation is called like the other party. */
const MOSTLY_ALIKE = 0.5;

/** Beside a column of people one of conversations: the same where two write to each other, one for several people in groups. */
function roomBeside({ fields, rows }: Context, peer: Field): Field | null {
  const [link] = rows.linksOf(peer, PEOPLE);
  const beside = fields.find((field) => {
    if (field === peer || field.hops !== peer.hops || field.isInside) return false;
    if (field.facts.texts < field.facts.rows * 0.95) return false;
    if (rows.linksOf(field, PEOPLE)[0]?.to !== link?.to) return false;
    const apart = peer.values.flatMap((value, i) =>
      value !== null && value !== field.values[i] ? [[value, field.values[i]]] : []
    );
    const [people, rooms] = [0, 1].map((side) => new Set(apart.map((pair) => pair[side])).size);
    return apart.length < peer.values.length * MOSTLY_ALIKE && rooms! >= 1 && people! > rooms!;
  });
  return beside ?? null;
}

/** Named like a writer, but the same in all rows of a conversation of two: the other party. */
function isOtherParty({ values, facts }: Field, room: Field | null): boolean {
  if (!room || facts.filled < facts.rows * 0.95) return false;
  const rooms = new Map<string, Set<string>>();
  room.values.forEach((value, i) => {
    const key = String(value);
    rooms.set(key, (rooms.get(key) ?? new Set()).add(String(values[i])));
  });
  return rooms.size >= 3 && [...rooms.values()].every((set) => set.size === 1);
}

/** Who of them is the owner: by what says it, by what shows it, or an open question. */
export function findDirection(
  context: Context,
  parties: FoundParties
): { worked: WorkedDirection | null; open: OpenDirection | null } {
  // Of an open pair neither column can say by itself who wrote.
  const sender = parties.isPairOpen ? null : parties.sender;
  const told = sender && selfNamed(context, sender, parties.room);
  const column = byColumn(context.fields, { ...parties, sender });
  const sure = column.worked && column.worked.weight >= SURE ? column.worked : null;
  const options = [
    sure,
    told && byAuthor(sender.expression, told.own, 14, told.reason),
    column.worked,
    byOrder(parties),
    sender && byPresenceOf(sender, parties),
    sender && byAbsence(sender),
    byReceipt(context.fields),
    byKinds(context.fields, parties)
  ];
  const worked = options.find((option) => option !== null && isPossible(option, context, parties));
  return worked ? { worked, open: null } : { worked: null, open: column.open };
}

/** The parties with the sides of an open pair put right by who wrote: what went out is by one writer. */
export function settled(
  { rows }: Context,
  parties: FoundParties,
  direction: WorkedDirection | null
): FoundParties {
  const apart = partedByPeer(rows, parties, direction);
  if (apart) return apart;
  const { sender, recipient, isPairOpen } = parties;
  if (!isPairOpen || !sender || !recipient || !direction || !('value' in direction.field))
    return parties;
  const { value, values } = direction.field;
  const own = rows
    .valuesOf(value)
    .flatMap((v, i) => (values[String(v ?? '')] === 'outgoing' ? [String(sender.values[i])] : []));
  return new Set(own).size <= 1 ? parties : { ...parties, sender: recipient, recipient: sender };
}

/**
 * Where one thing is said of all rows and what went out names several: that
 * column names the other party whoever wrote, and tells conversations apart.
 */
function partedByPeer(
  rows: RowFields,
  parties: FoundParties,
  direction: WorkedDirection | null
): FoundParties | null {
  const { sender, peer, recipient, room } = parties;
  const party = sender ?? peer;
  if (!room || !party || recipient || room.facts.distinct > 1 || party === room) return null;
  if (!direction || !('value' in direction.field)) return null;
  const { value, values } = direction.field;
  const addressed = rows
    .valuesOf(value)
    .flatMap((v, i) => (values[String(v ?? '')] === 'outgoing' ? [String(party.values[i])] : []));
  return new Set(addressed).size < 2
    ? null
    : { ...parties, sender: null, peer: party, room: party };
}

/** Weight from which a column's name or values say by themselves who wrote. */
const SURE = 14;

/** In groups only the owner's own lines may be outgoing, and those are by one writer. */
function isPossible(
  worked: WorkedDirection,
  { rows }: Context,
  { sender, room }: FoundParties
): boolean {
  if (!sender || !room || sender === room) return true;
  const { field } = worked;
  const outgoing =
    'author' in field
      ? rows.valuesOf(field.author).map((v) => worked.own.has(String(v).toLowerCase()))
      : rows.valuesOf(field.value).map((v) => field.values[String(v ?? '')] === 'outgoing');
  return holdsInGroups(outgoing, sender, room);
}

function byPresenceOf(sender: Field, { recipient, room }: FoundParties): WorkedDirection | null {
  if (room && room !== sender) {
    const owner = ownerByPresence(talksOf(sender, room));
    if (owner !== null)
      return byAuthor(
        sender.expression,
        [owner],
        13,
        `${owner} writes in nearly all conversations, so that is the owner`
      );
  }
  // One who alone writes writes to nobody.
  const isTalk = sender.facts.distinct > 1;
  const owner = isTalk && recipient && alwaysThere(sender.values, recipient.values);
  return !owner
    ? null
    : byAuthor(
        sender.expression,
        [owner],
        13,
        `${owner} wrote or received every message, so that is the owner`
      );
}

/** Of two columns of which one or the other names the owner in every row, the first is who wrote, as is usual. */
function byOrder({ sender, recipient, isPairOpen }: FoundParties): WorkedDirection | null {
  // Lines of a log are written in the order in which they are read; columns of a database in any.
  if (!isPairOpen || !sender || !recipient || !isNameless(sender.name)) return null;
  const owner = alwaysThere(sender.values, recipient.values);
  const reason = `${owner} stands in every row; of the two columns the first is taken for who wrote, as is usual`;
  return owner === null ? null : byAuthor(sender.expression, [owner], 8, reason);
}
