import { LOST_MARK, type Direction, type Place } from '../records';
import { surroundings, type LiveBounds, type Surroundings } from './certainty';
import { editsOf } from './edits';
import { evaluate, holds, lookUpRows, type Scope } from './expression';
import type {
  AttachmentField,
  DirectionField,
  Expression,
  Lookup,
  MessageMapping,
  ReactionField,
  ThreadField
} from './profile';
import type { PendingReaction } from './reactions';
import { plainRows, type PlainRows } from './plain';
import { askedColumns, Clocks, judged, keyOf, numberOf, ownColumns, proofsOf, textOf } from './row';
import { namesNumber, type StoreRow, type TableSet, type TableView } from './tables';
import type { StoreAttachment, StoreMessage, StoreReaction, StoreThread } from './types';

/** What live rows show, to hold freed ones against. */
interface LiveFacts {
  /** Keys of the conversations. */
  threads: Set<string>;
  from: number;
  to: number;
}

/** Stands where bytes of a text are lost. */
const DAY = 86_400_000;

/** Reads the rows of one table as messages. */
export class MessageReader {
  private readonly scope: Scope;
  private readonly clocks: Clocks;
  private readonly vital: number[];
  private readonly bodyColumns: number[];
  /** Rows made for the message in which its text lies; null where it lies in its own. */
  private readonly textRows: Lookup | null;
  /** Columns that tell the conversation; null where one of them is no column of the table itself. */
  private readonly threadColumns: number[] | null;
  private readonly threads = new Map<string, StoreThread>();
  private known: LiveFacts | null = null;
  private readonly own: ReadonlySet<string>;
  private readonly ownAddresses: ReadonlySet<string>;

  constructor(
    private readonly mapping: MessageMapping,
    private readonly table: TableView,
    private readonly tables: TableSet
  ) {
    this.scope = { tables, key: mapping.key };
    this.clocks = new Clocks(table, this.scope);
    const positions = (expressions: Expression[]): number[] =>
      ownColumns(expressions)
        .map((name) => table.columnIndex(name))
        .filter((at) => at >= 0);
    this.vital = positions([mapping.body, mapping.sentAt.value, mapping.sender]);
    this.bodyColumns = positions([mapping.body]);
    this.textRows = rowsMadeFor(mapping.body, mapping.key);
    this.threadColumns = columnsOf(mapping.thread, table);
    this.own = this.identities('author' in mapping.direction ? mapping.direction : {});
    this.ownAddresses = this.identities(mapping.thread);
  }

  private identities({
    own,
    ownTable
  }: {
    own?: string[];
    ownTable?: string;
  }): ReadonlySet<string> {
    if (ownTable !== undefined) return this.tables.textsOf(ownTable);
    return new Set((own ?? []).map((name) => name.toLowerCase()));
  }

  /**
   * The message of a row with its earlier wordings; nothing where the row is
   * no message, cannot be shown, or is a reaction, which goes to `reactions`.
   */
  read(row: StoreRow, reactions?: PendingReaction[]): StoreMessage[] {
    if (!this.isMessage(row)) return [];
    const message = this.message(row);
    if (!row.live && isUnfit(message)) return [];
    const reaction = this.reaction(row, () => message);
    if (reaction) {
      reactions?.push(reaction);
      return [];
    }
    return this.mapping.edits ? [...this.earlierWordings(row, message), message] : [message];
  }

  private isMessage(row: StoreRow): boolean {
    const { only } = this.mapping;
    return !only || only.every((test) => holds(test, row, this.scope));
  }

  private message(row: StoreRow): StoreMessage {
    const { mapping } = this;
    const direction = this.direction(row);
    const heldSince = mapping.held && row.live ? this.clocks.time(mapping.held.since, row) : null;
    const sentAt = this.clocks.time(mapping.sentAt, row);
    const thread = this.thread(row);
    const around = row.live ? undefined : this.around(thread, sentAt);
    const judgement = judged(row, this.vital, around);
    return {
      key: keyOf(row),
      table: mapping.table,
      rowid: row.rowid ?? this.declaredKey(row),
      unique: mapping.unique ? textOf([row.table.value(row, mapping.unique)]) : null,
      direction,
      sender: writes(direction) ? this.address(mapping.sender, row) : null,
      sentAt,
      deliveredAt: mapping.deliveredAt ? this.clocks.time(mapping.deliveredAt, row) : null,
      readAt: mapping.readAt ? this.clocks.time(mapping.readAt, row) : null,
      body: this.body(row),
      subject: mapping.subject ? textOf(evaluate(mapping.subject, row, this.scope)) : null,
      ...judgement,
      reasons: [...judgement.reasons, ...this.marks(row)],
      state: heldSince === null ? judgement.state : 'held',
      purgeAt: heldSince === null ? null : heldSince + mapping.held!.days * DAY,
      proofs: this.proofs(row),
      thread,
      attachments: (mapping.attachments ?? []).flatMap((field) => this.attachments(field, row)),
      replyTo: mapping.replyTo ? textOf(evaluate(mapping.replyTo.value, row, this.scope)) : null,
      reactions: (mapping.reactions ?? []).flatMap((field) => this.addOns(field, row)),
      location: this.location(row),
      earlierOf: null
    };
  }

