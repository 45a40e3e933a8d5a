import { append } from '../../host';
import type { LiveRow, SqlValue, TableSchema } from '../../sqlite';
import { evaluate, type Scope } from '../expression';
import { fieldsIn, parseJson } from '../json-field';
import { formOf, textOfBytes, type TextForm } from '../packed-text';
import { lookUp, type Expression } from '../profile';
import { taggedPaths } from '../tagged-fields';
import { TableSet, type ReadableTable, type StoreRow } from '../tables';
import { columnFacts, type ColumnFacts } from './column';
import { linksOfValues, type Link } from './links';
import { SAMPLE_ROWS, type SampledTable } from './sample';

/** Something that can be told of each row of a table: a column of its own, of a table beside it, or something inside one. */
export interface Field {
  facts: ColumnFacts;
  expression: Expression;
  /** Values for the sampled rows of the root. */
  values: SqlValue[];
  /** The table and the column in which it lies. */
  table: string;
  name: string;
  /** Tables on the way. */
  hops: number;
  /** It lies inside a column's value, or in rows made for the message. */
  isInside: boolean;
}

const MOST_HOPS = 3;
const MOST_FIELDS = 400;
/** Kinds of values inside columns are judged by so many rows. */
const JUDGED = 300;

/** All that can be told of a root's rows, its own columns first. */
export class RowFields {
  readonly fields: Field[];
  private readonly rows: StoreRow[];
  private readonly inner = new Map<Field, Link[]>();
  private readonly scope: Scope;

  constructor(
    private readonly root: SampledTable,
    private readonly tables: ReadonlyMap<string, SampledTable>,
    private readonly links: readonly Link[],
    set: TableSet,
    readonly key: string
  ) {
    this.scope = { tables: set, key };
    this.rows = set.get(root.name)!.rows.slice(0, SAMPLE_ROWS);
    this.fields = this.own();
    this.join();
    this.addParts();
    this.open();
  }

  /** What an expression gives for each sampled row. */
  valuesOf(expression: Expression): SqlValue[] {
    return this.rows.map((row) => evaluate(expression, row, this.scope)[0] ?? null);
  }

  /** Links of a field to other tables, those to tables of the given sense first. */
  linksOf(field: Field, sense: RegExp): Link[] {
    const own = field.isInside
      ? this.insideLinks(field)
      : this.links.filter(({ from, column }) => from === field.table && column === field.name);
    const rank = (link: Link): number => (sense.test(link.to) ? 0 : 1);
    return [...own].sort((a, b) => rank(a) - rank(b));
  }

  /** Links of what an expression gives to tables of people, by its values. */
  linksOfValues(table: string, expression: Expression): Link[] {
    const facts = columnFacts('', this.valuesOf(expression));
    return [...this.tables.values()].flatMap((to) => {
      const key = to.name === table ? undefined : to.keys.find((name) => overlaps(to, name, facts));
      return key === undefined
        ? []
        : [{ from: table, column: '', to: to.name, key, declared: false }];
    });
  }

  private insideLinks(field: Field): Link[] {
    let known = this.inner.get(field);
    if (!known) {
      known = linksOfValues(field.table, field.facts, this.tables.values());
      this.inner.set(field, known);
    }
    return known;
  }

  private own(): Field[] {
    const { root } = this;
    return root.schema.columns.map((column, i) => ({
      facts: root.columns[i]!,
      expression: { column: column.name },
      values: this.rows.map(({ values }) => values[i] ?? null),
      table: root.name,
      name: column.name,
      hops: 0,
      isInside: false
    }));
  }

  private make(from: Omit<Field, 'facts' | 'values'>): Field {
    const values = this.valuesOf(from.expression);
    return { ...from, values, facts: columnFacts(from.name, values) };
  }

  /** Columns of the tables that columns refer to. */
  private join(): void {
    const visited = new Set<string>();
    for (let i = 0; i < this.fields.length && this.fields.length < MOST_FIELDS; i++) {
      const from = this.fields[i]!;
      if (from.hops >= MOST_HOPS) continue;
      for (const link of this.links) {
        if (link.from !== from.table || link.column !== from.name || link.to === this.root.name)
          continue;
        const way = `${from.table}.${from.name}>${link.to}.${link.key}`;
        if (visited.has(way)) continue;
        visited.add(way);
        append(this.fields, this.joined(from, link));
      }
    }
  }

