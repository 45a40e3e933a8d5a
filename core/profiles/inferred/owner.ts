import { plainName, type Context } from './context';
import type { Field } from './fields';
import type { Link } from './links';
import { PEOPLE } from './people';

interface Self {
  own: string[];
  reason: string;
}

const OWN_TABLE =
  /(account|self|owner|my_?profile|identity|identities|^me$|^user$|settings|config)/i;

/** The writers that accounts, folders, or rows that say it of themselves, name as the owner. */
export function selfNamed(context: Context, sender: Field, room: Field | null): Self | null {
  const used = new Set(sender.facts.frequent.keys());
  const link = context.rows.linksOf(sender, PEOPLE)[0] ?? null;
  return (
    inColumn(context, used) ??
    inAccounts(context, used, link) ??
    inPath(context.path, sender, room) ??
    (link ? selfMarked(context, link, used) : null)
  );
}

/** A column that is the same in all rows, called after the account or the owner, with one of the writers in it. */
function inColumn({ fields }: Context, used: ReadonlySet<string>): Self | null {
  for (const { name, hops, facts } of fields) {
    if (hops > 0 || facts.distinct !== 1 || !OWN_COLUMN.test(plainName(name))) continue;
    const [value] = facts.frequent.keys();
    const own = [...used].filter(
      (writer) => writer.replace(/\/.*$/, '').toLowerCase() === value!.toLowerCase()
    );
    if (own.length > 0) return { own, reason: `column ${name} names the owner: ${own.join(', ')}` };
  }
  return null;
}

const OWN_COLUMN = /(^|_)(account|owner|self|me|my|own|local|user)(_|$)/;

function inAccounts(
  { root, tables }: Context,
  used: ReadonlySet<string>,
  link: Link | null
): Self | null {
  for (const [name, table] of tables) {
    if (!OWN_TABLE.test(plainName(name)) || table.rows.length > 20 || table === root) continue;
    if (link?.to === name) continue;
    const texts = new Set(
      table.rows.flat().filter((v): v is string => typeof v === 'string' && v.length > 2)
    );
    const own = [...texts].filter((text) => used.has(text));
    if (own.length > 0 && own.length <= 3)
      return { own, reason: `table ${name} names the owner: ${own.join(', ')}` };
    const linked = link ? linkedTo(tables, link, texts) : [];
    if (linked.length > 0 && linked.length <= 3)
      return {
        own: linked,
        reason: `table ${name} names the owner, who is number ${linked.join(', ')} of ${link!.to}`
      };
  }
  return null;
}

/** Keys of the people who are called by one of the texts. */
function linkedTo(tables: Context['tables'], link: Link, texts: ReadonlySet<string>): string[] {
  const people = tables.get(link.to)!;
  const key = people.index(link.key);
  return people.rows
    .filter((row) => row.some((value) => typeof value === 'string' && texts.has(value)))
    .map((row) => String(row[key]));
}

/** One writer's name as a folder's, where no other writer's stands there and that one writes in most conversations: else it may be the other party's. */
function inPath(path: string, sender: Field, room: Field | null): Self | null {
  const folders = new Set(path.toLowerCase().split('/').slice(0, -1));
  const own = [...sender.facts.frequent.keys()].filter(
    (name) => name.length > 2 && folders.has(name.toLowerCase())
  );
  if (own.length !== 1 || !isInMost(own[0]!, sender, room)) return null;
  const reason = `the file lies in a folder called ${own[0]}, as one of the writers is called`;
  return { own, reason };
}

function isInMost(name: string, sender: Field, room: Field | null): boolean {
  if (!room || room === sender) return true;
  const all = new Set(room.values.map(String));
  const own = new Set(
    room.values.flatMap((value, i) => (String(sender.values[i]) === name ? [String(value)] : []))
  );
  return all.size >= 2 && own.size >= all.size * 0.5;
}

function selfMarked({ tables }: Context, link: Link, used: ReadonlySet<string>): Self | null {
  const people = tables.get(link.to)!;
  const key = people.index(link.key);
  for (const column of people.columns) {
    if (
      !/(is_?self|is_?me|^self$|^me$|is_?owner|is_?own|is_?user|is_?account)/i.test(
        plainName(column.name)
      )
    )
      continue;
    const at = people.index(column.name);
    const own = people.rows.filter((row) => Number(row[at]) === 1).map((row) => String(row[key]));
    if (own.length > 0 && own.length <= 3 && own.some((id) => used.has(id)))
      return { own, reason: `column ${column.name} of ${link.to} marks the owner` };
  }
  return null;
}
