import { hashAscii, hashText, type NumberIndex, type TextEncoding } from '../host';
import type { RecordCursor, TableSchema } from '../sqlite';
import { counted, factsOf, possibleMoment, toMilliseconds, type ClockFacts } from './clock';
import { ColumnIndex } from './column-index';
import { joinedValue, packJoin, unpackJoin, type PackedJoin, type PlainJoin } from './joins';
import type { Clock, Expression, Lookup, MessageMapping, RowTest, TimeField } from './profile';
import { askedColumns } from './row';
import { namesNumber, type TableSet, type TableView } from './tables';

/** A time that is read from one stored value. */
export interface PlainTime {
  at: number;
  clock: Clock;
  facts: ClockFacts | null;
  /** Zone of texts without one. */
  zone: string | undefined;
}

/** Rows of another table that would belong to a message. */
interface Link {
  /** Values of the column by which they refer. */
  column: ColumnIndex;
  /** Stored value that they refer to; -1 for the row number. */
  from: number;
}

/**
 * What must be known of a table to write its ordinary rows without making
 * messages of them. Numbers are places in the stored record.
 */
export interface PlainRows {
  /** Name of the table. */
  name: string;
  encoding: TextEncoding;
  /** Values that a record of today's columns holds. */
  stored: number;
  body: number;
  sentAt: PlainTime;
  deliveredAt: PlainTime | null;
  readAt: PlainTime | null;
  unique: number;
  /** Values that settle conversation, writer, direction and whether it is a message at all. */
  context: number[];
  /** Values that say more of a message where they are there; `zero` means that 0 says nothing either. */
  extras: { at: number; zero: boolean }[];
  links: Link[];
  /** Tables that link a row by its number to what settles its context too. */
  joins: PlainJoin[];
  /** What they say of the row that {@link isPlain} was asked about last. */
  joined: Float64Array;
}

/** The same in a form that can be handed to another thread. */
export interface PackedPlain extends Omit<PlainRows, 'links' | 'joins'> {
  links: { keys: Float64Array; from: number }[];
  joins: PackedJoin[];
}

export function packPlain(rows: PlainRows): PackedPlain {
  return {
    ...rows,
    links: rows.links.map(({ column, from }) => ({ keys: column.keys, from })),
    joins: rows.joins.map(packJoin)
  };
}

export function unpackPlain(rows: PackedPlain): PlainRows {
  return {
    ...rows,
    links: rows.links.map(({ keys, from }) => ({ column: new ColumnIndex(keys), from })),
    joins: rows.joins.map(unpackJoin),
    joined: new Float64Array(rows.joins.length)
  };
}

/** Thrown inside {@link plainRows} where a mapping needs more than a row's own values. */
class NotPlain extends Error {}

/** The plain rows of a mapping; null where what a message says cannot be told from its own values. */
export function plainRows(
  mapping: MessageMapping,
  table: TableView,
  tables: TableSet,
  clockOf: (field: TimeField) => Clock
): PlainRows | null {
  if (!table.large) return null;
  try {
    return new PlainBuilder(mapping, table, tables, clockOf).build();
  } catch (error) {
    if (error instanceof NotPlain) return null;
    throw error;
  }
}

/** A column of another table, by a column that holds row numbers of this one. */
interface Join {
  view: TableView;
  match: string;
  take: string;
}

class PlainBuilder {
  private readonly context = new Set<number>();
  private readonly extras = new Map<number, boolean>();
  private readonly links: Link[] = [];
  /** By the names of table and columns. */
  private readonly joins = new Map<string, PlainJoin>();

  constructor(
    private readonly mapping: MessageMapping,
    private readonly table: TableView,
    private readonly tables: TableSet,
    private readonly clockOf: (field: TimeField) => Clock
  ) {}

  build(): PlainRows {
    const { mapping, table } = this;
    const { body, sentAt, deliveredAt, readAt, unique } = mapping;
    this.readContext();
    this.readExtras();
    return {
      name: table.schema.name,
      encoding: table.large!.encoding,
      stored: table.schema.order.length,
      body: this.bodyAt(body),
      sentAt: this.time(sentAt)!,
      deliveredAt: this.time(deliveredAt),
      readAt: this.time(readAt),
      unique: unique === undefined ? -1 : this.storedAt(unique),
      context: [...this.context].sort((a, b) => a - b),
      extras: [...this.extras].map(([at, zero]) => ({ at, zero })),
      links: this.links,
      joins: [...this.joins.values()],
      joined: new Float64Array(this.joins.size)
    };
  }

