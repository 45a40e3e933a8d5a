import type { Direction, Proof, RecordState } from '../records';
import type { SqlValue } from '../sqlite';
import { judgeRow } from './certainty';
import { settleClock, toMilliseconds } from './clock';
import { evaluate, lookUpRows, type Scope } from './expression';
import type {
  AttachmentField,
  Clock,
  Expression,
  MessageMapping,
  ReadingProfile,
  TimeField
} from './profile';
import type { StoreRow, TableSet, TableView } from './tables';

/** A message as its store tells it: addresses not yet joined to people. */
export interface StoreMessage {
  /** Unique within the store and stable for the same bytes. */
  key: string;
  table: string;
  rowid: number | bigint | null;
  /** Value of the profile's unique column, where there is one. */
  unique: string | null;
  direction: Direction;
  sender: string | null;
  sentAt: number | null;
  deliveredAt: number | null;
  readAt: number | null;
  body: string;
  subject: string | null;
  state: RecordState;
  certainty: number;
  reasons: string[];
  proofs: Omit<Proof, 'source'>[];
  thread: StoreThread;
  attachments: StoreAttachment[];
}

export interface StoreThread {
  key: string;
  participants: string[];
  peer: string | null;
  title: string | null;
}

export interface StoreAttachment {
  name: string | null;
  mime: string | null;
  path: string | null;
  bytes: number | null;
  state: RecordState;
}

/** Stands where bytes of a text are lost. */
const LOST_MARK = '\ufffc';
const STEP = 2000;

/** Reads all messages of a store; yields now and then so that the caller can pause or stop. */
export function* readMessages(
  profile: ReadingProfile,
  tables: TableSet
): Generator<{ done: number; total: number }, StoreMessage[]> {
  const messages: StoreMessage[] = [];
  for (const mapping of profile.messages) {
    const table = tables.get(mapping.table);
    if (!table) continue;
    const reader = new MessageReader(mapping, table, tables);
    for (const [i, row] of table.rows.entries()) {
      if (i % STEP === 0) yield { done: i, total: table.rows.length };
      const message = reader.read(row);
      if (message) messages.push(message);
    }
  }
  return messages;
}

class MessageReader {
  private readonly scope: Scope;
  private readonly clocks = new Map<TimeField, Clock>();
  private readonly vital: number[];

  constructor(
    private readonly mapping: MessageMapping,
    private readonly table: TableView,
    tables: TableSet
  ) {
    this.scope = { tables, key: mapping.key };
    for (const field of [mapping.sentAt, mapping.deliveredAt, mapping.readAt]) {
      if (field) this.clocks.set(field, this.settle(field));
    }
    this.vital = ownColumns([mapping.body, mapping.sentAt.value, mapping.sender])
      .map((name) => table.columnIndex(name))
      .filter((at) => at >= 0);
  }

  /** Null when a freed row holds nothing that could be shown. */
  read(row: StoreRow): StoreMessage | null {
    const { mapping } = this;
    const attachments = this.attachments(row);
    const direction = this.direction(row);
    const message: StoreMessage = {
      key: keyOf(row),
      table: mapping.table,
      rowid: row.rowid ?? this.declaredKey(row),
      unique: mapping.unique ? textOf([row.table.value(row, mapping.unique)]) : null,
      direction,
      sender: direction === 'incoming' ? this.address(mapping.sender, row) : null,
      sentAt: this.time(mapping.sentAt, row),
      deliveredAt: mapping.deliveredAt ? this.time(mapping.deliveredAt, row) : null,
      readAt: mapping.readAt ? this.time(mapping.readAt, row) : null,
      body: this.body(row),
      subject: mapping.subject ? textOf(evaluate(mapping.subject, row, this.scope)) : null,
      state: this.state(row),
      ...this.judge(row),
      proofs: proofsOf(row),
      thread: this.thread(row),
      attachments
    };
    const empty = message.body === '' && !message.subject && attachments.length === 0;
    if (row.live) return message;
    return empty || isMisread(message) ? null : message;
  }

  private settle(field: TimeField): Clock {
    const values = this.table.rows.flatMap((row) =>
      evaluate(field.value, row, this.scope).slice(0, 1)
    );
    return settleClock(values, field.clock);
  }

  private time(field: TimeField, row: StoreRow): number | null {
    const [value] = evaluate(field.value, row, this.scope);
    return toMilliseconds(value, this.clocks.get(field)!);
  }

  /** In tables without row numbers the key column tells rows apart. */
  private declaredKey(row: StoreRow): number | bigint | null {
    const value = row.table.value(row, this.mapping.key);
    return typeof value === 'number' || typeof value === 'bigint' ? value : null;
  }