  private joined(from: Field, link: Link): Field[] {
    const to = this.tables.get(link.to)!;
    return to.schema.columns
      .filter(({ name }) => name !== link.key)
      .map(({ name }) =>
        this.make({
          expression: lookUp(to.name, link.key, from.expression, { column: name }),
          table: to.name,
          name,
          hops: from.hops + 1,
          isInside: false
        })
      );
  }

  /** Texts kept in a table of their own, one row a message or one a part of it. */
  private addParts(): void {
    for (const link of this.links) {
      if (link.to !== this.root.name || this.fields.length >= MOST_FIELDS) continue;
      const child = this.tables.get(link.from)!;
      if (child.rows.length < LEAST_PARTS || child.rows.length > this.root.rows.length * MOST_PARTS)
        continue;
      for (const column of child.columns)
        if (column.name !== link.column && isText(column))
          this.fields.push(this.partsOf(child, link, child, column.name, (take) => take));
      this.addPartsBehind(child, link);
    }
  }

  /** Texts in a table that the parts only refer to. */
  private addPartsBehind(child: SampledTable, link: Link): void {
    for (const further of this.links) {
      if (further.from !== child.name || further.column === link.column) continue;
      if (further.to === this.root.name || this.fields.length >= MOST_FIELDS) continue;
      const last = this.tables.get(further.to)!;
      const through = (take: Expression): Expression =>
        lookUp(last.name, further.key, { column: further.column }, take);
      for (const column of last.columns)
        if (column.name !== further.key && isText(column))
          this.fields.push(this.partsOf(child, link, last, column.name, through));
    }
  }

  private partsOf(
    child: SampledTable,
    link: Link,
    last: SampledTable,
    column: string,
    through: (take: Expression) => Expression
  ): Field {
    const order = orderOf(child, link.column);
    const lookup = {
      table: child.name,
      match: link.column,
      from: { column: link.key },
      ...(order === null ? {} : { order })
    };
    const form = formOfValues(last.rows.slice(0, JUDGED).map((row) => row[last.index(column)]));
    const take: Expression = form ? { textOf: { column }, form } : { column };
    const each: Expression = { lookup, take: through(take) };
    const several = this.rows.some((row) => evaluate(each, row, this.scope).length > 1);
    const expression = several ? { joined: each, by: this.seam(each) } : each;
    const hops = last === child ? 1 : 2;
    return this.make({ expression, table: last.name, name: column, hops, isInside: true });
  }

  /** What stands between the parts of a text: nothing where it was cut wherever it was full. */
  private seam(each: Expression): string {
    let cut = 0;
    let seams = 0;
    for (const row of this.rows) {
      const parts = evaluate(each, row, this.scope).map(String);
      for (let i = 1; i < parts.length; i++) {
        seams++;
        const [before, after] = [parts[i - 1]!, parts[i]!];
        if (
          /\s$/.test(before) ||
          /^\s/.test(after) ||
          (/\p{L}$/u.test(before) && /^\p{Ll}/u.test(after))
        )
          cut++;
      }
    }
    return cut >= seams * 0.5 ? '' : '\n';
  }

  /** What lies inside bytes that are texts and inside texts that are records. */
  private open(): void {
    for (let i = 0; i < this.fields.length && this.fields.length < MOST_FIELDS; i++) {
      const field = this.fields[i]!;
      const { facts, expression } = field;
      if (facts.blobs > 0 && facts.blobs >= facts.filled * 0.9) {
        const form = formOfValues(field.values.filter((value) => value !== null).slice(0, JUDGED));
        if (form)
          this.fields.push(
            this.make({ ...field, expression: { textOf: expression, form }, isInside: true })
          );
        else append(this.fields, this.tagged(field));
      } else if (facts.texts > 0 && facts.texts === facts.filled)
        append(this.fields, this.inside(field));
    }
  }

  /** Numbered fields in bytes that are made up of them. */
  private tagged(field: Field): Field[] {
    const seen = new Map<string, { path: number[]; count: number }>();
    const blobs = field.values.filter((v): v is Uint8Array => v instanceof Uint8Array);
    const judged = blobs.slice(0, JUDGED);
    for (const bytes of judged)
      for (const path of taggedPaths(bytes)) {
        const key = path.join('.');
        seen.set(key, { path, count: (seen.get(key)?.count ?? 0) + 1 });
      }
    const often = [...seen.values()].filter(({ count }) => count >= judged.length * 0.5);
    return often.slice(0, MOST_INSIDE).map(({ path }) =>
      this.make({
        expression: { tagged: field.expression, path },
        table: field.table,
        name: `${field.name} ${path.join('.')}`,
        hops: field.hops,
        isInside: true
      })
    );
  }

