import { append } from '../../bytes';
import type { SqlValue } from '../../sqlite';
import { lookUp, type Expression } from '../profile';
import { columnFacts, type ColumnFacts } from './column';
import type { Link } from './links';
import { SAMPLE_ROWS, type SampledTable } from './sample';

/** A column as seen from the rows of a table: its own, or one of a table that it refers to. */
export interface VirtualColumn {
  facts: ColumnFacts;
  expression: Expression;
  /** Values for the sampled rows of the root. */
  values: SqlValue[];
  table: string;
  name: string;
  hops: number;
}

const MOST_HOPS = 2;
const MOST_COLUMNS = 300;

/** Everything that can be told of a root's rows, its own columns first. */
export function virtualColumns(
  root: SampledTable,
  tables: ReadonlyMap<string, SampledTable>,
  links: readonly Link[]
): VirtualColumn[] {
  const rows = root.rows.slice(0, SAMPLE_ROWS);
  const out = root.schema.columns.map((column, i): VirtualColumn => ({
    facts: root.columns[i]!,
    expression: { column: column.name },
    values: rows.map((row) => row[i] ?? null),
    table: root.name,
    name: column.name,
    hops: 0
  }));
  const visited = new Set([root.name]);
  for (let i = 0; i < out.length && out.length < MOST_COLUMNS; i++) {
    const from = out[i]!;
    if (from.hops >= MOST_HOPS) continue;
    for (const link of links) {
      if (link.from !== from.table || link.column !== from.name) continue;
      const seen = `${from.table}.${from.name}>${link.to}`;
      if (visited.has(link.to) || visited.has(seen)) continue;
      visited.add(seen);
      append(out, joined(from, link, tables.get(link.to)!));
    }
  }
  return out;
}

function joined(from: VirtualColumn, link: Link, to: SampledTable): VirtualColumn[] {
  const at = to.index(link.key);
  const byKey = new Map(to.rows.map((row) => [String(row[at]), row]));
  const rows = from.values.map((value) => (value === null ? undefined : byKey.get(String(value))));
  return to.schema.columns.flatMap((column, i): VirtualColumn[] => {
    if (column.name === link.key) return [];
    const values = rows.map((row) => row?.[i] ?? null);
    return [
      {
        facts: columnFacts(column.name, values),
        expression: lookUp(to.name, link.key, from.expression, { column: column.name }),
        values,
        table: to.name,
        name: column.name,
        hops: from.hops + 1
      }
    ];
  });
}