  private readContext(): void {
    const { only, system, direction, sender, thread, reactionOf } = this.mapping;
    const tests: RowTest[] = [...(only ?? []), ...(system ?? [])];
    if (reactionOf) tests.push(reactionOf.when);
    for (const { value, present } of tests)
      // Plain rows have a text, so that what asks for one says the same of them all.
      if (present === undefined || !this.givesBody(value)) this.depend(value);
    this.depend('author' in direction ? direction.author : direction.value);
    this.depend(sender);
    for (const part of [thread.key, thread.participants, thread.peer, thread.title, thread.counted])
      if (part) this.depend(part);
  }

  private depend(expression: Expression): void {
    const join = this.joinOf(expression);
    if (join) return this.join(join);
    if ('first' in expression) {
      const [first, ...others] = expression.first;
      // Rows of which a join does not tell are not plain, so that nothing behind it is asked.
      const isTold = first !== undefined && this.joinOf(first) !== null;
      for (const part of isTold ? [first] : [...(first ? [first] : []), ...others])
        this.depend(part);
      return;
    }
    if ('each' in expression) return expression.each.forEach((part) => this.depend(part));
    if ('lookup' in expression) return this.depend(expression.lookup.from);
    for (const name of askedColumns(expression)) {
      const at = this.storedAt(name);
      if (at >= 0) this.context.add(at);
      else if (this.isNumber(name)) throw new NotPlain();
    }
  }

  /** An expression that goes from the row's own number through one other table to a column there; null for others. */
  private joinOf(expression: Expression): Join | null {
    if (!('lookup' in expression) || !('column' in expression.take)) return null;
    const { table, match, from, where } = expression.lookup;
    const isOwn = 'column' in from && from.column === this.mapping.key;
    if (where || !isOwn || !this.isNumber(from.column)) return null;
    const { column: take } = expression.take;
    const view = this.tables.get(table);
    return view?.has(match) && view.has(take) ? { view, match, take } : null;
  }

  private join({ view, match, take }: Join): void {
    const name = [view.schema.name, match, take].join('\u0000');
    if (!this.joins.has(name)) this.joins.set(name, view.pairs(match, take));
  }

  private readExtras(): void {
    const { subject, replyTo, edits, marks, location, attachments, reactions, held } = this.mapping;
    if (subject) this.extra(subject, false);
    if (replyTo) this.extra(replyTo.value, false);
    if (edits) this.extra(edits, true);
    for (const { at } of marks ?? []) this.extra(at.value, true);
    for (const part of [location?.lat, location?.lon]) if (part) this.extra(part, true);
    if (held) this.linked(held.since.value);
    for (const { rows } of reactions ?? []) this.link(rows);
    for (const { rows, name, path, mime, thumbnail } of attachments ?? []) {
      if (rows) this.link(rows);
      else for (const part of [name, path, mime, thumbnail]) if (part) this.extra(part, false);
    }
  }

  /** Nothing is said where the values that an expression reads are absent. */
  private extra(expression: Expression, zero: boolean): void {
    if (!saysNothingOfNothing(expression)) throw new NotPlain();
    for (const name of askedColumns(expression)) {
      const at = this.storedAt(name);
      if (this.isNumber(name)) throw new NotPlain();
      if (at >= 0) this.extras.set(at, zero && (this.extras.get(at) ?? true));
    }
  }

  private linked(expression: Expression): void {
    if (!('lookup' in expression)) throw new NotPlain();
    this.link(expression.lookup);
  }

  /** The innermost rows that a lookup needs: where there are none it finds nothing. */
  private link({ table: name, match, from }: Lookup): void {
    if ('lookup' in from) return this.link(from.lookup);
    const table = this.tables.get(name);
    if (!table?.has(match)) return;
    if (!('column' in from)) throw new NotPlain();
    const at = this.storedAt(from.column);
    if (at < 0 && !this.isNumber(from.column)) return;
    this.links.push({ column: table.index(match), from: at });
  }

  /** Whether an expression gives the text of each row that has one. */
  private givesBody(value: Expression): boolean {
    const [asked, body] = [firstOf(value), firstOf(this.mapping.body)];
    return (
      !!asked && !!body && 'column' in asked && 'column' in body && asked.column === body.column
    );
  }

  private bodyAt(body: Expression): number {
    const first = firstOf(body);
    if (!first || !('column' in first)) throw new NotPlain();
    const at = this.storedAt(first.column);
    if (at < 0) throw new NotPlain();
    return at;
  }

