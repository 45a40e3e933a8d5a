import type { Direction } from '../../records';
import type { SqlValue } from '../../sqlite';
import type { DirectionField, Expression } from '../profile';
import type { ColumnFacts } from './column';
import type { SampledTable } from './sample';
import type { VirtualColumn } from './virtual';

/** How messages of the owner are told from others. */
export interface WorkedDirection {
  field: DirectionField;
  /** 0 to 15: what it adds to the fit. */
  weight: number;
  reason: string;
  /** The owner's identities, in lower case. */
  own: Set<string>;
}

const OWN_FLAG =
  /(from_?me|is_?from|outgoing|is_?out|^out$|mine|is_?sent|item_?sent|^sent$|is_?self|^self$|is_?me$|^me$|is_?own|by_?me|is_?send|issender|is_?sender)/i;
const OTHER_FLAG =
  /(incoming|is_?in$|inbound|is_?received|^received$|is_?recv|is_?remote|not_?mine)/i;
const DIRECTION_NAME = /(direction|^dir$|_dir$|inout|in_out|way)/i;
const KIND_NAME = /(^|_)(type|kind|box|folder|msg_?box|flags?)_?$/i;

const INWARD =
  /^(in|incoming|inbound|received|receive|recv|inbox|i|r|from|rx|in_message|other|remote|them|theirs|mt)$/i;
const OUTWARD =
  /^(out|outgoing|outbound|sent|send|outbox|o|s|to|tx|out_message|self|me|mine|own|local|us|mo)$/i;

/** A column of few values that says who wrote. */
export function directionColumn(table: SampledTable): WorkedDirection | null {
  const found = table.columns
    .map((column) => judged(column))
    .filter((direction) => direction !== null)
    .sort((a, b) => b.weight - a.weight);
  return found[0] ?? null;
}

function judged(column: ColumnFacts): WorkedDirection | null {
  const values = [...column.frequent.keys()];
  if (column.filled < column.rows * 0.9 || values.length < 1 || values.length > 8) return null;
  const worded = byWords(column, values);
  if (worded) return worded;
  if (column.numbers < column.filled) return null;
  const { name } = column;
  if (isSubset(values, ['0', '1'])) {
    if (OWN_FLAG.test(name))
      return field(name, { '0': 'incoming', '1': 'outgoing' }, 15, 'marks the owner’s own');
    if (OTHER_FLAG.test(name))
      return field(name, { '1': 'incoming', '0': 'outgoing' }, 15, 'marks what came in');
    if (DIRECTION_NAME.test(name))
      return field(name, { '0': 'incoming', '1': 'outgoing' }, 13, 'tells the direction');
  }
  if (DIRECTION_NAME.test(name)) {
    if (isSubset(values, ['-1', '0', '1']))
      return field(
        name,
        { '1': 'incoming', '-1': 'outgoing', '0': 'system' },
        11,
        'tells the direction'
      );
    if (isSubset(values, ['1', '2']))
      return field(name, { '1': 'incoming', '2': 'outgoing' }, 12, 'tells the direction');
  }
  if (
    KIND_NAME.test(name) &&
    isSubset(values, ['1', '2', '3', '4', '5', '6']) &&
    values.includes('1') &&
    values.includes('2')
  ) {
    const kinds: Record<string, Direction> = { '1': 'incoming', '2': 'outgoing' };
    for (const value of ['3', '4', '5', '6']) kinds[value] = 'outgoing';
    return field(name, kinds, 8, 'has the usual numbers for in and out');
  }
  return null;
}

function isSubset(values: string[], of: string[]): boolean {
  return values.every((value) => of.includes(value));
}

function byWords(column: ColumnFacts, values: string[]): WorkedDirection | null {
  if (column.texts < column.filled) return null;
  const map: Record<string, Direction> = {};
  for (const value of values) {
    if (INWARD.test(value)) map[value] = 'incoming';
    else if (OUTWARD.test(value)) map[value] = 'outgoing';
    else if (/^(system|event|info|notice)$/i.test(value)) map[value] = 'system';
    else return null;
  }
  const sides = new Set(Object.values(map));
  const both = sides.has('incoming') && sides.has('outgoing');
  if (!both && !(sides.size > 0 && DIRECTION_NAME.test(column.name))) return null;
  return field(column.name, map, 15, 'names the direction in words');
}

