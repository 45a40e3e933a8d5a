import type { SqlValue } from '../../sqlite';
import { isMoment } from './column';
import { type Context, type FoundParties, plainName } from './context';
import type { Field } from './fields';
import { RECIPIENT } from './links';
import { CONVERSATIONS, PEOPLE } from './people';

export const SENDER_NAME =
  /(sender|author|from|speaker|nick|who|creator|writer|user|source|talker)/i;

export const PEER_NAME =
  /(counterpart|peer|partner|contact|remote|buddy|jid|address|handle|number|phone|participant|friend|recipient|identity)/i;

const FLAG_NAME =
  /(from_?me|is_?from|_type$|resource|(^|_)counts?$|status|state|flag|device|self$)/i;

/** A column filled in so few rows names somebody beside the parties. */
const RARE = 0.3;

/** A column that names a person in the given part. */
export function person(
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
      // What people write names nobody; names read like words too.
      if ((facts.wording?.score ?? 0) > 0.75 && facts.wording!.named < 0.75) return [];
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

/** Whether a column of another table says something of each row: what people are called is theirs, and who made a conversation is the conversation's. */
function isOfRows({ table, facts, isInside }: Field, role: RegExp): boolean {
  if (isInside) return true;
  if (facts.distinct < 2 || PEOPLE.test(table)) return false;
  return role !== SENDER_NAME || !CONVERSATIONS.test(table);
}

/** A text that is JSON names nobody; its fields may. */
function isRecord({ frequent }: Field['facts']): boolean {
  const [first] = frequent.keys();
  return first !== undefined && /^\s*[{[]/.test(first);
}

/** Conversations that must be large for what stands in all of them to be no person. */
const LEAST_LARGE = 3;

/** More different values than these are not all in every conversation. */
const MOST_EVERYWHERE = 6;

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