  private time(field: TimeField | undefined): PlainTime | null {
    if (!field) return null;
    if (!('column' in field.value)) throw new NotPlain();
    const at = this.storedAt(field.value.column);
    if (at < 0 && this.isNumber(field.value.column)) throw new NotPlain();
    if (at < 0) return null;
    const clock = this.clockOf(field);
    return { at, clock, facts: factsOf(clock), zone: field.zone };
  }

  /** Place of a column in the stored record, or -1. */
  private storedAt(name: string): number {
    const { schema } = this.table;
    const at = this.table.columnIndex(name);
    if (at < 0 || schema.columns[at]!.isRowid) return -1;
    return storedPlace(schema, at);
  }

  /** Whether a column stands for the row number. */
  private isNumber(name: string): boolean {
    const at = this.table.columnIndex(name);
    return at < 0 ? namesNumber(name) : this.table.schema.columns[at]!.isRowid;
  }
}

/** What an expression gives where the row has it. */
function firstOf(expression: Expression): Expression | undefined {
  return 'first' in expression ? expression.first[0] : expression;
}

function storedPlace({ order, columns }: TableSchema, column: number): number {
  const at = order.indexOf(column);
  // A generated column is worked out from others, which are not followed here.
  if (at < 0 || columns[column]!.virtual) throw new NotPlain();
  return at;
}

function saysNothingOfNothing(expression: Expression): boolean {
  if ('column' in expression) return true;
  if ('first' in expression) return expression.first.every(saysNothingOfNothing);
  if ('each' in expression) return expression.each.every(saysNothingOfNothing);
  if ('typedStream' in expression) return saysNothingOfNothing(expression.typedStream);
  if ('plainText' in expression) return saysNothingOfNothing(expression.plainText);
  if ('jid' in expression) return saysNothingOfNothing(expression.jid);
  return 'map' in expression ? saysNothingOfNothing(expression.map) : false;
}

/** A time of a record; null when it is absent. */
export function plainTime(
  time: PlainTime | null,
  cursor: RecordCursor,
  rows: PlainRows
): number | null {
  if (time === null) return null;
  const type = cursor.types[time.at]!;
  if (type === 0) return null;
  const value = cursor.value(time.at, rows.encoding);
  // Nearly all are whole numbers, which need no look at what else they could be.
  if (type < 7 && typeof value === 'number' && value !== 0 && time.facts !== null)
    return possibleMoment(counted(value, time.facts));
  return toMilliseconds(value, time.clock, time.zone);
}

/**
 * A hash of a record's unique value, as `hashText` gives it for its text; null
 * where there is none, NaN where it has to be decoded to be known.
 */
export function plainUnique({ unique, encoding }: PlainRows, cursor: RecordCursor): number | null {
  if (unique < 0) return null;
  const type = cursor.types[unique]!;
  if (type === 0) return null;
  if (type < 7 || type === 8 || type === 9) return hashText(String(cursor.value(unique, encoding)));
  if (type < 13 || type % 2 === 0 || encoding !== 'utf-8') return NaN;
  return hashAscii(cursor.bytes, cursor.starts[unique]!, cursor.starts[unique + 1]!);
}

/**
 * Whether a record of the table says nothing but what its plain values say,
 * and what other tables say of its number.
 */
export function isPlain(
  rows: PlainRows,
  cursor: RecordCursor,
  rowid: number,
  isFreed: boolean
): boolean {
  if (cursor.count !== rows.stored) return false;
  const { types, bytes, starts } = cursor;
  for (const { at, zero } of rows.extras) {
    const type = types[at]!;
    const isZero = type === 8 || (type === 1 && bytes[starts[at]!] === 0);
    if (type !== 0 && !(zero && isZero)) return false;
  }
  for (const { column, from } of rows.links)
    if (column.has(from < 0 ? rowid : cursor.value(from, rows.encoding))) return false;
  const { joins, joined } = rows;
  for (let i = 0; i < joins.length; i++) {
    joined[i] = joinedValue(joins[i]!, rowid, isFreed);
    if (Number.isNaN(joined[i])) return false;
  }
  return true;
}

/** Whether a value is text that is not empty. */
export function isPlainText(cursor: RecordCursor, at: number): boolean {
  const type = cursor.types[at]!;
  return type > 13 && type % 2 === 1;
}

/** Whether a row's unique value is among the hashes of names, or may be. */
export function isNamed(plain: PlainRows, cursor: RecordCursor, names: NumberIndex): boolean {
  const hash = plainUnique(plain, cursor);
  return hash !== null && (Number.isNaN(hash) || names.find(hash) >= 0);
}