function field(
  name: string,
  values: Record<string, Direction>,
  weight: number,
  what: string
): WorkedDirection {
  return {
    field: { value: { column: name }, values, otherwise: 'unknown' },
    weight,
    reason: `column ${name} ${what}`,
    own: new Set()
  };
}

/** Values of a writer and of the conversation, row by row. */
export interface Talk {
  author: SqlValue;
  conversation: SqlValue;
}

const LEAST_CONVERSATIONS = 2;

/**
 * The identity that writes in nearly all conversations while the others
 * write in few: the owner's. Null when nobody stands out.
 */
export function ownerByPresence(talks: Talk[]): string | null {
  const rooms = new Map<string, Set<string>>();
  const all = new Set<string>();
  for (const { author, conversation } of talks) {
    if (author === null || conversation === null) continue;
    const room = String(conversation);
    all.add(room);
    const key = String(author);
    rooms.set(key, (rooms.get(key) ?? new Set()).add(room));
  }
  if (all.size < LEAST_CONVERSATIONS) return null;
  const ranked = [...rooms].map(([author, set]) => ({ author, share: set.size / all.size }));
  ranked.sort((a, b) => b.share - a.share);
  const [first, second] = ranked;
  const alone = first && first.share >= 0.6 && (!second || second.share <= first.share * 0.7);
  return alone ? first.author : null;
}

export function byAuthor(author: Expression, own: string[], reason: string): WorkedDirection {
  return {
    field: { author, own },
    weight: 13,
    reason,
    own: new Set(own.map((name) => name.toLowerCase()))
  };
}

/** A writer that is missing in a good part of the rows: the owner's own messages name nobody. */
export function byAbsence(sender: VirtualColumn): WorkedDirection | null {
  const { filled, rows, distinct } = sender.facts;
  const share = filled / Math.max(1, rows);
  if (share < 0.15 || share > 0.85 || distinct < 2) return null;
  const present = { value: sender.expression, present: true };
  return {
    field: {
      value: { first: [{ when: present, then: { constant: 'in' } }, { constant: 'out' }] },
      values: { in: 'incoming', out: 'outgoing' },
      otherwise: 'unknown'
    },
    weight: 9,
    reason: `column ${sender.name} is empty where the owner wrote`,
    own: new Set()
  };
}

/** Least share of the rows that each of two kinds must have. */
const LEAST_KIND = 0.1;

/**
 * A column of kinds with two frequent numbers in rows that name no writer:
 * by custom the smaller one is what came in.
 */
export function twoKinds(table: SampledTable): WorkedDirection | null {
  const writers = table.columns.filter(isPartWriter).map(({ name }) => table.index(name));
  for (const column of table.columns) {
    if (!KIND_NAME.test(column.name) || column.numbers < column.filled || column.distinct > 8)
      continue;
    const at = table.index(column.name);
    const counts = new Map<number, number>();
    const rows = table.rows.filter((row) => writers.every((i) => row[i] === null || row[i] === ''));
    for (const row of rows) {
      const kind = Number(row[at]);
      counts.set(kind, (counts.get(kind) ?? 0) + 1);
    }
    const often = [...counts].filter(([, count]) => count >= rows.length * LEAST_KIND);
    if (often.length !== 2) continue;
    const [small, large] = often.map(([kind]) => kind).sort((a, b) => a - b);
    const values: Record<string, Direction> = { [small!]: 'incoming', [large!]: 'outgoing' };
    return field(
      column.name,
      values,
      4,
      'has two kinds; the smaller number is taken for what came in'
    );
  }
  return null;
}

/** A column that names the writer in some rows: those of groups. */
function isPartWriter({ name, texts, filled, rows }: ColumnFacts): boolean {
  const part = filled / Math.max(1, rows);
  return (
    /(name|nick|sender|author|from)/i.test(name) && texts === filled && part > 0.05 && part < 0.95
  );
}