  private inside(field: Field): Field[] {
    const seen = new Map<string, { path: string[]; count: number }>();
    const texts = field.values.filter((v): v is string => typeof v === 'string' && v !== '');
    const judged = texts.slice(0, JUDGED);
    let records = 0;
    for (const text of judged) {
      const value = parseJson(text);
      if (typeof value !== 'object' || value === null || Array.isArray(value)) continue;
      records++;
      for (const path of fieldsIn(value)) {
        const key = JSON.stringify(path);
        seen.set(key, { path, count: (seen.get(key)?.count ?? 0) + 1 });
      }
    }
    if (records < Math.max(2, judged.length * 0.8)) return [];
    const often = [...seen.values()].filter(({ count }) => count >= records * 0.02);
    return often.slice(0, MOST_INSIDE).map(({ path }) =>
      this.make({
        expression: { json: field.expression, path },
        table: field.table,
        name: path.slice(-2).join('_'),
        hops: field.hops,
        isInside: true
      })
    );
  }
}

/** Texts, or bytes that may be some. */
function isText({ wording, blobs, filled }: ColumnFacts): boolean {
  return (wording?.score ?? 0) > 0.3 || (blobs > 0 && blobs > filled * 0.9);
}

/** Whether most rows of a table are named by values of a column. */
function overlaps(
  to: SampledTable,
  key: string,
  { frequent, texts, filled }: ColumnFacts
): boolean {
  const column = to.column(key)!;
  if (texts < filled || column.texts < column.filled || column.filled < 2) return false;
  const values = to.valuesOf(key);
  const shared = [...frequent.keys()].filter((value) => values.has(value)).length;
  return shared >= Math.max(2, Math.min(values.size, frequent.size) * 0.5);
}

const LEAST_PARTS = 3;
/** Parts of a message at most, on the average. */
const MOST_PARTS = 6;
const MOST_INSIDE = 40;

/** A column whose small numbers tell the order of parts. */
function orderOf(child: SampledTable, link: string): string | null {
  const found = child.columns.find(
    ({ name, numbers, filled, rows }) =>
      name !== link &&
      /(seq|part_?no|idx|index|ord|pos|number)/i.test(name) &&
      filled === rows &&
      numbers === rows
  );
  return found?.name ?? null;
}

/** The one form in which nearly all byte values read as texts; null when there is none. */
function formOfValues(values: readonly (SqlValue | undefined)[]): TextForm | null {
  const blobs = values.filter((v): v is Uint8Array => v instanceof Uint8Array && v.length > 0);
  if (blobs.length < 2 || blobs.length < values.filter((v) => v !== null).length * 0.9) return null;
  const counts = new Map<TextForm, number>();
  for (const blob of blobs) {
    const form = formOf(blob);
    if (form) counts.set(form, (counts.get(form) ?? 0) + 1);
  }
  const [best] = [...counts].sort((a, b) => b[1] - a[1]);
  if (!best || best[1] < blobs.length * 0.6) return null;
  // Short values read in several forms; the frequent one must not contradict them.
  const readable = blobs.filter((blob) => textOfBytes(blob, best[0]) !== null).length;
  return readable >= blobs.length * 0.9 ? best[0] : null;
}

/** Samples as a set of tables that expressions are evaluated in. */
export function tableSetOf(samples: readonly SampledTable[]): TableSet {
  return new TableSet(
    samples.map(({ schema, rows }) => ({
      schema,
      dropped: false,
      live: rows.map(asLive),
      freed: []
    }))
  );
}

/** Rows of one table as a set that expressions are evaluated in. */
export function tableOfRows(schema: TableSchema, rows: readonly SqlValue[][]): TableSet {
  return new TableSet([readableRows(schema, rows)]);
}

/** Rows as those of a table that is read. */
export function readableRows(schema: TableSchema, rows: readonly SqlValue[][]): ReadableTable {
  return { schema, dropped: false, live: rows.map(asLive), freed: [] };
}

function asLive(values: SqlValue[], i: number): LiveRow {
  return {
    rowid: i + 1,
    values,
    page: 0,
    file: '',
    offset: 0,
    length: 0,
    hash: 0,
    stored: values.length
  };
}
