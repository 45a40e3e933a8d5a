import type { Direction } from '../../records';
import type { SqlValue } from '../../sqlite';
import type { DirectionField, Expression } from '../profile';
import type { Parties } from './context';
import { ENOUGH, polarityOf, weighGroups, weighWriters, type Polarity } from './evidence';
import { ADDRESSED } from './links';
import { isInward, isOutward } from './direction-words';
import type { Field } from './fields';

/** How messages of the owner are told from others. */
export interface WorkedDirection {
  field: DirectionField;
  /** 0 to 15: what it adds to the fit. */
  weight: number;
  reason: string;
  /** The owner's identities, in lower case. */
  own: Set<string>;
}

/** A column that parts the rows in two sides, of which nothing shows which is the owner's. */
export interface OpenDirection {
  expression: Expression;
  column: string;
  /** The two values, each with what stands in some of its rows. */
  sides: { value: string; rows: number[] }[];
}

const OWN_FLAG =
  /(from_?me|was_?me|outbox|is_?from|outgoing|outbound|is_?out|^out$|(^|_)mine|is_?sent|item_?sent|^sent$|is_?self|^self$|from_?self|is_?me$|^me$|is_?own|by_?me|is_?send|issender|is_?sender|sent_by_me)/i;
const OTHER_FLAG =
  /(incoming|is_?in$|inbound|is_?received|^received$|is_?recv|is_?remote|from_remote|not_?mine)/i;
const DIRECTION_NAME = /(direction|^dir$|_dir$|inout|in_out|(^|_)way$)/i;
const KIND_NAME = /(^|_)(type|kind|box|folder|msg_?box|flags?|category|msg_?type)_?$/i;
/** Columns that say what became of a message, not who wrote it. */
const NO_SIDE =
  /(read|seen|unread|viewed|deliver|receipt|status|state|ack|error|fail|star|pin|favo|edit|delet|encrypt|version|device|resource|client|lang|has_|attach|media|archiv|mute|count|size|prior|import|visible|hidden|forward|secure|secret|protocol|service|mime)/i;

const NEITHER = /^(system|event|info|notice|service|server|status)$/i;
const YES = /^(1|true|yes|y|t)$/i;
const NO = /^(0|false|no|n|f)$/i;

interface Candidate {
  field: Field;
  /** The two frequent values, and what others there are. */
  first: string;
  second: string;
  others: string[];
  /** Positive where the name or the values say that the first is the owner's. */
  told: number;
  reason: string;
}

/** Names and values that say by themselves who wrote. */
const SURE = 10;
const LEAST_SIDE = 0.04;

/** Different words in a column that may stand for two sides and for neither. */
const MOST_WORDS = 4;

/** Rows of the sample by the value of a field. */
function rowsWith({ values }: Field, value: string): number[] {
  return values.flatMap((stored, i) => (keyOf(stored) === value ? [i] : []));
}

function keyOf(value: SqlValue): string {
  return value === null ? '' : String(value);
}

/** A column of few values that may say who wrote. */
function candidateOf(field: Field, beside: ReadonlySet<string>): Candidate | null {
  const { facts, values } = field;
  if (facts.clock || facts.blobs > 0 || facts.distinct < 1 || facts.distinct > 8) return null;
  const counts = new Map<string, number>();
  for (const value of values) counts.set(keyOf(value), (counts.get(keyOf(value)) ?? 0) + 1);
  const often = [...counts].filter(([, n]) => n >= Math.max(2, values.length * LEAST_SIDE));
  often.sort((a, b) => b[1] - a[1]);
  const worded =
    byWords(field, [...counts.keys()]) ?? asProvider(field, [...counts.keys()], beside);
  if (worded) return worded;
  if (facts.filled < facts.rows * 0.9 || often.length < 2) return null;
  // Words that are no words for a side are names, unless they are very few.
  if (facts.texts > 0 && counts.size > MOST_WORDS) return null;
  const [first, second] = [often[0]![0], often[1]![0]].sort(byWeight);
  const others = [...counts.keys()].filter((value) => value !== first && value !== second);
  return { field, first: first!, second: second!, others, ...byName(field.name, first!, second!) };
}

