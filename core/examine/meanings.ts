import type { ReadingProfile } from '../profiles';
import type { TableSchema } from '../sqlite';

/** Columns that a table must share with one whose meaning is known to be of its kind. */
const LEAST_SHARED = 0.6;

/**
 * Tables of a source that known profiles read as calls or contacts. What has
 * a meaning in one file has it in its copies and older versions too, and is
 * not read as messages there.
 */
export class Meanings {
  private readonly known: { name: string; columns: Set<string> }[] = [];

  /** Takes note of what profiles read of a database. */
  add(profiles: readonly ReadingProfile[], tables: readonly TableSchema[]): void {
    const read = new Set(
      profiles.flatMap(({ calls = [], contacts = [] }) =>
        [...calls, ...contacts].map(({ table }) => table.toLowerCase())
      )
    );
    for (const { name, columns } of tables)
      if (read.has(name.toLowerCase()))
        this.known.push({ name: name.toLowerCase(), columns: namesOf(columns) });
  }

  /** Names of the tables, in lower case, whose meaning is known from elsewhere. */
  closed(tables: readonly TableSchema[]): string[] {
    return tables.filter((table) => this.isKnown(table)).map(({ name }) => name.toLowerCase());
  }

  private isKnown({ name, columns }: TableSchema): boolean {
    const own = namesOf(columns);
    return this.known.some((known) => {
      if (known.name !== name.toLowerCase()) return false;
      const shared = [...own].filter((column) => known.columns.has(column)).length;
      return shared >= Math.min(own.size, known.columns.size) * LEAST_SHARED;
    });
  }
}

function namesOf(columns: TableSchema['columns']): Set<string> {
  return new Set(columns.map(({ name }) => name.toLowerCase()));
}