  /** What ordinary rows can be told by without making messages of them; null where that cannot be. */
  plain(): PlainRows | null {
    return plainRows(this.mapping, this.table, this.tables, (field) => this.clocks.clock(field));
  }

  /** What live rows say of freed ones. */
  bounds(): LiveBounds {
    const { threads, from, to } = (this.known ??= this.learnLive());
    const columns = this.table.schema.columns.length;
    return { columns, known: threads.size > 0, from, to };
  }

  /** Takes note of a conversation that has a live line; of large tables a sample alone was seen before. */
  sawLive({ key }: StoreThread): void {
    (this.known ??= this.learnLive()).threads.add(key);
  }

  /** Whether a conversation has live lines. */
  isLinked({ key }: StoreThread): boolean {
    return (this.known ??= this.learnLive()).threads.has(key);
  }

  /** In tables without row numbers the key column tells rows apart. */
  private declaredKey(row: StoreRow): number | bigint | null {
    // A key whose serial type was overwritten may be another number.
    if (row.freed && row.freed.rebuilt > 0) return null;
    const value = row.table.value(row, this.mapping.key);
    return typeof value === 'number' || typeof value === 'bigint' ? value : null;
  }

  private body(row: StoreRow): string {
    const text = textOf(evaluate(this.mapping.body, row, this.scope)) ?? '';
    const cut = (row.live ?? row.freed)?.cut;
    return cut && this.bodyColumns.includes(cut.column) ? text + LOST_MARK : text;
  }

  /** Where the row lies, and the rows that hold its text where another table keeps it. */
  private proofs(row: StoreRow): StoreMessage['proofs'] {
    if (!this.textRows) return proofsOf(row);
    return [row, ...lookUpRows(this.textRows, row, this.scope)].flatMap(proofsOf);
  }

  private direction(row: StoreRow): Direction {
    if (this.mapping.system?.some((test) => holds(test, row, this.scope))) return 'system';
    return directionOf(this.mapping.direction, row, this.scope, this.own);
  }

  private address(expression: Expression, row: StoreRow): string | null {
    return this.addresses(expression, row)[0] ?? null;
  }

  private addresses(expression: Expression, row: StoreRow): string[] {
    const owner = this.mapping.ownerPlaceholders ?? [];
    const texts = evaluate(expression, row, this.scope).map(String);
    return [...new Set(texts)].filter((text) => text.trim() !== '' && !owner.includes(text));
  }

  /** What the store around a freed row says of it. */
  private around(thread: StoreThread, sentAt: number | null): Surroundings {
    return surroundings(this.bounds(), this.isLinked(thread), sentAt);
  }

  private learnLive(): LiveFacts {
    const facts: LiveFacts = { threads: new Set(), from: Infinity, to: -Infinity };
    for (const row of this.table.sample()) {
      if (!row.live) continue;
      facts.threads.add(this.thread(row).key);
      const at = this.clocks.time(this.mapping.sentAt, row);
      if (at === null) continue;
      facts.from = Math.min(facts.from, at);
      facts.to = Math.max(facts.to, at);
    }
    return facts;
  }

  /** Live rows with the same values in the columns that name the conversation are of the same one. */
  private thread(row: StoreRow): StoreThread {
    if (!row.live || this.threadColumns === null) return this.threadOf(row);
    const key = this.threadColumns.map((at) => row.values[at]).join('\u0000');
    let known = this.threads.get(key);
    if (!known) this.threads.set(key, (known = this.threadOf(row)));
    return known;
  }

