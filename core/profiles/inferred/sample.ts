import type { SqlValue, TableSchema } from '../../sqlite';
import { columnFacts, type ColumnFacts } from './column';

/** Rows that are enough to judge a column. */
export const SAMPLE_ROWS = 3000;
/** Rows of a table whose keys are looked up; people and conversations are never more. */
export const KEY_ROWS = 20_000;

/** A table with a sample of its rows. */
export class SampledTable {
  readonly name: string;
  readonly columns: ColumnFacts[];
  /** Columns whose values are all different: what other tables may refer to. */
  readonly keys: string[];
  /** Column to the table that the declaration says it refers to, in lower case. */
  readonly references = new Map<string, { table: string }>();
  private readonly values = new Map<string, Set<string>>();

  constructor(
    readonly schema: TableSchema,
    readonly rows: SqlValue[][],
    /** All rows are in the sample. */
    readonly complete: boolean
  ) {
    this.name = schema.name;
    const judged = rows.slice(0, SAMPLE_ROWS);
    this.columns = schema.columns.map((column, i) =>
      columnFacts(
        column.name,
        judged.map((row) => row[i] ?? null)
      )
    );
    this.keys = this.columns.filter((facts, i) => this.isKey(facts, i)).map(({ name }) => name);
    for (const [column, table] of declaredReferences(schema.sql)) {
      this.references.set(column, { table });
    }
  }

  private isKey(facts: ColumnFacts, at: number): boolean {
    if (this.schema.columns[at]!.isRowid) return true;
    if (facts.filled < facts.rows || facts.blobs > 0 || facts.rows === 0) return false;
    if (facts.clock !== null && facts.numbers > 0 && !IS_ID.test(facts.name)) return false;
    return facts.distinct === facts.rows && (facts.wording?.score ?? 0) < 0.5;
  }

  column(name: string): ColumnFacts | undefined {
    return this.columns.find((facts) => facts.name.toLowerCase() === name.toLowerCase());
  }

  index(name: string): number {
    return this.schema.columns.findIndex((c) => c.name.toLowerCase() === name.toLowerCase());
  }

  valuesOf(column: string): ReadonlySet<string> {
    let known = this.values.get(column);
    if (!known) {
      const at = this.index(column);
      known = new Set(this.rows.map((row) => String(row[at])));
      this.values.set(column, known);
    }
    return known;
  }
}

/** Long numbers called ids may be taken for times. */
const IS_ID = /(^|_|[a-z])(id|ID|Id|uid)$/;

const REFERENCES =
  /(?:foreign\s+key\s*\(\s*["`[]?(\w+)["`\]]?\s*\)|["`[]?(\w+)["`\]]?\s+\w[^,()]*?)\s*references\s+["`[]?(\w+)/gi;

/** Columns with the tables that a declaration says they refer to. */
function declaredReferences(sql: string): [string, string][] {
  const found: [string, string][] = [];
  for (const [, listed, own, table] of sql.matchAll(REFERENCES)) {
    found.push([(listed ?? own)!.toLowerCase(), table!.toLowerCase()]);
  }
  return found;
}
