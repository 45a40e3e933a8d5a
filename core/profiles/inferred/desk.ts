import type { Database, SqlValue } from '../../sqlite';
import { schemaFingerprint } from '../fit';
import type { Clock, Expression } from '../profile';
import { findLinks } from './links';
import { samplesOf } from './database';
import { RowFields, tableSetOf } from './fields';
import type { OfferedReading, WorkedOut } from './types';
import { possibleReadings, workOut } from './work-out';

/** A table as the profile desk shows it, with what may be chosen for its rows. */
export interface DeskTable {
  name: string;
  rows: number;
  /** There are more rows than were counted. */
  more: boolean;
  columns: DeskColumn[];
}

/** A column of the table, or of one that it refers to. */
export interface DeskColumn {
  label: string;
  expression: Expression;
  samples: string[];
  /** The clock under which its values are times, where they are. */
  clock: Clock | null;
  /** Its few different values, where they are few. */
  values: string[];
}

/** Everything that is needed to check and correct a mapping. */
export interface ProfileDesk {
  fingerprint: string;
  tables: DeskTable[];
  worked: WorkedOut | null;
  /** Other tables that may hold messages. */
  offered: OfferedReading[];
}

const SAMPLES = 4;
const MOST_VALUES = 12;
const MOST_COLUMNS = 80;

/** Opens the profile desk over a database. */
export function openDesk(database: Database): ProfileDesk {
  const samples = [...samplesOf(database)];
  const byName = new Map(samples.map((table) => [table.name, table]));
  const links = findLinks(samples);
  const set = tableSetOf(samples);
  const tables = samples
    .filter(({ rows }) => rows.length > 0)
    .map((table): DeskTable => {
      const { fields } = new RowFields(table, byName, links, set, 'rowid');
      const columns = fields.slice(0, MOST_COLUMNS);
      return {
        name: table.name,
        rows: table.rows.length,
        more: !table.complete,
        columns: columns.map(({ facts, expression, values, hops, isInside, table: of, name }) => ({
          label: hops > 0 ? `${name} of ${of}` : isInside ? `${name} inside ${of}` : name,
          expression,
          samples: shown(values),
          clock: facts.clock?.clock ?? null,
          values: facts.distinct <= MOST_VALUES ? [...facts.frequent.keys()].sort() : []
        }))
      };
    });
  tables.sort((a, b) => b.rows - a.rows);
  return {
    fingerprint: schemaFingerprint(database.tables),
    tables,
    worked: workOut(samples),
    offered: possibleReadings(samples)
  };
}

function shown(values: SqlValue[]): string[] {
  const texts = values.flatMap((value) => {
    if (value === null || value === '') return [];
    return value instanceof Uint8Array ? [`${value.length} bytes`] : [String(value).slice(0, 120)];
  });
  return [...new Set(texts)].slice(0, SAMPLES);
}
