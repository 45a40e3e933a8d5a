import type { SqlValue } from '../../sqlite';
import { columnFacts, isMoment } from './column';
import { nameOf, plainName, type Context, type Fit } from './context';
import { ownerByPresence } from './direction';
import type { Field, RowFields } from './fields';
import { talksOf } from './guessed-parties';
import { CONVERSATIONS } from './people';
import { PEER_NAME } from './person';
import { isPeople } from './shape';

export function conversation({ fields, rows }: Context, fit: Fit): Field | null {
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
  const best = scored[0]
    ? beyondSessions(scored[0].field, fields, rows)
    : oneOrTheOther(fields, rows);
  if (best)
    fit.add(13, `${nameOf(best)} tells conversations apart (${best.facts.distinct} in the sample)`);
  return best;
}

/** Names of columns that hold a group. */
const GROUP = /(group|grp|chat|room|channel|conv|muc)/i;
const MOSTLY = 0.98;

/** Two columns of which each row fills one: the group, or else the other party. */
function oneOrTheOther(fields: readonly Field[], rows: RowFields): Field | null {
  const texts = fields.filter(
    ({ facts, hops, isInside }) =>
      hops === 0 && !isInside && facts.texts > 0 && facts.texts === facts.filled
  );
  for (const group of texts.filter(({ name }) => GROUP.test(name)))
    for (const peer of texts.filter(({ name }) => PEER_NAME.test(plainName(name)))) {
      if (group === peer || group.facts.filled === group.facts.rows) continue;
      const fits = group.values.filter((value, i) => isThere(value) !== isThere(peer.values[i]));
      if (fits.length < group.values.length * MOSTLY) continue;
      const expression = { first: [group.expression, peer.expression] };
      const values = rows.valuesOf(expression);
      const name = `${peer.name} or ${group.name}`;
      return { ...peer, expression, values, name, facts: columnFacts(name, values) };
    }
  return null;
}

function isThere(value: SqlValue | undefined): boolean {
  return value !== null && value !== undefined && value !== '';
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

export function own({ fields }: Context, name: string | null): Field | null {
  return fields.find((field) => field.hops === 0 && field.name === name && !field.isInside) ?? null;
}

/** A conversation that is one by the tables around it. */
export function byMembers(context: Context, name: string | null, fit: Fit): Field | null {
  const field = own(context, name);
  if (field) fit.add(10, `${nameOf(field)} refers to a table whose rows have members`);
  return field;
}

/** A column that refers to a table of no people, in nearly all of whose rows one person writes, and the others in few: conversations, whatever they are called. */
export function byWriters(context: Context, writer: Field | null, fit: Fit): Field | null {
  if (!writer) return null;
  const field = context.fields.find((candidate) => {
    const { facts, hops, isInside } = candidate;
    if (candidate === writer || hops > 0 || isInside || isMoment(facts)) return false;
    if (facts.filled < facts.rows * MOSTLY || facts.distinct < 2) return false;
    const [link] = context.rows.linksOf(candidate, CONVERSATIONS);
    if (!link || link.to === context.root.name || isPeople(context.tables.get(link.to)!))
      return false;
    return ownerByPresence(talksOf(writer, candidate)) !== null;
  });
  if (!field) return null;
  fit.add(10, `${nameOf(field)} parts the rows by who writes to whom`);
  return field;
}