/** What a telephony provider calls its columns, whatever keeps copies of its rows; there 1 came in, and the other kinds went out or were to. */
const PROVIDER = ['address', 'date', 'type', 'body'];
const PROVIDER_KINDS = ['1', '2', '3', '4', '5', '6'];

function asProvider(field: Field, values: string[], beside: ReadonlySet<string>): Candidate | null {
  if (field.name.toLowerCase() !== 'type' || field.hops > 0) return null;
  if (!PROVIDER.every((name) => beside.has(name))) return null;
  if (!values.every((value) => PROVIDER_KINDS.includes(value))) return null;
  const others = values.filter((value) => value !== '1' && value !== '2');
  const reason = `column ${field.name} has the numbers of a telephony provider`;
  return { field, first: '2', second: '1', others, told: SURE, reason };
}

/** Values in words; those of neither side are lines of the program. */
function byWords(field: Field, values: string[]): Candidate | null {
  const out = values.filter((value) => isOutward(value));
  const into = values.filter((value) => isInward(value));
  const known = [...out, ...into, ...values.filter((value) => NEITHER.test(value))];
  const both = out.length > 0 && into.length > 0;
  if (field.facts.texts < field.facts.filled || known.length < values.length) return null;
  if (!both && !(out.length + into.length > 0 && DIRECTION_NAME.test(field.name))) return null;
  const others = values.filter((value) => value !== out[0] && value !== into[0]);
  const reason = `column ${field.name} names the direction in words`;
  return { field, first: out[0] ?? '', second: into[0] ?? '', others, told: SURE, reason };
}

/** Larger numbers first, and yes before no. */
function byWeight(a: string, b: string): number {
  const weight = (value: string): number =>
    YES.test(value) ? 1 : NO.test(value) ? 0 : Number(value);
  return weight(b) - weight(a);
}

/** `first` is the larger of the two values. */
function byName(name: string, first: string, second: string): Pick<Candidate, 'told' | 'reason'> {
  const plain = name.replace(/^Z(?=[A-Z])/, '').replace(/([a-z\d])([A-Z])/g, '$1_$2');
  const isFlag = YES.test(first) && NO.test(second);
  if (isFlag && OTHER_FLAG.test(plain))
    return { told: -SURE, reason: `column ${name} marks what came in` };
  if (isFlag && OWN_FLAG.test(plain))
    return { told: SURE, reason: `column ${name} marks the owner’s own` };
  return { told: 0, reason: '' };
}

/** Whether both values stand in most conversations, as those of two who write to each other do. */
function isTurnTaking({ field, first, second }: Candidate, room: Field | null): boolean {
  if (!room) return DIRECTION_NAME.test(field.name) || KIND_NAME.test(field.name);
  const rooms = new Map<string, Set<string>>();
  const sizes = new Map<string, number>();
  room.values.forEach((value, i) => {
    const key = keyOf(value);
    const stored = keyOf(field.values[i] ?? null);
    sizes.set(key, (sizes.get(key) ?? 0) + 1);
    if (stored === first || stored === second)
      rooms.set(key, (rooms.get(key) ?? new Set()).add(stored));
  });
  const large = [...rooms].filter(([key]) => sizes.get(key)! >= 6);
  return (
    large.length === 0 || large.filter(([, set]) => set.size === 2).length >= large.length * 0.6
  );
}