  private body(row: StoreRow): string {
    const text = textOf(evaluate(this.mapping.body, row, this.scope)) ?? '';
    const cut = row.freed?.cut;
    const columns = ownColumns([this.mapping.body]).map((name) => this.table.columnIndex(name));
    return cut && columns.includes(cut.column) ? text + LOST_MARK : text;
  }

  private direction(row: StoreRow): Direction {
    const { value, values, otherwise } = this.mapping.direction;
    const [stored] = evaluate(value, row, this.scope);
    return values[String(stored ?? '')] ?? otherwise;
  }

  private address(expression: Expression, row: StoreRow): string | null {
    return this.addresses(expression, row)[0] ?? null;
  }

  private addresses(expression: Expression, row: StoreRow): string[] {
    const owner = this.mapping.ownerPlaceholders ?? [];
    const texts = evaluate(expression, row, this.scope).map(String);
    return [...new Set(texts)].filter((text) => text.trim() !== '' && !owner.includes(text));
  }

  private thread(row: StoreRow): StoreThread {
    const { thread } = this.mapping;
    return {
      key: textOf(evaluate(thread.key, row, this.scope)) ?? '',
      participants: this.addresses(thread.participants, row),
      peer: thread.peer ? this.address(thread.peer, row) : null,
      title: (thread.title && textOf(evaluate(thread.title, row, this.scope))) || null
    };
  }

  private state(row: StoreRow): RecordState {
    if (row.live) return 'live';
    return this.vital.some((at) => row.freed!.lost.includes(at)) ? 'fragment' : 'recovered';
  }

  private judge(row: StoreRow): { certainty: number; reasons: string[] } {
    if (row.freed) return judgeRow(row.freed, row.table.schema.columns.length);
    const number = row.rowid === null ? '' : ` ${row.rowid}`;
    return { certainty: 100, reasons: [`live row${number} of table ${row.table.schema.name}`] };
  }

  private attachments(row: StoreRow): StoreAttachment[] {
    const field = this.mapping.attachments;
    if (!field) return [];
    return lookUpRows(field.rows, row, this.scope).map((part) => this.attachment(field, part));
  }

  private attachment(field: AttachmentField, part: StoreRow): StoreAttachment {
    const [bytes] = field.bytes ? evaluate(field.bytes, part, this.scope) : [];
    return {
      name: textOf(evaluate(field.name, part, this.scope)),
      mime: textOf(evaluate(field.mime, part, this.scope)),
      path: textOf(evaluate(field.path, part, this.scope)),
      bytes: typeof bytes === 'number' && bytes >= 0 ? bytes : null,
      state: part.live ? 'live' : 'recovered'
    };
  }
}

const FIRST_MESSAGE = Date.UTC(1985, 0);
const LAST_MESSAGE = Date.UTC(2100, 0);

/** A few characters tell nobody anything, and are what chance makes of other bytes. */
const SHORTEST_FRAGMENT = 4;

/** A fragment without words, or from outside the age of messages, is other bytes read as one. */
function isMisread({ state, sentAt, body, attachments }: StoreMessage): boolean {
  if (state !== 'fragment') return false;
  const words = body.replace(LOST_MARK, '').trim();
  if (body.endsWith(LOST_MARK) && words.length < SHORTEST_FRAGMENT && attachments.length === 0) {
    return true;
  }
  return sentAt !== null && (sentAt < FIRST_MESSAGE || sentAt > LAST_MESSAGE);
}

/** Columns of the message's own table that expressions read directly. */
function ownColumns(expressions: Expression[]): string[] {
  return expressions.flatMap((expression) => {
    if ('column' in expression) return [expression.column];
    if ('first' in expression) return ownColumns(expression.first.slice(0, 1));
    return [];
  });
}

function textOf(values: SqlValue[]): string | null {
  const [value] = values;
  if (value === undefined || value === null) return null;
  return value instanceof Uint8Array ? new TextDecoder().decode(value) : String(value);
}

/** The row number where it is sure, else the place of the first proof. */
function keyOf(row: StoreRow): string {
  const table = row.table.schema.name;
  if (row.live && row.rowid !== null) return `${table}/${row.rowid}`;
  const { file, offset } = row.live ?? row.freed!.proofs[0]!;
  const companion = /-(wal|journal)$/.exec(file)?.[1] ?? '';
  return `${table}/@${companion}${offset.toString(16)}`;
}

function proofsOf(row: StoreRow): Omit<Proof, 'source'>[] {
  if (row.freed) {
    return row.freed.proofs.map(({ file, page, offset, length, method }) => ({
      path: file,
      page,
      offset,
      length,
      method
    }));
  }
  const { file, page, offset, length } = row.live!;
  const method = file.endsWith('-wal') ? 'log' : file.endsWith('-journal') ? 'journal' : 'table';
  return [{ path: file, page, offset, length, method }];
}
