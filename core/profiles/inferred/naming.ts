import { lookUp, type Expression, type NameField } from '../profile';
import type { Context, FoundParties } from './context';
import type { Field } from './fields';
import { nameBeside, PEOPLE, personLabel } from './people';

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