/** What a column says of who wrote, with everything that bears it out; open where too little does. */
export function byColumn(
  fields: readonly Field[],
  parties: Parties
): { worked: WorkedDirection | null; open: OpenDirection | null } {
  const beside = new Set(
    fields.flatMap(({ hops, name }) => (hops === 0 ? [name.toLowerCase()] : []))
  );
  const weighed = fields
    .filter(({ hops }) => hops <= 1)
    .flatMap((field) => candidateOf(field, beside) ?? [])
    .filter((candidate) => isPossible(candidate, parties))
    .map((candidate) => ({ candidate, ...weigh(candidate, fields, parties) }))
    .sort((a, b) => Math.abs(b.score) - Math.abs(a.score) || rank(b.candidate) - rank(a.candidate));
  const [best] = weighed;
  if (!best) return { worked: null, open: null };
  if (Math.abs(best.score) >= ENOUGH)
    return { worked: decided(best.candidate, best, parties.sender), open: null };
  const open = weighed.find(({ candidate }) => rank(candidate) > 0);
  return { worked: null, open: open ? asOpen(open.candidate) : null };
}

/** How much a column's name speaks for its telling the direction at all. */
function rank({ field: { name } }: Candidate): number {
  return DIRECTION_NAME.test(name) ? 2 : KIND_NAME.test(name) ? 1 : 0;
}

function isPossible(candidate: Candidate, { sender, recipient, room }: Parties): boolean {
  const { field, told } = candidate;
  if (told !== 0) return true;
  if ([sender, recipient, room].includes(field) || NO_SIDE.test(field.name)) return false;
  return isTurnTaking(candidate, room);
}

function weigh(candidate: Candidate, fields: readonly Field[], parties: Parties): Polarity {
  const { field, first, second, told, reason } = candidate;
  const [a, b] = [rowsWith(field, first), rowsWith(field, second)];
  const parts: Polarity[] = [
    { score: told, reasons: reason === '' ? [] : [reason] },
    polarityOf(a, b, fields, field)
  ];
  if (parties.sender) parts.push(weighWriters(a, b, parties.sender, parties.room));
  if (parties.room) parts.push(weighGroups(a, b, fields, parties.room));
  return {
    score: parts.reduce((sum, part) => sum + part.score, 0),
    reasons: parts.flatMap((part) => part.reasons)
  };
}

function decided(
  candidate: Candidate,
  { score, reasons }: Polarity,
  sender: Field | null
): WorkedDirection {
  const { field, first, second, others } = candidate;
  const [own, other] = score > 0 ? [first, second] : [second, first];
  const values: Record<string, Direction> = {};
  if (own !== '' || other !== '') Object.assign(values, { [own]: 'outgoing', [other]: 'incoming' });
  for (const value of others) {
    if (isOutward(value)) values[value] = 'outgoing';
    else if (isInward(value)) values[value] = 'incoming';
    else if (NEITHER.test(value)) values[value] = 'system';
    // Drafts, messages that wait and those that failed are the owner's.
    else if (reasons.some((reason) => reason.includes('telephony provider')))
      values[value] = 'outgoing';
    else if (sender) {
      const side = sideOf(candidate, value, own, sender);
      if (side) values[value] = side;
    }
  }
  return {
    field: { value: field.expression, values, otherwise: 'unknown' },
    weight: Math.min(15, 9 + Math.floor(Math.abs(score) / 2)),
    reason: reasons.join('; '),
    own: new Set()
  };
}

/** The side of a rare value, by who wrote its rows: the one who wrote the owner's, or anybody else. */
function sideOf(
  { field, first, second }: Candidate,
  value: string,
  own: string,
  sender: Field
): Direction | null {
  const writers = (stored: string): Set<string> =>
    new Set(rowsWith(field, stored).map((row) => keyOf(sender.values[row] ?? null)));
  const owners = writers(own);
  const others = writers(own === first ? second : first);
  if (owners.size !== 1 || others.has([...owners][0]!)) return null;
  const [here, all] = [writers(value), [...owners][0]!];
  if (!here.has(all)) return 'incoming';
  return here.size === 1 ? 'outgoing' : null;
}

