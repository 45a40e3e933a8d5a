import type { SqlValue } from '../../sqlite';
import { toMilliseconds } from '../clock';
import {
  lookUp,
  type AttachmentField,
  type Expression,
  type MessageMapping,
  type NameField,
  type ReadingProfile,
  type ThreadField
} from '../profile';
import {
  byAbsence,
  byAuthor,
  directionColumn,
  ownerByPresence,
  twoKinds,
  type WorkedDirection
} from './direction';
import { byShape, isPeople } from './shape';
import { findLinks, RECIPIENT, type Link } from './links';
import { CONVERSATIONS, labelOf, linkTo, membersThrough, PEOPLE } from './people';
import type { SampledTable } from './sample';
import { virtualColumns, type VirtualColumn } from './virtual';

/** A profile that was worked out from the data, with what speaks for it. */
export interface WorkedOut {
  profile: ReadingProfile;
  fit: number;
  reasons: string[];
}

const LEAST_ROWS = 3;
const LEAST_WORDING = 0.4;
/** Highest fit of a table in which nobody writes to anybody. */
const NO_PARTIES = 50;

/** Works out which table holds messages and what its columns mean; null when none looks like messages. */
export function workOut(tables: SampledTable[]): WorkedOut | null {
  const byName = new Map(tables.map((table) => [table.name, table]));
  const links = findLinks(tables);
  const found: (WorkedOut & { rank: number })[] = tables
    .filter(({ rows }) => rows.length >= LEAST_ROWS)
    .flatMap((root) => new Working(root, byName, links).result() ?? []);
  found.sort((a, b) => b.rank - a.rank);
  const [first, ...others] = found;
  return first ? withMore(first, others, byName) : null;
}

/** Fit from which a second table of messages is read along with the first. */
const SECOND_FROM = 75;
const LEAST_SECOND = 10;

