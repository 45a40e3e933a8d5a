import type { ReadingFacts } from '../../records';
import type { SqlValue } from '../../sqlite';
import { toMilliseconds } from '../clock';
import type { TableSet } from '../tables';
import type { Expression, MessageMapping, ReadingProfile } from '../profile';
import { findAttachments } from './attachments';
import { Fit, nameOf, type Context, type FoundParties } from './context';
import type { OpenDirection, WorkedDirection } from './direction';
import { RowFields, tableSetOf, type Field } from './fields';
import { findLinks, type Link } from './links';
import { isAddressed, readsWithoutNames } from './nameless';
import { findOtherRows } from './other-rows';
import { addressOf, findNames } from './naming';
import { findDirection, findParties, settled } from './parties';
import { PEOPLE } from './people';
import { speakerInGroups } from './person';
import { prefixOf } from './prefixed';
import { otherReading, type OtherReading } from './readings';
import type { SampledTable } from './sample';
import { findText, isFilledIn, LEAST_WORDING } from './text';
import { ownForms, threadOf } from './thread';
import { findTime, type WorkedTime } from './time';
import { withTwin } from './twins';
import type { DirectionQuestion, OfferedReading, Ranked, StoreContext, WorkedOut } from './types';

const LEAST_ROWS = 3;
/** Highest fit of a table in which nobody writes to anybody. */
const NO_PARTIES = 50;
/** Weight below which a direction rests on custom, so that the reading is not called sure. */
const SURE_ENOUGH = 9;
/** Highest fit of a table whose names are lost and whose values may be those of something else. */
const NOT_READ = 35;
/** Highest fit where it is not known who wrote. */
const NO_DIRECTION = 78;

/** Works out which table holds messages and what its columns mean; null when none looks like messages. */
export function workOut(
  tables: SampledTable[],
  { path = '', closed }: StoreContext = {}
): WorkedOut | null {
  const byName = new Map(tables.map((table) => [table.name, table]));
  const links = findLinks(tables);
  const set = tableSetOf(tables);
  const found = tables
    .filter(({ rows, name }) => rows.length >= LEAST_ROWS && !closed?.has(name.toLowerCase()))
    .flatMap((root) => new Working(root, byName, links, set, path).result() ?? []);
  const [first, ...others] = withoutParts(found).sort((a, b) => b.rank - a.rank);
  return first ? withMore(withTwin(first, others, byName), others, byName) : null;
}

/** Readings that are offered of one store at the most. */
const MOST_OFFERED = 3;
/** Texts with a time from which a table is offered, whatever it looks like. */
const LEAST_DATED = 20;
/** Signs of a line that is shown of a reading. */
const LINE = 160;

/**
 * Where no table reads like messages by itself: the tables that hold dated
 * texts all the same, the likeliest first, each with what speaks for and
 * against it. Somebody who knows the owner settles it at a glance.
 */
export function possibleReadings(
  tables: SampledTable[],
  { path = '', closed }: StoreContext = {}
): OfferedReading[] {
  const byName = new Map(tables.map((table) => [table.name, table]));
  const links = findLinks(tables);
  const set = tableSetOf(tables);
  const found = tables
    .filter(({ rows, name }) => rows.length >= LEAST_DATED && !closed?.has(name.toLowerCase()))
    .flatMap((root) => {
      const asIs = new Working(root, byName, links, set, path).offer();
      return asIs ?? new Working(root, byName, links, set, path, true).offer() ?? [];
    });
  found.sort((a, b) => b.rank - a.rank);
  return found.slice(0, MOST_OFFERED).map(({ profile, question, sample }) => ({
    profile,
    question,
    ...sample
  }));
}

/** A table whose rows are parts of another's messages holds no messages of its own. */
function withoutParts(found: readonly Ranked[]): Ranked[] {
  const parts = new Set(found.flatMap(({ partsIn }) => partsIn ?? []));
  return found.filter(({ profile }) => !parts.has(profile.messages[0]!.table));
}

/** Fit from which a second table of messages is read along with the first. */
const SECOND_FROM = 75;
const LEAST_SECOND = 10;
/** Share of rows that stand in the first table too from which a table is a copy. */
const MOST_COPIES = 0.3;
const LONG_TEXT = 8;
const LARGE = 1e6;

/** Some stores keep groups, or kinds of messages, in tables of their own. Copies of the first table's texts are none of these. */
function withMore(
  first: WorkedOut,
  others: WorkedOut[],
  tables: ReadonlyMap<string, SampledTable>
): WorkedOut {
  const known = new Set(first.profile.messages.map(({ table }) => table));
  const mainTable = tables.get(first.profile.messages[0]!.table)!;
  const marks = new Set(mainTable.rows.flatMap(marksOf));
  const more = others.filter(({ profile, fit }) => {
    const table = tables.get(profile.messages[0]!.table)!;
    if (known.has(table.name) || fit < SECOND_FROM || table.rows.length < LEAST_SECOND)
      return false;
    const copies = table.rows.filter((row) => marksOf(row).some((mark) => marks.has(mark)));
    return copies.length < table.rows.length * MOST_COPIES;
  });
  return {
    ...first,
    reasons: [
      ...first.reasons,
      ...more.map(({ profile }) => `table ${profile.messages[0]!.table} holds messages too`)
    ],
    profile: {
      ...first.profile,
      messages: [first.profile, ...more.map(({ profile }) => profile)].flatMap((p) => p.messages),
      names: [first.profile, ...more.map(({ profile }) => profile)].flatMap((p) => p.names ?? [])
    }
  };
}

