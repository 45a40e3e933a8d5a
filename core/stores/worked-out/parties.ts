import { lookUp, type Expression, type NameField } from '../profile';
import { isMoment } from './column';
import { nameOf, plainName, type Context, type Fit } from './context';
import {
  alwaysThere,
  byAbsence,
  byAuthor,
  byColumn,
  byReceipt,
  holdsInGroups,
  ownerByPresence,
  type OpenDirection,
  type Talk,
  type Parties,
  type WorkedDirection
} from './direction';
import { byKinds } from './direction-kinds';
import type { SqlValue } from '../../sqlite';
import type { Field, RowFields } from './fields';
import { isNameless, RECIPIENT } from './links';
import { selfNamed } from './owner';
import { CONVERSATIONS, nameBeside, PEOPLE, personLabel } from './people';
import { byShape } from './shape';

const SENDER_NAME = /(sender|author|from|speaker|nick|who|creator|writer|user|source|talker)/i;
export const PEER_NAME =
  /(counterpart|peer|partner|contact|remote|buddy|jid|address|handle|number|phone|participant|friend|recipient|identity)/i;
const FLAG_NAME =
  /(from_?me|is_?from|_type$|resource|(^|_)counts?$|status|state|flag|device|self$)/i;

/** Who takes part, as columns; `peer` names the other party whoever wrote. */
export interface FoundParties extends Parties {
  peer: Field | null;
  /** Of sender and recipient it is not known which is which. */
  isPairOpen?: boolean;
  /** Nothing but the values speaks for them. */
  isGuessed?: boolean;
}