/** Some stores keep groups, or kinds of messages, in tables of their own. Copies of the first table's texts are none of these. */
function withMore(
  first: WorkedOut,
  others: WorkedOut[],
  tables: ReadonlyMap<string, SampledTable>
): WorkedOut {
  const mainTable = tables.get(first.profile.messages[0]!.table)!;
  const texts = new Set(mainTable.rows.flat().filter((v) => typeof v === 'string' && v.length > 8));
  const more = others.filter(({ profile, fit }) => {
    const table = tables.get(profile.messages[0]!.table)!;
    if (fit < SECOND_FROM || table.rows.length < LEAST_SECOND) return false;
    const own = table.rows.flat().filter((v) => typeof v === 'string' && v.length > 8);
    return own.filter((v) => texts.has(v)).length < own.length * 0.3;
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

const TIME_NAME = /(time|date|stamp|created|sent|(^|_)ts$|_at$|when|^at$|clock)/i;
const NOT_SENT =
  /(expir|edit|modif|read|seen|deliver|receiv|recv|rcvd|update|last|birth|due|mute|sync|server|local|start|end|remind|delete|purge|notif|played|download)/i;
const TEXT_NAME = /(body|text|message|msg|content|txt|plain|markup|data)/i;
const NOT_TEXT =
  /(title|subject|name|alias|url|path|file|preview|snippet|error|status|quote|raw|json|header|caption|description|label|search|fts)/i;
const SENDER_NAME = /(sender|author|from|speaker|nick|who|creator|writer|user|source)/i;
const PEER_NAME =
  /(counterpart|peer|partner|contact|remote|buddy|jid|address|handle|number|phone|participant|friend|recipient|identity)/i;
const FLAG_NAME = /(from_?me|is_?from|_type$|resource|(^|_)counts?$|status|state|flag|device)/i;
const FILE_NAME = /(attach|file|media|path|uri|image)/i;

class Working {
  private readonly columns: VirtualColumn[];
  private readonly reasons: string[] = [];

  constructor(
    private readonly root: SampledTable,
    private readonly tables: ReadonlyMap<string, SampledTable>,
    private readonly links: readonly Link[]
  ) {
    const promising = root.columns.some(
      ({ wording, clock }) => clock !== null || (wording?.score ?? 0) >= LEAST_WORDING
    );
    this.columns = promising ? virtualColumns(root, tables, links) : [];
  }

  result(): (WorkedOut & { rank: number }) | null {
    const text = this.text();
    const time = text && this.time();
    if (!text || !time) return null;
    const profile = this.profile(text, time);
    const { reasons } = this;
    // Notes, pages and logs have text and times too; only messages have parties.
    const most = this.parties === 0 ? NO_PARTIES : 100;
    const fit = Math.max(0, Math.min(most, Math.round(this.fit)));
    // Side tables (previews, drafts) read like messages too; the table with the most rows holds them.
    return { profile, fit, reasons, rank: fit + 8 * Math.log10(this.root.rows.length) };
  }

  private fit = 0;
  /** Signs that somebody wrote to somebody: a direction, a writer, a conversation. */
  private parties = 0;

  private add(weight: number, reason: string): void {
    this.fit += weight;
    this.reasons.push(reason);
  }

  /** The column that reads like what people write. */
  private text(): VirtualColumn | null {
    const scored = this.columns
      .flatMap((column) => {
        const { wording, filled, rows } = column.facts;
        if (!wording || wording.score < LEAST_WORDING || filled < LEAST_ROWS) return [];
        const named = TEXT_NAME.test(column.name) ? 0.25 : 0;
        const other = NOT_TEXT.test(column.name) ? 0.3 : 0;
        const full = 0.2 * (filled / Math.max(1, rows));
        return [{ column, score: wording.score + named - other + full - 0.15 * column.hops }];
      })
      .sort((a, b) => b.score - a.score);
    const [first, second] = scored;
    if (!first || first.score < LEAST_WORDING) return null;
    const close =
      second !== undefined &&
      second.score > first.score - 0.15 &&
      second.column.hops === first.column.hops;
    const share = Math.round(first.column.facts.wording!.score * 100);
    this.add(
      Math.min(30, 30 * Math.min(1, first.score)) - (close ? 12 : 0),
      `${nameOf(first.column)} reads like text that people write (${share} of 100)${close ? `, and so does ${nameOf(second.column)}` : ''}`
    );
    return first.column;
  }

  /** The column that tells when. */
  private time(): VirtualColumn | null {
    const scored = this.columns
      .flatMap((column) => {
        const { clock, filled, rows } = column.facts;
        if (!clock || filled < rows * 0.5) return [];
        const named = TIME_NAME.test(column.name) ? 0.6 : 0;
        const other = NOT_SENT.test(column.name) ? 0.5 : 0;
        const own = /(^|_)(sent|created)/i.test(column.name) ? 0.1 : 0;
        const full = filled / Math.max(1, rows);
        return [
          {
            column,
            score: clock.share + 0.3 * clock.rising + named + own + full - other - 0.2 * column.hops
          }
        ];
      })
      .sort((a, b) => b.score - a.score);
    const [first, second] = scored;
    if (!first) return null;
    const { clock } = first.column.facts;
    const named = TIME_NAME.test(first.column.name);
    const unsure =
      second !== undefined &&
      second.score > first.score - 0.2 &&
      differs(first.column, second.column);
    this.add(
      (named ? 30 : 20) * clock!.share - (unsure ? 12 : 0),
      `${nameOf(first.column)} holds times: ${clock!.clock.replace('-', ' since ')} puts ${Math.round(clock!.share * 100)} % of them between 1995 and 2045`
    );
    return first.column;
  }

  private profile(text: VirtualColumn, time: VirtualColumn): ReadingProfile {
    const shape = byShape(this.root, this.tables, this.links);
    const conversation = this.conversation() ?? this.byRoom(shape.conversation);
    const named = this.person(SENDER_NAME, text);
    const peer = this.person(PEER_NAME, text, named);
    const sender = named ?? (peer ? null : this.own(shape.person));
    const recipient = this.person(RECIPIENT, text, sender);
    const room = conversation ?? (sender && recipient ? null : (peer ?? null));
    const direction = this.direction(sender, recipient, room);
    const attachments = this.attachments();
    const markup = (text.facts.wording?.markup ?? 0) > 0.5;
    const body: Expression = markup ? { plainText: text.expression } : text.expression;
    const from = this.senderExpression(sender, peer, direction);
    const mapping: MessageMapping = {
      table: this.root.name,
      key:
        this.root.schema.columns.find(({ isRowid }) => isRowid)?.name ??
        this.root.keys[0] ??
        'rowid',
      only: [
        {
          value: { first: [text.expression, ...attachments.map(({ path }) => path)] },
          present: true
        }
      ],
      body,
      sentAt: { value: time.expression, clock: time.facts.clock!.clock },
      direction: direction?.field ?? { value: { constant: '' }, values: {}, otherwise: 'unknown' },
      sender: from,
      thread: this.thread(room, sender, recipient, this.ownForms(sender, direction), from),
      ...(attachments.length > 0 ? { attachments } : {})
    };
    if (direction) this.add(direction.weight, direction.reason);
    this.parties = [room, sender, peer, direction].filter((part) => part !== null).length;
    return {
      id: `worked-out:${this.root.name}`,
      title: `worked out from ${this.root.name}`,
      needs: { [this.root.name]: this.ownColumns(mapping) },
      knows: {},
      messages: [mapping],
      names: this.names(sender, room)
    };
  }

  private ownColumns(mapping: MessageMapping): string[] {
    const names = this.root.schema.columns.map(({ name }) => name);
    const text = JSON.stringify(mapping);
    return names.filter((name) => text.includes(`{"column":${JSON.stringify(name)}}`));
  }

  private conversation(): VirtualColumn | null {
    const scored = this.columns
      .flatMap((column) => {
        const { facts, name } = column;
        if (facts.clock || facts.blobs > 0 || facts.filled < facts.rows * 0.6) return [];
        if (facts.distinct < 1 || facts.distinct > Math.max(1, facts.rows * 0.7)) return [];
        const link = linkTo(this.links, column.table, name, CONVERSATIONS);
        const named = CONVERSATIONS.test(name) && !/type|count|version|state|unread/i.test(name);
        const called = /name|title/i.test(name) ? 1 : 0;
        if (!named && !(link && CONVERSATIONS.test(link.to))) return [];
        return [
          {
            column,
            score:
              (named ? 2 : 0) + (link ? 2 : 0) + (link?.declared ? 1 : 0) - called - column.hops
          }
        ];
      })
      .sort((a, b) => b.score - a.score);
    const best = scored[0]?.column ?? null;
    if (best)
      this.add(
        13,
        `${nameOf(best)} tells conversations apart (${best.facts.distinct} in the sample)`
      );
    return best;
  }

  private own(name: string | null): VirtualColumn | null {
    return this.columns.find((column) => column.hops === 0 && column.name === name) ?? null;
  }

  /** A conversation that is one by the tables around it. */
  private byRoom(name: string | null): VirtualColumn | null {
    const column = this.own(name);
    if (column) this.add(10, `${nameOf(column)} refers to a table whose rows have members`);
    return column;
  }

  /** A column that names a person in the given part. */
  private person(
    role: RegExp,
    text: VirtualColumn,
    other: VirtualColumn | null = null
  ): VirtualColumn | null {
    const scored = this.columns
      .flatMap((column) => {
        const { facts, name } = column;
        if (
          column === text ||
          column === other ||
          facts.clock ||
          facts.blobs > 0 ||
          facts.filled < 1
        )
          return [];
        if (
          !role.test(name) ||
          FLAG_NAME.test(name) ||
          facts.distinct > Math.max(2, facts.rows * 0.7)
        )
          return [];
        if ((facts.wording?.score ?? 0) > 0.75) return [];
        const link = linkTo(this.links, column.table, name, PEOPLE);
        const identifies = facts.texts === facts.filled;
        if (!link && !identifies && facts.distinct < 2) return [];
        const full = facts.filled / Math.max(1, facts.rows);
        const score = (link ? 2 : 0) + (identifies ? 1.5 : 0) + full - column.hops;
        return link || identifies ? [{ column, score }] : [];
      })
      .sort((a, b) => b.score - a.score);
    return scored[0]?.column ?? null;
  }

  private direction(
    sender: VirtualColumn | null,
    recipient: VirtualColumn | null,
    room: VirtualColumn | null
  ): WorkedDirection | null {
    const flag = this.flag();
    if (flag && flag.weight >= 11) return flag;
    const byOwner = sender && (this.owner(sender, recipient, room) ?? byAbsence(sender));
    return byOwner ?? flag ?? twoKinds(this.root);
  }

  /** A direction column of the root or of a table beside it. */
  private flag(): WorkedDirection | null {
    const own = directionColumn(this.root);
    if (own && own.weight >= 11) return own;
    for (const column of this.columns) {
      if (column.hops === 0 || column.facts.filled < column.facts.rows * 0.9) continue;
      const table = this.tables.get(column.table)!;
      const found = directionColumn(table);
      if (!found || !('value' in found.field)) continue;
      const { value } = found.field;
      if ('column' in value && value.column === column.name)
        return { ...found, field: { ...found.field, value: column.expression } };
    }
    return own;
  }

  private owner(
    sender: VirtualColumn,
    recipient: VirtualColumn | null,
    room: VirtualColumn | null
  ): WorkedDirection | null {
    const told = this.selfNamed(sender);
    if (told) return byAuthor(sender.expression, told.own, told.reason);
    if (room) {
      const talks = sender.values.map((author, i) => ({
        author,
        conversation: room.values[i] ?? null
      }));
      const owner = ownerByPresence(talks);
      if (owner !== null)
        return byAuthor(
          sender.expression,
          [owner],
          `${owner} writes in nearly all conversations, so that is the owner`
        );
    }
    if (recipient) {
      const owner = alwaysThere(sender.values, recipient.values);
      if (owner !== null)
        return byAuthor(
          sender.expression,
          [owner],
          `${owner} wrote or received every message, so that is the owner`
        );
    }
    return null;
  }

  /** Accounts, and rows that say of themselves that they are the owner. */
  private selfNamed(sender: VirtualColumn): { own: string[]; reason: string } | null {
    const used = new Set(sender.facts.frequent.keys());
    for (const [name, table] of this.tables) {
      if (
        !/(account|self|owner|my_?profile|identity|identities|^me$|^user$|settings|config)/i.test(
          name
        )
      )
        continue;
      if (table.rows.length > 20 || table === this.root) continue;
      const texts = table.rows
        .flat()
        .filter((v): v is string => typeof v === 'string' && v.length > 2);
      const own = [...new Set(texts)].filter((text) => used.has(text));
      if (own.length > 0)
        return { own, reason: `table ${name} names the owner: ${own.join(', ')}` };
    }
    const link = linkTo(this.links, sender.table, sender.name, PEOPLE);
    return link ? this.selfMarked(link, used) : null;
  }

  private selfMarked(
    link: Link,
    used: ReadonlySet<string>
  ): { own: string[]; reason: string } | null {
    const people = this.tables.get(link.to)!;
    const key = people.index(link.key);
    for (const column of people.columns) {
      if (
        !/(is_?self|is_?me|^self$|^me$|is_?owner|is_?own|is_?user|is_?account)/i.test(column.name)
      )
        continue;
      const at = people.index(column.name);
      const own = people.rows.filter((row) => Number(row[at]) === 1).map((row) => String(row[key]));
      if (own.length > 0 && own.length <= 3 && own.some((id) => used.has(id)))
        return { own, reason: `column ${column.name} of ${link.to} marks the owner` };
    }
    return null;
  }

  private senderExpression(
    sender: VirtualColumn | null,
    peer: VirtualColumn | null,
    direction: WorkedDirection | null
  ): Expression {
    const columns = [sender, peer].filter((column) => column !== null);
    if (columns.length === 0) return { constant: '' };
    this.add(7, `${nameOf(columns[0]!)} names who wrote`);
    // A column that names the other party in both directions is the writer of what came in.
    const expressions = columns.map((column) => this.addressOf(column, PEOPLE));
    const own = direction ? [...direction.own] : [];
    return expressions.length === 1 || own.length > 0 ? expressions[0]! : { first: expressions };
  }

  /** The address that a column stands for, through the tables of people where it is a number. */
  private addressOf(column: VirtualColumn, sense: RegExp): Expression {
    const link = linkTo(this.links, column.table, column.name, sense);
    if (!link) return column.expression;
    const label = labelOf(this.tables.get(link.to)!, this.tables, this.links);
    const through = (inner: Expression): Expression =>
      lookUp(link.to, link.key, column.expression, inner);
    const options = [label.address, label.name].flatMap((e) => (e ? [through(e)] : []));
    return { first: [...options, column.expression] };
  }

  /** The owner's identities, and what the tables of people call them. */
  private ownForms(sender: VirtualColumn | null, direction: WorkedDirection | null): string[] {
    const told = direction ? [...direction.own] : [];
    const own = told.length > 0 ? told : this.writersOfOutgoing(sender, direction);
    const link = sender && linkTo(this.links, sender.table, sender.name, PEOPLE);
    if (!link || own.length === 0) return own;
    const people = this.tables.get(link.to)!;
    const key = people.index(link.key);
    const rows = people.rows.filter((row) => own.includes(String(row[key]).toLowerCase()));
    const texts = rows.flat().filter((v): v is string => typeof v === 'string' && v.length > 1);
    return [...new Set([...own, ...texts.map((text) => text.toLowerCase())])];
  }

  /** Where a column tells the direction, the one who wrote what went out is the owner. */
  private writersOfOutgoing(
    sender: VirtualColumn | null,
    direction: WorkedDirection | null
  ): string[] {
    if (!sender || !direction || !('value' in direction.field)) return [];
    const { value, values } = direction.field;
    const flag = this.columns.find((c) => JSON.stringify(c.expression) === JSON.stringify(value));
    const writers = (flag?.values ?? []).flatMap((v, i) =>
      values[String(v)] === 'outgoing' ? [String(sender.values[i])] : []
    );
    const [first] = writers;
    const same = writers.filter((writer) => writer === first).length;
    const alone = first !== undefined && first !== 'null' && same >= writers.length * 0.9;
    return alone ? [first.toLowerCase()] : [];
  }

  private thread(
    room: VirtualColumn | null,
    sender: VirtualColumn | null,
    recipient: VirtualColumn | null,
    own: string[],
    from: Expression
  ): ThreadField {
    if (!room && sender && recipient) {
      const isOwn = { value: sender.expression, is: own };
      const other: Expression = {
        first: [
          { when: isOwn, then: this.addressOf(recipient, PEOPLE) },
          this.addressOf(sender, PEOPLE)
        ]
      };
      this.add(13, `${nameOf(sender)} and ${nameOf(recipient)} are the two parties`);
      return { key: other, participants: other, own };
    }
    if (!room) {
      return { key: from, participants: from, own };
    }
    return this.room(room, own);
  }

  private room(room: VirtualColumn, own: string[]): ThreadField {
    const link = linkTo(this.links, room.table, room.name, CONVERSATIONS);
    const collected = { key: room.expression, participants: room.expression, own, collect: true };
    if (!link) {
      // Addresses stand for themselves; numbers of conversations do not.
      const addressed = PEER_NAME.test(room.name) || room.facts.texts === room.facts.filled;
      return addressed && !CONVERSATIONS.test(room.name)
        ? { key: room.expression, participants: room.expression, own }
        : collected;
    }
    const conversations = this.tables.get(link.to)!;
    const through = (inner: Expression): Expression =>
      lookUp(link.to, link.key, room.expression, inner);
    const label = labelOf(conversations, this.tables, this.links);
    const title = label.name ? { title: through(label.name) } : {};
    const members = this.members(conversations, link, room, own);
    if (members) return { key: room.expression, participants: members, own, ...title };
    if (isPeople(conversations)) {
      const address = this.addressOf(room, PEOPLE);
      return { key: room.expression, participants: address, own };
    }
    if (!label.address) return { ...collected, ...title };
    const parties = [label.address, label.name].flatMap((e) => (e ? [through(e)] : []));
    return { key: room.expression, participants: { first: parties }, own, ...title };
  }

  private members(
    conversations: SampledTable,
    link: Link,
    room: VirtualColumn,
    own: string[]
  ): Expression | null {
    const members = membersThrough(conversations.name, this.tables, this.links);
    if (!members) return null;
    const people = this.tables.get(members.person.to)!;
    const label = labelOf(people, this.tables, this.links);
    const inner = [label.address, label.name].flatMap((e) => e ?? []);
    if (inner.length === 0) return null;
    const isOther: Expression[] = inner;
    const person = lookUp(
      members.person.to,
      members.person.key,
      { column: members.person.column },
      { first: isOther }
    );
    const others: Expression =
      own.length > 0
        ? { when: { value: { column: members.person.column }, not: own }, then: person }
        : person;
    const key = lookUp(link.to, link.key, room.expression, { column: link.key });
    return lookUp(
      members.table,
      members.conversation,
      link.key === room.name ? room.expression : { first: [key, room.expression] },
      others
    );
  }

  private attachments(): AttachmentField[] {
    for (const column of this.columns) {
      if (column.hops > 0 || column.facts.filled < 1) continue;
      if (column.facts.texts < column.facts.filled || !mostlyFiles(column.values)) continue;
      // A name that says so, or values with folders in them: a word with a dot is no file.
      if (!FILE_NAME.test(column.name) && !mostlyPaths(column.values)) continue;
      const mime = this.columns.find(
        (c) => c.hops === 0 && /mime|content_?type/i.test(c.name) && c.facts.texts > 0
      );
      this.reasons.push(`${nameOf(column)} names files`);
      return [
        {
          name: { match: column.expression, pattern: '([^/\\\\]+)$' },
          path: column.expression,
          ...(mime ? { mime: mime.expression } : {})
        }
      ];
    }
    return this.attachmentTable();
  }

  /** A table whose rows refer to messages and name files. */
  private attachmentTable(): AttachmentField[] {
    for (const link of this.links) {
      if (link.to !== this.root.name) continue;
      const table = this.tables.get(link.from)!;
      const file = table.columns.find(
        (c) =>
          /(path|file|name|uri|url)/i.test(c.name) &&
          c.texts > 0 &&
          mostlyFiles([...c.frequent.keys()])
      );
      if (!file) continue;
      const mime = table.columns.find((c) => /mime|content_?type/i.test(c.name));
      const size = table.columns.find((c) => /size|bytes|length/i.test(c.name) && c.numbers > 0);
      this.reasons.push(`table ${table.name} names the files of messages`);
      return [
        {
          rows: { table: table.name, match: link.column, from: { column: link.key } },
          name: { match: { column: file.name }, pattern: '([^/\\\\]+)$' },
          path: { column: file.name },
          ...(mime ? { mime: { column: mime.name } } : {}),
          ...(size ? { bytes: { column: size.name } } : {})
        }
      ];
    }
    return [];
  }

  private names(sender: VirtualColumn | null, room: VirtualColumn | null): NameField[] {
    const fields: NameField[] = [];
    for (const [column, sense] of [
      [sender, PEOPLE],
      [room, PEOPLE]
    ] as const) {
      const link = column && linkTo(this.links, column.table, column.name, sense);
      if (!link) continue;
      const { address, name } = labelOf(this.tables.get(link.to)!, this.tables, this.links);
      if (address && name) fields.push({ table: link.to, address, name });
    }
    return fields;
  }
}

function nameOf(column: VirtualColumn): string {
  return `column ${column.name} of ${column.table}`;
}

/** Whether two columns of times tell different moments for many rows. */
function differs(a: VirtualColumn, b: VirtualColumn): boolean {
  let apart = 0;
  a.values.forEach((value, i) => {
    const first = toMilliseconds(value, a.facts.clock!.clock);
    const second = toMilliseconds(b.values[i], b.facts.clock!.clock);
    if (first !== null && second !== null && Math.abs(first - second) >= 1000) apart++;
  });
  return apart > a.values.length * 0.05;
}

/** The identity that is sender or recipient of every row; null when there is none, or two. */
function alwaysThere(senders: SqlValue[], recipients: SqlValue[]): string | null {
  const counts = new Map<string, number>();
  senders.forEach((sender, i) => {
    for (const party of new Set([String(sender), String(recipients[i])]))
      counts.set(party, (counts.get(party) ?? 0) + 1);
  });
  const all = [...counts].filter(([, count]) => count >= senders.length * 0.95);
  return all.length === 1 ? all[0]![0] : null;
}

function mostlyFiles(values: SqlValue[]): boolean {
  const texts = values.filter((v): v is string => typeof v === 'string' && v !== '');
  const files = texts.filter((text) => /[^\s/\\]\.\w{2,5}$/.test(text) && !/\s{2}/.test(text));
  return texts.length > 0 && files.length >= texts.length * 0.6;
}

function mostlyPaths(values: SqlValue[]): boolean {
  const texts = values.filter((v): v is string => typeof v === 'string' && v !== '');
  return (
    texts.length > 0 && texts.filter((text) => /[/\\]/.test(text)).length >= texts.length * 0.6
  );
}