/** A text with each value of its row that may be its time: the same text may be written twice. */
function marksOf(row: readonly SqlValue[]): string[] {
  const times = row.filter(isTimeLike);
  const texts = row.filter((v) => typeof v === 'string' && v.length > LONG_TEXT && !isTimeLike(v));
  return texts.flatMap((text) => times.map((time) => `${String(time)} ${String(text)}`));
}

function isTimeLike(value: SqlValue): boolean {
  return typeof value === 'string' ? /^\d{4}-?\d\d/.test(value) : Number(value) > LARGE;
}

/** What was found of a table before its reading is judged. */
interface Parts {
  context: Context;
  text: Field;
  parties: FoundParties;
  worked: WorkedDirection | null;
  open: OpenDirection | null;
}

class Working {
  private readonly fit = new Fit();
  private readonly context: Context | null;
  private readonly other: OtherReading | null;

  constructor(
    private readonly root: SampledTable,
    tables: ReadonlyMap<string, SampledTable>,
    links: readonly Link[],
    set: TableSet,
    path: string,
    /** What looks like something else is worked out too, to be offered. */
    private readonly anyway = false
  ) {
    this.other = otherReading(root);
    const isOpen = anyway || this.other?.onlyNames === true;
    if ((this.other && !isOpen) || !isPromising(root, links, tables)) {
      this.context = null;
      return;
    }
    const rows = new RowFields(root, tables, links, set, keyOf(root));
    this.context = { root, tables, links, rows, fields: rows.fields, path };
  }

  /** A reading whatever else the table may be, with some of what it gives. */
  offer(): (Ranked & { sample: ReadingFacts }) | null {
    const reading = this.result();
    if (!reading || !this.found) return null;
    const { text, time } = this.found;
    const dated = text.values.flatMap((value, row) => {
      const at = toMilliseconds(time.field.values[row], time.clock);
      return typeof value === 'string' && value.trim() !== '' && at !== null
        ? [{ at, text: value.slice(0, LINE) }]
        : [];
    });
    if (dated.length < LEAST_DATED) return null;
    const { reasons } = reading;
    return {
      ...reading,
      sample: {
        table: this.root.name,
        rows: this.root.rows.length,
        more: !this.root.complete,
        fit: reading.fit,
        reasons,
        against: this.other?.reason ?? null,
        lines: dated.slice(0, MOST_LINES)
      }
    };
  }

  private found: { text: Field; time: WorkedTime } | null = null;

  result(): Ranked | null {
    const { context, fit, anyway } = this;
    const text = context && findText(context, fit, anyway || this.other !== null);
    const time = text && findTime(context!, fit);
    if (!context || !text || !time) return null;
    this.found = { text, time };
    const found = findParties(context, text, fit);
    const { worked, open } = findDirection(context, found);
    const parties = settled(context, found, worked);
    if (isFilledIn(text) && !worked && !isTalk(parties, open) && !isAddressed(context, parties))
      return null;
    const profile = this.profile(context, text, time, parties, worked);
    const most = this.ceiling({ context, text, parties, worked, open });
    if (most === null) return null;
    const value = Math.max(0, Math.min(most, Math.round(fit.value)));
    if (!worked) fit.reasons.push('nothing shows who wrote, so the direction is left open');
    // Side tables (previews, drafts) read like messages too; the table with the most rows holds them.
    const rank = value + 8 * Math.log10(this.root.rows.length);
    const partsIn = text.isInside && text.table !== this.root.name ? text.table : null;
    return {
      profile,
      fit: value,
      reasons: fit.reasons,
      question: asked(open, text),
      rank,
      partsIn
    };
  }

  /** The highest fit that the parts allow; null where the table is something else. */
  private ceiling({ context, text, parties, worked, open }: Parts): number | null {
    const { other, anyway, fit } = this;
    if (anyway) return NOT_READ;
    // Notes, pages and logs have text and times too; only messages have parties.
    if (!readsWithoutNames(context, text, parties, worked !== null)) return NOT_READ;
    const isSure = worked !== null && worked.weight >= SURE_ENOUGH;
    if (other) {
      if (!isSure || !isAddressed(context, parties) || isFilledIn(text)) return null;
      fit.reasons.push(`${other.reason}, but people write to each other in it`);
      return NO_DIRECTION;
    }
    if (isSure) return 100;
    return worked || isTalk(parties, open) ? NO_DIRECTION : NO_PARTIES;
  }

