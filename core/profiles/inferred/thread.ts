import { lookUp, type Expression, type ThreadField } from '../profile';
import { type Context, type Fit, type FoundParties, nameOf } from './context';
import { alwaysThere, hasLists, type WorkedDirection } from './direction';
import type { Field } from './fields';
import type { Link } from './links';
import { addressOf } from './naming';
import { CONVERSATIONS, labelOf, membersThrough, PEOPLE, personLabel } from './people';
import { PEER_NAME } from './person';
import type { SampledTable } from './sample';
import { isPeople } from './shape';

/** The owner's identities, and what the tables of people call them. */
export function ownForms(
  context: Context,
  { sender, recipient }: FoundParties,
  direction: WorkedDirection | null
): string[] {
  const told = direction ? [...direction.own] : [];
  const own = told.length > 0 ? told : writersOfOutgoing(context, sender, direction, recipient);
  const link = sender && context.rows.linksOf(sender, PEOPLE)[0];
  if (!link || own.length === 0) return own;
  const people = context.tables.get(link.to)!;
  const key = people.index(link.key);
  const rows = people.rows.filter((row) => own.includes(String(row[key]).toLowerCase()));
  const texts = rows.flat().filter((v): v is string => typeof v === 'string' && v.length > 1);
  return [...new Set([...own, ...texts.map((text) => text.toLowerCase())])];
}

/** Where a column tells the direction, the one who wrote what went out is the owner. */
function writersOfOutgoing(
  { rows }: Context,
  sender: Field | null,
  direction: WorkedDirection | null,
  recipient: Field | null
): string[] {
  if (sender && recipient && !direction) {
    // Whoever wrote: the one who is in every row is the owner.
    const owner = alwaysThere(sender.values, recipient.values);
    return owner === null ? [] : [owner.toLowerCase()];
  }
  if (!sender || !direction || !('value' in direction.field)) return [];
  const { value, values } = direction.field;
  const writers = rows
    .valuesOf(value)
    .flatMap((v, i) => (values[String(v ?? '')] === 'outgoing' ? [String(sender.values[i])] : []));
  const [first] = writers;
  const same = writers.filter((writer) => writer === first).length;
  const alone = first !== undefined && first !== 'null' && same >= writers.length * 0.9;
  return alone ? [first.toLowerCase()] : [];
}

/** What tells conversations apart, and who takes part in them. */
export function threadOf(
  context: Context,
  { room, sender, recipient, peer }: FoundParties,
  own: string[],
  from: Expression,
  fit: Fit
): ThreadField {
  if (room) return roomOf(context, room, sender ?? peer, own);
  if (!sender || !recipient) return { key: from, participants: from, own };
  if (hasLists(recipient)) {
    // One who writes to several writes to a group: the same people are one conversation.
    const all: Expression = { each: [sender.expression, { listed: recipient.expression }] };
    fit.add(13, `${nameOf(sender)} and ${nameOf(recipient)} are the parties, sometimes several`);
    return { key: { sorted: all }, participants: all, own };
  }
  const isOwn = { value: sender.expression, is: own };
  const other: Expression =
    own.length > 0
      ? {
          first: [
            { when: isOwnIn(isOwn, sender), then: addressOf(context, recipient, PEOPLE) },
            addressOf(context, sender, PEOPLE)
          ]
        }
      : addressOf(context, sender, PEOPLE);
  fit.add(13, `${nameOf(sender)} and ${nameOf(recipient)} are the two parties`);
  return { key: other, participants: other, own };
}

/** The owner's identities are kept in lower case; the column holds them as they are written. */
function isOwnIn(
  { value, is }: { value: Expression; is: string[] },
  sender: Field
): { value: Expression; is: string[] } {
  const written = [...sender.facts.frequent.keys()].filter((name) =>
    is.includes(name.toLowerCase())
  );
  return { value, is: written.length > 0 ? written : is };
}

function roomOf(context: Context, room: Field, writer: Field | null, own: string[]): ThreadField {
  const { links, tables } = context;
  const key = room.expression;
  const groups = hasGroups(room, writer) ? { collect: true } : {};
  const ways = context.rows.linksOf(room, CONVERSATIONS);
  const [link] = ways;
  if (!link) {
    // Addresses stand for themselves; numbers of conversations do not.
    const addressed = PEER_NAME.test(room.name) || room.facts.texts === room.facts.filled;
    return addressed && !CONVERSATIONS.test(room.name)
      ? { key, participants: key, own, ...groups }
      : { key, participants: key, own, collect: true };
  }
  const conversations = tables.get(link.to)!;
  const through = (inner: Expression): Expression => lookUp(link.to, link.key, key, inner);
  const label = labelOf(conversations, tables, links);
  const title = titleOf(context, room, ways);
  const members = membersOf(context, conversations, link, room, own);
  if (members) return { key, participants: members, own, ...title };
  if (isPeople(conversations)) {
    const people = { key, participants: addressOf(context, room, PEOPLE), own };
    return 'collect' in groups ? { ...people, ...groups, ...title } : people;
  }
  if (!label.address) return { key, participants: key, own, collect: true, ...title };
  const parties = [label.address, label.name].flatMap((e) => (e ? [through(e)] : []));
  return { key, participants: { first: parties }, own, ...groups, ...title };
}

/** What the tables that know a conversation call it. */
function titleOf(
  { tables, links }: Context,
  room: Field,
  ways: readonly Link[]
): { title?: Expression } {
  const titles = ways.flatMap(({ to, key }) => {
    const { name } = labelOf(tables.get(to)!, tables, links);
    return name ? [lookUp(to, key, room.expression, name)] : [];
  });
  if (titles.length === 0) return {};
  return { title: titles.length === 1 ? titles[0]! : { first: titles } };
}

/** Whether more than two write in some conversation. */
function hasGroups(room: Field, sender: Field | null): boolean {
  if (!sender || sender === room) return false;
  const writers = new Map<string, Set<string>>();
  room.values.forEach((value, i) => {
    const key = String(value);
    writers.set(key, (writers.get(key) ?? new Set()).add(String(sender.values[i])));
  });
  return [...writers.values()].some((set) => set.size > 2);
}

function membersOf(
  { tables, links }: Context,
  conversations: SampledTable,
  link: Link,
  room: Field,
  own: string[]
): Expression | null {
  const members = membersThrough(conversations.name, tables, links);
  if (!members) return null;
  const { to, key: personKey, column } = members.person;
  const label = personLabel(tables.get(to)!, tables, links);
  const inner = [label.address, label.name].flatMap((e) => e ?? []);
  if (inner.length === 0) return null;
  const person = lookUp(to, personKey, { column }, { first: inner });
  const others: Expression =
    own.length > 0 ? { when: { value: { column }, not: own }, then: person } : person;
  const key = lookUp(link.to, link.key, room.expression, { column: link.key });
  return lookUp(
    members.table,
    members.conversation,
    link.key === room.name ? room.expression : { first: [key, room.expression] },
    others
  );
}
