import { isMoment } from './column';
import { nameOf, plainName, type Context, type Fit } from './context';
import type { Field, RowFields } from './fields';
import { CONVERSATIONS } from './people';

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

export function own({ fields }: Context, name: string | null): Field | null {
  return fields.find((field) => field.hops === 0 && field.name === name && !field.isInside) ?? null;
}

/** A conversation that is one by the tables around it. */
export function byMembers(context: Context, name: string | null, fit: Fit): Field | null {
  const field = own(context, name);
  if (field) fit.add(10, `${nameOf(field)} refers to a table whose rows have members`);
  return field;
}