function asOpen({ field, first, second }: Candidate): OpenDirection {
  const sides = [first, second].map((value) => ({
    value,
    rows: rowsWith(field, value).slice(0, 200)
  }));
  return { expression: field.expression, column: field.name, sides };
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
    if (author === null || author === '' || conversation === null) continue;
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

/** The identity that is sender or recipient of every row, or one of several recipients; null when there is none, or two. */
export function alwaysThere(senders: SqlValue[], recipients: SqlValue[]): string | null {
  const counts = new Map<string, number>();
  senders.forEach((sender, i) => {
    for (const party of new Set([String(sender), ...listedIn(recipients[i] ?? null)]))
      counts.set(party, (counts.get(party) ?? 0) + 1);
  });
  const all = [...counts].filter(([, count]) => count >= senders.length * 0.95);
  return all.length === 1 ? all[0]![0] : null;
}

const LISTED = /[,;|]/;

/** The identities in a value: several where it lists addresses. */
function listedIn(value: SqlValue): string[] {
  const text = String(value);
  const parts = text.split(LISTED).map((part) => part.trim());
  return parts.length > 1 && parts.every((part) => ADDRESSED.test(part)) ? parts : [text];
}

/** Whether a column lists several recipients in some rows. */
export function hasLists({ values }: Field): boolean {
  return values.some((value) => typeof value === 'string' && listedIn(value).length > 1);
}

export function byAuthor(
  author: Expression,
  own: string[],
  weight: number,
  reason: string
): WorkedDirection {
  return {
    field: { author, own },
    weight,
    reason,
    own: new Set(own.map((name) => name.toLowerCase()))
  };
}

/** Rows in which a column is filled, told from those in which it is not. */
function byPresence(
  field: Field,
  filled: Direction,
  empty: Direction,
  weight: number,
  reason: string
): WorkedDirection {
  const present = { value: field.expression, present: true };
  return {
    field: {
      value: { first: [{ when: present, then: { constant: 'filled' } }, { constant: 'empty' }] },
      values: { filled, empty },
      otherwise: 'unknown'
    },
    weight,
    reason,
    own: new Set()
  };
}

/** A writer that is missing in a good part of the rows: the owner's own messages name nobody. */
export function byAbsence(sender: Field): WorkedDirection | null {
  const { filled, rows, distinct } = sender.facts;
  const share = filled / Math.max(1, rows);
  if (share < 0.15 || share > 0.85 || distinct < 2) return null;
  const reason = `column ${sender.name} is empty where the owner wrote`;
  return byPresence(sender, 'incoming', 'outgoing', 11, reason);
}

const RECEIPT = /(deliver|receipt|(^|_)ack)/i;

/** A moment or a number that only the network's answer to what was sent fills. */
export function byReceipt(fields: readonly Field[]): WorkedDirection | null {
  for (const field of fields) {
    const { filled, rows, numbers } = field.facts;
    const plain = field.name.replace(/^Z(?=[A-Z])/, '').replace(/([a-z\d])([A-Z])/g, '$1_$2');
    const share = filled / Math.max(1, rows);
    if (field.hops > 0 || !RECEIPT.test(plain) || share < 0.15 || share > 0.85) continue;
    if (numbers < filled && !field.facts.clock) continue;
    const reason = `column ${field.name} is filled in a part of the rows: those that were sent`;
    return byPresence(field, 'outgoing', 'incoming', 8, reason);
  }
  return null;
}

/** Whether what would be the owner's own in groups is by one writer alone; two would mean that the sides are wrong. */
export function holdsInGroups(outgoing: readonly boolean[], sender: Field, room: Field): boolean {
  const writers = new Map<string, Set<string>>();
  const own = new Map<string, Set<string>>();
  room.values.forEach((value, i) => {
    const key = keyOf(value);
    const writer = keyOf(sender.values[i] ?? null);
    writers.set(key, (writers.get(key) ?? new Set()).add(writer));
    if (outgoing[i]) own.set(key, (own.get(key) ?? new Set()).add(writer));
  });
  return [...writers].every(([key, set]) => set.size < 3 || (own.get(key)?.size ?? 0) <= 1);
}
