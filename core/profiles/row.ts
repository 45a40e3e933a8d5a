import type { ProofMethod, RecordState } from '../records';
import type { FreedFacts, SqlValue } from '../sqlite';
import { judgeRow, lostAtEnd, MOST_CUT, type Surroundings } from './certainty';
import { settleClock, toMilliseconds } from './clock';
import { evaluate, type Scope } from './expression';
import type { Clock, Expression, TimeField } from './profile';
import type { StoreRow, TableView } from './tables';
import type { StoreProof } from './types';

/** Reads times of one table, each field with the clock that its whole column keeps. */
export class Clocks {
  private readonly settled = new Map<TimeField, Clock>();

  constructor(
    private readonly table: TableView,
    private readonly scope: Scope
  ) {}

  time(field: TimeField, row: StoreRow): number | null {
    const [value] = evaluate(field.value, row, this.scope);
    return toMilliseconds(value, this.clock(field), field.zone);
  }

  clock(field: TimeField): Clock {
    let clock = this.settled.get(field);
    if (!clock) this.settled.set(field, (clock = this.settle(field)));
    return clock;
  }

  private settle(field: TimeField): Clock {
    if (field.fixed) return field.clock;
    const values: SqlValue[] = [];
    for (const row of this.table.sample())
      values.push(...evaluate(field.value, row, this.scope).slice(0, 1));
    return settleClock(values, field.clock);
  }
}

/** Columns of a row's own table that expressions read directly. */
export function ownColumns(expressions: Expression[]): string[] {
  return expressions.flatMap((expression) => {
    if ('column' in expression) return [expression.column];
    if ('first' in expression) return ownColumns(expression.first.slice(0, 1));
    if ('plainText' in expression) return ownColumns([expression.plainText]);
    if ('textOf' in expression) return ownColumns([expression.textOf]);
    if ('tagged' in expression) return ownColumns([expression.tagged]);
    if ('json' in expression) return ownColumns([expression.json]);
    if ('without' in expression) return ownColumns([expression.without]);
    return [];
  });
}

/** Every column of the asking row that an expression depends on. */
export function askedColumns(expression: Expression): string[] {
  if ('column' in expression) return [expression.column];
  if ('constant' in expression || 'tableHash' in expression) return [];
  if ('lookup' in expression) return askedColumns(expression.lookup.from);
  if ('first' in expression) return expression.first.flatMap(askedColumns);
  if ('each' in expression) return expression.each.flatMap(askedColumns);
  if ('when' in expression)
    return [...askedColumns(expression.when.value), ...askedColumns(expression.then)];
  return askedColumns(innerOf(expression));
}

function innerOf(expression: Expression): Expression {
  if ('joined' in expression) return expression.joined;
  if ('words' in expression) return expression.words;
  if ('listed' in expression) return expression.listed;
  if ('sorted' in expression) return expression.sorted;
  if ('plainText' in expression) return expression.plainText;
  if ('textOf' in expression) return expression.textOf;
  if ('tagged' in expression) return expression.tagged;
  if ('json' in expression) return expression.json;
  if ('jid' in expression) return expression.jid;
  if ('map' in expression) return expression.map;
  if ('match' in expression) return expression.match;
  if ('without' in expression) return expression.without;
  if ('typedStream' in expression) return expression.typedStream;
  return expression;
}

export function textOf(values: SqlValue[]): string | null {
  const [value] = values;
  if (value === undefined || value === null) return null;
  return value instanceof Uint8Array ? new TextDecoder().decode(value) : String(value);
}

/** A number, also where it is kept as text. */
export function numberOf(values: SqlValue[]): number | null {
  const [value] = values;
  const number = typeof value === 'string' && value.trim() !== '' ? Number(value) : value;
  if (typeof number === 'bigint') return Number(number);
  return typeof number === 'number' && Number.isFinite(number) ? number : null;
}

/** The row number where it is sure, else the place of the first proof. */
export function keyOf(row: StoreRow): string {
  const table = row.table.schema.name;
  if (row.live && row.rowid !== null) return `${table}/${row.rowid}`;
  return placeKey(table, row.live ?? row.freed!.proofs[0]!);
}

/** A key by where a row lies. */
export function placeKey(
  table: string,
  { file, offset }: { file: string; offset: number }
): string {
  const companion = file.endsWith('-wal') ? 'wal' : file.endsWith('-journal') ? 'journal' : '';
  return `${table}/@${companion}${offset.toString(16)}`;
}

function freedProofs({ proofs }: FreedFacts): StoreProof[] {
  return proofs.map(({ file, ...place }) => ({ path: file, ...place }));
}

/** Stretches of a long row that are cited; a picture kept in a row has thousands. */
const MOST_STRETCHES = 64;

export function proofsOf(row: StoreRow): StoreProof[] {
  if (row.freed) return freedProofs(row.freed);
  const { file, page, offset, length, rest = [] } = row.live!;
  if (row.table.method)
    return [{ path: file, page: null, offset, length, method: row.table.method }];
  const isCarved = row.table.carved;
  return [{ page, file, offset, length }, ...rest.slice(0, MOST_STRETCHES)].map((place) => ({
    path: place.file,
    page: place.page,
    offset: place.offset,
    length: place.length,
    method: isCarved ? 'carved' : liveMethod(place.file)
  }));
}

/** How a live row was read, by the file that holds it. */
export function liveMethod(file: string): ProofMethod {
  return file.endsWith('-wal') ? 'log' : file.endsWith('-journal') ? 'journal' : 'table';
}

export const LIVE_ROW = 'live row';

export function ofTable(name: string): string {
  return `of table ${name}`;
}

/** State and support of a row whose columns `vital` must be whole for it to be called recovered. */
export function judged(
  row: StoreRow,
  vital: readonly number[],
  around?: Surroundings
): { state: RecordState; certainty: number; reasons: string[] } {
  if (row.live) {
    const number = row.rowid === null ? '' : ` ${row.rowid}`;
    const reason = row.table.method
      ? `entry${number} of ${row.table.schema.name}`
      : `${LIVE_ROW}${number} ${ofTable(row.table.schema.name)}`;
    const { cut } = row.live;
    if (!cut) return { state: 'live', certainty: 100, reasons: [reason] };
    return { state: 'live', certainty: MOST_CUT, reasons: [reason, lostAtEnd(cut)] };
  }
  const state = vital.some((at) => row.freed!.lost.includes(at)) ? 'fragment' : 'recovered';
  return { state, ...judgeRow(row.freed!, row.table.schema.columns.length, around) };
}