export function findParties(context: Context, text: Field, fit: Fit): FoundParties {
  const shape = byShape(context.root, context.tables, context.links);
  const room = conversation(context, fit) ?? byMembers(context, shape.conversation, fit);
  const named = person(context, SENDER_NAME, text, [], room);
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

/**
 * Where no name says anything: two columns of which one tells conversations
 * apart, because one writer of the other is in all of them.
 */
function byPresenceAlone(
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

function talksOf(sender: Field, room: Field): Talk[] {
  return sender.values.map((author, i) => ({ author, conversation: room.values[i] ?? null }));
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

function conversation({ fields, rows }: Context, fit: Fit): Field | null {
  const scored = fields
    .flatMap((field) => {
      const { facts, name } = field;
      if (isMoment(facts) || facts.blobs > 0 || facts.filled < facts.rows * 0.6) return [];
      if (facts.distinct < 1 || facts.distinct > Math.max(1, facts.rows * 0.7)) return [];
      const [link] = rows.linksOf(field, CONVERSATIONS);
      const plain = plainName(name);
      const named =
        CONVERSATIONS.test(plain) && !/type|count|version|state|unread|(^|_)is_/.test(plain);
      if (!named && !(link && CONVERSATIONS.test(link.to))) return [];
      const called = /name|title/.test(plain) ? 1 : 0;
      const part = isSession(plain) ? 0.5 : 0;
      const inside = field.isInside ? 0.5 : 0;
      const score =
        (named ? 2 : 0) +
        (link ? 2 : 0) +
        (link?.declared ? 1 : 0) -
        called -
        field.hops -
        inside -
        part;
      return [{ field, score }];
    })
    .sort((a, b) => b.score - a.score);
  const best = scored[0] ? beyondSessions(scored[0].field, fields, rows) : null;
  if (best)
    fit.add(13, `${nameOf(best)} tells conversations apart (${best.facts.distinct} in the sample)`);
  return best;
}

function isSession(name: string): boolean {
  return /(session|segment|episode)/i.test(name);
}

/** A session is a part of a conversation: where its row says of which, that counts. */
function beyondSessions(room: Field, fields: readonly Field[], rows: RowFields): Field {
  const [link] = rows.linksOf(room, CONVERSATIONS);
  if (!link || !(isSession(room.name) || isSession(link.to))) return room;
  const further = fields.find(
    (field) =>
      field.table === link.to &&
      field.hops === room.hops + 1 &&
      field.facts.distinct > 1 &&
      field.facts.distinct < room.facts.distinct &&
      rows.linksOf(field, CONVERSATIONS).length > 0
  );
  return further ?? room;
}

function own({ fields }: Context, name: string | null): Field | null {
  return fields.find((field) => field.hops === 0 && field.name === name && !field.isInside) ?? null;
}

/** A conversation that is one by the tables around it. */
function byMembers(context: Context, name: string | null, fit: Fit): Field | null {
  const field = own(context, name);
  if (field) fit.add(10, `${nameOf(field)} refers to a table whose rows have members`);
  return field;
}

/** Whether a column of another table says something of each row: what people are called is theirs, and who made a conversation is the conversation's. */
function isOfRows({ table, facts, isInside }: Field, role: RegExp): boolean {
  if (isInside) return true;
  if (facts.distinct < 2 || PEOPLE.test(table)) return false;
  return role !== SENDER_NAME || !CONVERSATIONS.test(table);
}

/** Share of a group's rows in which somebody is named who speaks there; what is answered names somebody in fewer. */
const SPEAKS = 0.35;

/** A column that names people in groups alone, where the other columns name the group or a nickname in it. */
export function speakerInGroups(
  { fields, rows }: Context,
  { sender, peer, room }: FoundParties
): Field | null {
  const main = sender ?? peer;
  if (!room || !main) return null;
  const found = fields.find((field) => {
    const { filled, rows: all, distinct } = field.facts;
    if ([sender, peer, room].includes(field) || field.hops > 0 || field.isInside) return false;
    if (filled < 3 || filled > all * 0.7 || distinct < 2 || isMoment(field.facts)) return false;
    const isNamed =
      PEER_NAME.test(plainName(field.name)) || SENDER_NAME.test(plainName(field.name));
    if (!isNamed || !rows.linksOf(field, PEOPLE).some(({ to }) => PEOPLE.test(to))) return false;
    return isAllOrNothing(field, room);
  });
  return found ?? null;
}

/** Whether the rows of each conversation have a value often, or never. */
function isAllOrNothing({ values }: Field, room: Field): boolean {
  const counts = new Map<string, { filled: number; all: number }>();
  room.values.forEach((key, i) => {
    const count = counts.get(String(key)) ?? { filled: 0, all: 0 };
    count.all++;
    if (values[i] !== null && values[i] !== '') count.filled++;
    counts.set(String(key), count);
  });
  const all = [...counts.values()];
  const spoken = all.filter(({ filled, all: rows }) => filled >= rows * SPEAKS);
  const silent = all.filter(({ filled }) => filled === 0);
  return spoken.length > 0 && spoken.length + silent.length === all.length;
}

/** Conversations that must be large for what stands in all of them to be no person. */
const LEAST_LARGE = 3;

/** Whether nearly all values stand in nearly all large conversations, as kinds of devices do, and people do not. */
function isEverywhere({ values, facts }: Field, room: Field): boolean {
  if (room.values === values || facts.distinct > MOST_EVERYWHERE) return false;
  const rooms = new Map<string, SqlValue[]>();
  room.values.forEach((key, i) => {
    const list = rooms.get(String(key)) ?? [];
    list.push(values[i] ?? null);
    rooms.set(String(key), list);
  });
  const large = [...rooms.values()].filter((list) => list.length >= facts.distinct * 5);
  const full = large.filter((list) => new Set(list).size >= facts.distinct);
  return large.length >= LEAST_LARGE && full.length >= large.length * 0.8;
}

/** More different values than these are not all in every conversation. */
const MOST_EVERYWHERE = 6;

/** A text that is JSON names nobody; its fields may. */
function isRecord({ frequent }: Field['facts']): boolean {
  const [first] = frequent.keys();
  return first !== undefined && /^\s*[{[]/.test(first);
}

/** A column filled in so few rows names somebody beside the parties. */
const RARE = 0.3;

/** A column that names a person in the given part. */
function person(
  { fields, rows }: Context,
  role: RegExp,
  text: Field,
  not: readonly (Field | null)[],
  room: Field | null
): Field | null {
  const scored = fields
    .flatMap((field) => {
      const { facts } = field;
      const name = plainName(field.name);
      if (field === text || not.includes(field) || isMoment(facts) || facts.blobs > 0) return [];
      if (facts.filled < 1 || !role.test(name) || FLAG_NAME.test(name)) return [];
      if (field.hops > 0 && !isOfRows(field, role)) return [];
      // Who it was sent to is not who wrote it.
      if (role !== RECIPIENT && RECIPIENT.test(name) && !/from|sender/.test(name)) return [];
      if (facts.distinct > Math.max(2, facts.rows * 0.7) || isRecord(facts)) return [];
      if ((facts.wording?.score ?? 0) > 0.75) return [];
      const [link] = rows.linksOf(field, PEOPLE);
      const identifies = facts.texts === facts.filled;
      if (!link && (!identifies || (room && isEverywhere(field, room)))) return [];
      const full = facts.filled / Math.max(1, facts.rows);
      const rare = full < RARE ? 1 : 0;
      // A conversation's other party is the same in all of its rows.
      const isRoom = field.hops > 0 && !field.isInside && CONVERSATIONS.test(field.table) ? 2 : 0;
      // The same in every row may be who has the account.
      const alone = facts.distinct < 2 ? 3 : 0;
      const score =
        (link ? 2 : 0) + (identifies ? 1.5 : 0) + 1.5 * full - rare - alone - isRoom - field.hops;
      return [{ field, score }];
    })
    .sort((a, b) => b.score - a.score);
  return scored[0]?.field ?? null;
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
  const { sender, recipient, isPairOpen } = parties;
  if (!isPairOpen || !sender || !recipient || !direction || !('value' in direction.field))
    return parties;
  const { value, values } = direction.field;
  const own = rows
    .valuesOf(value)
    .flatMap((v, i) => (values[String(v ?? '')] === 'outgoing' ? [String(sender.values[i])] : []));
  return new Set(own).size <= 1 ? parties : { ...parties, sender: recipient, recipient: sender };
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

/**
 * The address that a column stands for, through the tables of people that
 * know its values.
 */
export function addressOf(
  { tables, links, rows }: Context,
  field: Field,
  sense: RegExp
): Expression {
  const known = rows.linksOf(field, sense);
  const from = known.length > 0 ? field.expression : withoutDevice(field);
  const ways = from === field.expression ? known : rows.linksOfValues(field.table, from);
  const options = ways.flatMap((link) => {
    const { address, name } = personLabel(tables.get(link.to)!, tables, links);
    const called = address ?? name;
    return called ? [lookUp(link.to, link.key, from, called)] : [];
  });
  return options.length === 0 ? field.expression : { first: [...options, field.expression] };
}

const DEVICE = '/.*';
/** Share of addresses that name a device after a stroke. */
const WITH_DEVICE = 0.2;

/** The addresses without the device that some of them name after a stroke; as they are where none does. */
function withoutDevice({ expression, values, facts }: Field): Expression {
  const named = values.filter((v) => typeof v === 'string' && /^[^\s/@]+@[^\s/@]+\/./.test(v));
  return named.length < facts.filled * WITH_DEVICE
    ? expression
    : { without: expression, pattern: DEVICE };
}

/** Names that the store gives to those who write, and to what they are written to. */
export function findNames({ tables, links, rows }: Context, found: FoundParties): NameField[] {
  const { sender, peer, recipient, room } = found;
  const tablesOf = [sender, peer, recipient, room].flatMap((field) =>
    field ? rows.linksOf(field, PEOPLE).map(({ to }) => to) : []
  );
  const known = [...new Set(tablesOf)].flatMap((table) => {
    const { address, name } = personLabel(tables.get(table)!, tables, links);
    return name ? [{ table, address: address ?? name, name }] : [];
  });
  if (known.length > 0) return known;
  return [sender, peer, room].flatMap((field) => (field ? namesBeside(tables, field) : []));
}

/** Share of the writers that a table must know, or of its rows that must be writers. */
const KNOWN_BY_NAME = 0.6;

/** Names in tables in which a writer may stand more than once, as in lists of members. */
function namesBeside(tables: Context['tables'], { facts, table: own }: Field): NameField[] {
  const writers = [...facts.frequent.keys()];
  if (facts.texts < facts.filled || writers.length < 2) return [];
  return [...tables.values()].flatMap((table) => {
    if (table.name === own) return [];
    const column = table.columns.find(({ name, texts, filled }) => {
      const values = texts > 0 && texts === filled ? table.valuesOf(name) : null;
      if (!values || values.size < 2) return false;
      const shared = writers.filter((writer) => values.has(writer)).length;
      return shared >= Math.max(2, Math.min(writers.length, values.size) * KNOWN_BY_NAME);
    });
    const name = column && nameBeside(table, column);
    if (!column || !name) return [];
    return [{ table: table.name, address: { column: column.name }, name: { column: name } }];
  });
}