  private profile(
    context: Context,
    text: Field,
    time: WorkedTime,
    parties: FoundParties,
    direction: WorkedDirection | null
  ): ReadingProfile {
    const { root, fit } = this;
    const attachments = findAttachments(context, fit);
    const prefixed = prefixOf(context, text, parties.room);
    const called = senderExpression(context, parties, direction, fit);
    const from: Expression = prefixed ? { first: [prefixed.sender, called] } : called;
    if (prefixed) fit.reasons.push('in groups the text begins with who wrote it');
    const roles = [parties.sender, parties.recipient, parties.peer, parties.room];
    const system = findOtherRows(context, text, [...roles, fieldOf(context, direction)], fit);
    if (direction) fit.add(direction.weight, direction.reason);
    const body = prefixed?.body ?? text.expression;
    const mapping: MessageMapping = {
      table: root.name,
      key: keyOf(root),
      only: [
        {
          value: { first: [text.expression, ...attachments.map(({ path }) => path)] },
          present: true
        }
      ],
      ...(system.length > 0 ? { system } : {}),
      body: (text.facts.wording?.markup ?? 0) > 0.5 ? { plainText: body } : body,
      sentAt: { value: time.expression, clock: time.clock },
      direction: direction?.field ?? { value: { constant: '' }, values: {}, otherwise: 'unknown' },
      sender: from,
      thread: threadOf(context, parties, ownForms(context, parties, direction), called, fit),
      ...(attachments.length > 0 ? { attachments } : {})
    };
    return {
      id: `worked-out:${root.name}`,
      title: `worked out from ${root.name}`,
      needs: { [root.name]: ownColumns(root, mapping) },
      knows: {},
      messages: [mapping],
      names: findNames(context, parties)
    };
  }
}

/** Whether a table in which nothing shows who wrote is a conversation all the same: somebody writes in something that parts the rows, or an open question is left. */
function isTalk(
  { room, sender, recipient, peer, isGuessed }: FoundParties,
  open: OpenDirection | null
): boolean {
  if (isGuessed) return false;
  if (open !== null) return (room ?? peer ?? sender) !== null;
  // One who alone writes writes to nobody.
  if (sender === null || sender.facts.distinct < 2) return false;
  return recipient !== null || (room !== null && room !== sender);
}

function keyOf(root: SampledTable): string {
  return root.schema.columns.find(({ isRowid }) => isRowid)?.name ?? root.keys[0] ?? 'rowid';
}

/** Whether a table, or one beside it, could hold texts at all. */
function isPromising(
  root: SampledTable,
  links: readonly Link[],
  tables: ReadonlyMap<string, SampledTable>
): boolean {
  const hasTexts = ({ columns }: SampledTable): boolean =>
    columns.some(
      ({ wording, texts, blobs, frequent }) =>
        (wording?.score ?? 0) >= LEAST_WORDING || blobs > 0 || (texts > 0 && isRecord(frequent))
    );
  const beside = links.filter(({ to }) => to === root.name).map(({ from }) => from);
  return (
    hasTexts(root) ||
    beside.some((name) => hasTexts(tables.get(name)!)) ||
    links.some(({ from, to }) => beside.includes(from) && hasTexts(tables.get(to)!))
  );
}

function isRecord(frequent: ReadonlyMap<string, number>): boolean {
  const [first] = frequent.keys();
  return first !== undefined && /^\s*[{[]/.test(first);
}

function ownColumns(root: SampledTable, mapping: MessageMapping): string[] {
  const text = JSON.stringify(mapping);
  return root.schema.columns
    .map(({ name }) => name)
    .filter((name) => text.includes(`{"column":${JSON.stringify(name)}}`));
}

/** The column by which the direction is told. */
function fieldOf({ fields }: Context, direction: WorkedDirection | null): Field | null {
  if (!direction || !('value' in direction.field)) return null;
  const wanted = JSON.stringify(direction.field.value);
  return fields.find(({ expression }) => JSON.stringify(expression) === wanted) ?? null;
}

function senderExpression(
  context: Context,
  parties: FoundParties,
  direction: WorkedDirection | null,
  fit: Fit
): Expression {
  const { sender, peer } = parties;
  const fields = [sender, peer].filter((field) => field !== null);
  if (fields.length === 0) return { constant: '' };
  const inGroups = speakerInGroups(context, parties);
  fit.add(7, `${nameOf(fields[0]!)} names who wrote`);
  // A column that names the other party in both directions is the writer of what came in.
  const expressions = [...(inGroups ? [inGroups] : []), ...fields].map((field) =>
    addressOf(context, field, PEOPLE)
  );
  const own = direction ? [...direction.own] : [];
  return expressions.length === 1 || (own.length > 0 && !inGroups)
    ? expressions[0]!
    : { first: expressions };
}

const MOST_LINES = 3;

function asked(open: OpenDirection | null, text: Field): DirectionQuestion | null {
  if (!open) return null;
  const sides = open.sides.map(({ value, rows }) => {
    const lines = rows.flatMap((row) => {
      const line = text.values[row];
      return typeof line === 'string' && line.length > 12 ? [line.slice(0, LINE)] : [];
    });
    return { value, lines: lines.slice(0, MOST_LINES) };
  });
  return { expression: open.expression, column: open.column, sides };
}