  private threadOf(row: StoreRow): StoreThread {
    const { thread } = this.mapping;
    const all = this.addresses(thread.participants, row);
    return {
      key: textOf(evaluate(thread.key, row, this.scope)) ?? '',
      participants: all.filter((text) => !this.ownAddresses.has(text.toLowerCase())),
      peer: thread.peer ? this.address(thread.peer, row) : null,
      title: (thread.title && textOf(evaluate(thread.title, row, this.scope))) || null,
      counted:
        thread.counted && row.live ? numberOf(evaluate(thread.counted, row, this.scope)) : null
    };
  }

  private attachments(field: AttachmentField, row: StoreRow): StoreAttachment[] {
    const parts = field.rows ? lookUpRows(field.rows, row, this.scope) : [row];
    return parts
      .filter((part) => !field.only || field.only.every((test) => holds(test, part, this.scope)))
      .map((part) => this.attachment(field, part))
      .filter((found) => found.name ?? found.path ?? found.mime ?? found.thumbnail);
  }

  private attachment(field: AttachmentField, part: StoreRow): StoreAttachment {
    const text = (e: Expression | undefined): string | null =>
      (e && textOf(evaluate(e, part, this.scope))) || null;
    const number = (e: Expression | undefined): number | null => {
      const value = e ? numberOf(evaluate(e, part, this.scope)) : null;
      return value !== null && value >= 0 ? value : null;
    };
    const [thumbnail] = field.thumbnail ? evaluate(field.thumbnail, part, this.scope) : [];
    const path = text(field.path);
    return {
      name: text(field.name) ?? (path && path.slice(path.lastIndexOf('/') + 1)),
      mime: text(field.mime),
      path,
      bytes: number(field.bytes),
      width: number(field.width),
      height: number(field.height),
      seconds: number(field.seconds),
      state: part.live ? 'live' : 'recovered',
      thumbnail: thumbnail instanceof Uint8Array ? thumbnail : null
    };
  }

  private marks(row: StoreRow): string[] {
    return (this.mapping.marks ?? []).flatMap(({ at, says }) => {
      const moment = this.clocks.time(at, row);
      return moment === null ? [] : [`${says} at ${new Date(moment).toISOString()}`];
    });
  }

  private addOns(field: ReactionField, row: StoreRow): StoreReaction[] {
    return lookUpRows(field.rows, row, this.scope).flatMap((part) => {
      const text = textOf(evaluate(field.text, part, this.scope));
      if (!text) return [];
      const own = field.own !== undefined && holds(field.own, part, this.scope);
      const address = own ? null : textOf(evaluate(field.person, part, this.scope));
      return [{ address, text, at: field.at ? this.clocks.time(field.at, part) : null }];
    });
  }

  private location(row: StoreRow): Place | null {
    const { location } = this.mapping;
    if (!location) return null;
    const lat = numberOf(evaluate(location.lat, row, this.scope));
    const lon = numberOf(evaluate(location.lon, row, this.scope));
    if (lat === null || lon === null || (lat === 0 && lon === 0)) return null;
    if (Math.abs(lat) > 90 || Math.abs(lon) > 180) return null;
    const label = location.label ? textOf(evaluate(location.label, row, this.scope)) : null;
    return { lat, lon, label };
  }

  /** What a row says as a reaction to another message; null where it is none. */
  private reaction(row: StoreRow, lineOf: () => StoreMessage): PendingReaction | null {
    const { reactionOf } = this.mapping;
    if (!reactionOf || !holds(reactionOf.when, row, this.scope)) return null;
    const target = textOf(evaluate(reactionOf.target, row, this.scope));
    if (target === null) return null;
    const removed = reactionOf.removed !== undefined && holds(reactionOf.removed, row, this.scope);
    const line = lineOf();
    const text = textOf(evaluate(reactionOf.text, row, this.scope)) ?? line.body;
    return { target, reaction: { address: line.sender, text, at: line.sentAt }, removed, line };
  }

  /** Whether rows can say something of other messages. */
  get refersToOthers(): boolean {
    const { reactionOf, replyTo } = this.mapping;
    const asked = [reactionOf?.when.value, replyTo?.value].flatMap((value) =>
      value ? askedColumns(value) : []
    );
    // Where the table has none of the columns that say it, no row has to be asked.
    return asked.some((name) => this.table.has(name) || namesNumber(name));
  }

  /** What a row says of another message: that it answers or that it reacts to it. */
  references(row: StoreRow): { reaction: PendingReaction | null; asks: string | null } {
    const { replyTo } = this.mapping;
    if (!this.isMessage(row)) return { reaction: null, asks: null };
    const asks = replyTo ? textOf(evaluate(replyTo.value, row, this.scope)) : null;
    const reaction = this.reaction(row, () => this.message(row));
    return { reaction: reaction && (row.live || !isUnfit(reaction.line)) ? reaction : null, asks };
  }

  /** The conversation of a row and who wrote it; nothing where the row is no message. */
  parties(row: StoreRow): Pick<StoreMessage, 'thread' | 'sender'>[] {
    if (!row.live || !this.isMessage(row)) return this.read(row);
    const sender = writes(this.direction(row)) ? this.address(this.mapping.sender, row) : null;
    return [{ thread: this.thread(row), sender }];
  }

  /** What copies of a message share. */
  identity(row: StoreRow): Pick<StoreMessage, 'sentAt' | 'unique'> {
    const { sentAt, unique } = this.mapping;
    return {
      sentAt: this.clocks.time(sentAt, row),
      unique: unique ? textOf([row.table.value(row, unique)]) : null
    };
  }

  /** Wordings that the store keeps of a message that was edited. */
  private earlierWordings(row: StoreRow, message: StoreMessage): StoreMessage[] {
    if (!this.mapping.edits) return [];
    const [kept] = evaluate(this.mapping.edits, row, this.scope);
    if (!(kept instanceof Uint8Array)) return [];
    const wordings = editsOf(kept).filter(({ body }) => body !== message.body);
    return wordings.map(({ body, at }, i) => ({
      ...message,
      key: `${message.key}~e${i + 1}`,
      unique: null,
      rowid: null,
      body,
      sentAt: at ?? message.sentAt,
      state: 'earlier',
      attachments: [],
      reactions: [],
      reasons: [`earlier wording kept in row ${message.key}`],
      earlierOf: message.key
    }));
  }
}

/** The lookup by which a body is taken from rows that refer to the message; null where there is none. */
function rowsMadeFor(body: Expression, key: string): Lookup | null {
  if ('lookup' in body) {
    const { from } = body.lookup;
    return 'column' in from && from.column === key ? body.lookup : null;
  }
  if ('joined' in body) return rowsMadeFor(body.joined, key);
  if ('plainText' in body) return rowsMadeFor(body.plainText, key);
  if ('textOf' in body) return rowsMadeFor(body.textOf, key);
  if ('tagged' in body) return rowsMadeFor(body.tagged, key);
  if ('json' in body) return rowsMadeFor(body.json, key);
  return null;
}

function columnsOf(thread: ThreadField, table: TableView): number[] | null {
  const { key, participants, peer, title, counted } = thread;
  const expressions = [key, participants, peer, title, counted].filter((e) => e !== undefined);
  const names = new Set<string>();
  // What depends on the table's name is the same for all of its rows.
  for (const expression of expressions)
    for (const name of askedColumns(expression)) names.add(name);
  const columns = [...names].map((name) => table.columnIndex(name));
  return columns.includes(-1) ? null : columns;
}

/** Whether somebody else wrote; what the app wrote itself has no writer. */
function writes(direction: Direction): boolean {
  return direction === 'incoming' || direction === 'unknown';
}

function directionOf(
  field: DirectionField,
  row: StoreRow,
  scope: Scope,
  own: ReadonlySet<string>
): Direction {
  if ('author' in field) {
    const author = textOf(evaluate(field.author, row, scope));
    if (author === null || author === '') return 'unknown';
    return own.has(author.toLowerCase()) ? 'outgoing' : own.size > 0 ? 'incoming' : 'unknown';
  }
  const [stored] = evaluate(field.value, row, scope);
  return field.values[String(stored ?? '')] ?? field.otherwise;
}

const FIRST_MESSAGE = Date.UTC(1985, 0);
const LAST_MESSAGE = Date.UTC(2100, 0);

/** A few characters tell nobody anything, and are what chance makes of other bytes. */
const SHORTEST_FRAGMENT = 4;

/** A freed row that holds nothing to be shown, or other bytes read as a message. */
function isUnfit({ state, sentAt, body, subject, attachments }: StoreMessage): boolean {
  if (body === '' && !subject && attachments.length === 0) return true;
  if (state !== 'fragment') return false;
  const words = body.replace(LOST_MARK, '').trim();
  if (body.endsWith(LOST_MARK) && words.length < SHORTEST_FRAGMENT && attachments.length === 0) {
    return true;
  }
  return sentAt !== null && (sentAt < FIRST_MESSAGE || sentAt > LAST_MESSAGE);
}
