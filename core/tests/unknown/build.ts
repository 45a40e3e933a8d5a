import { deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import type { Database as SqlJs, SqlValue as Stored } from 'sql.js';
import { makeDatabase } from '../databases';
import { seeded } from '../telephony';
import type { Plan } from './dimensions';
import { Names } from './names';
import { talk, type Said, type Talk } from './talk';

/** Zone of times that are written without one. */
export const ZONE = 'Europe/Oslo';

export interface BuiltStore {
  plan: Plan;
  path: string;
  bytes: Uint8Array;
  live: Said[];
  deleted: Said[];
  talk: Talk;
}

/** A row of the table of messages, or of the other rows in it. */
interface Line {
  id: number;
  said: Said;
  /** Null for messages. */
  other: 'status' | 'join' | 'call' | 'edit' | 'deletion' | null;
  text: string | null;
}

interface Column {
  name: string;
  type: string;
  value: (line: Line) => Stored;
}

/** Makes a store as planned, and deletes a part of its messages. */
export function buildStore(plan: Plan): BuiltStore {
  return new Builder(plan).build();
}

const GONE = 0.15;

class Builder {
  private readonly random: () => number;
  private readonly names: Names;
  private readonly talk: Talk;
  private readonly lines: Line[] = [];
  private readonly columns: Column[] = [];
  private readonly before: ((db: SqlJs) => void)[] = [];
  private path = 'data/store.db';
  /** 1 where the owner's own are marked with one. */
  private readonly ownFirst: boolean;

  constructor(private readonly plan: Plan) {
    this.random = seeded(plan.seed);
    this.names = new Names(plan.style, (list) => this.pick(list));
    const groups = plan.conversation === 'members' || plan.conversation === 'rooms with nicknames';
    this.talk = talk({ seed: plan.seed, groups, addresses: plan.addresses });
    this.ownFirst = this.random() < 0.5;
    this.lines = this.withOthers();
  }

  private pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.random() * list.length)]!;
  }

  build(): BuiltStore {
    const { plan, talk } = this;
    this.textColumns();
    this.timeColumns();
    this.directionColumns();
    this.conversationColumns();
    this.otherColumns();
    this.noise();
    const gone = new Set(talk.said.filter(() => this.random() < GONE).map(({ n }) => n));
    const bytes = makeDatabase((db) => {
      db.run('BEGIN');
      this.create(db);
      for (const fill of this.before) fill(db);
      db.run('COMMIT');
      this.remove(db, gone);
    });
    const live = talk.said.filter(({ n }) => !gone.has(n));
    const deleted = talk.said.filter(({ n }) => gone.has(n));
    return { plan, path: this.path, bytes, live, deleted, talk };
  }

  /** Lines of the table: messages, and between them what else is kept there. */
  private withOthers(): Line[] {
    const { others } = this.plan;
    const lines: Line[] = [];
    for (const said of this.talk.said) {
      const make = (other: Line['other'], text: string | null): void =>
        void lines.push({ id: lines.length + 1, said, other, text });
      make(null, said.text);
      if (others === 'none' || this.random() > 0.12) continue;
      if (others === 'status') make('status', this.pick(['away', 'online', 'busy', null]));
      if (others === 'joins')
        make('join', this.pick([`${this.person(said)} joined`, `${this.person(said)} left`]));
      if (others === 'calls') make('call', null);
      if (others === 'edits') make('edit', `${said.text} (corrected)`);
      if (others === 'deletions') make('deletion', null);
    }
    return lines;
  }

  private person({ who }: Said): string {
    return this.talk.people[who]!.name;
  }

  private address(who: number): string {
    return this.talk.people[who]!.address;
  }

  private peer({ room }: Said): number {
    return this.talk.rooms[room]![0]!;
  }

  private add(name: string, type: string, value: Column['value']): void {
    this.columns.push({ name, type, value });
  }

  private get main(): string {
    return this.names.of('messages');
  }

  private textColumns(): void {
    const { names } = this;
    const name = names.of('text');
    switch (this.plan.text) {
      case 'text':
        return this.add(name, 'TEXT', ({ text }) => text);
      case 'blob utf-8':
        return this.add(name, 'BLOB', ({ text }) => text && Buffer.from(text));
      case 'blob utf-16':
        return this.add(name, 'BLOB', ({ text }) => text && Buffer.from(text, 'utf16le'));
      case 'field in json':
        return this.add(names.of('record'), 'TEXT', (line) =>
          JSON.stringify({ v: 2, [name]: line.text ?? undefined, style: { bold: false } })
        );
      case 'record in json':
        return this.add(names.of('record'), 'TEXT', (line) => JSON.stringify(this.record(line)));
      case 'markup':
        return this.add(name, 'TEXT', ({ text }) =>
          text === null
            ? null
            : `<p dir="auto"><span>${text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')}</span></p>`
        );
      case 'packed blob': {
        const pack = this.pick([deflateSync, gzipSync, deflateRawSync]);
        return this.add(name, 'BLOB', ({ text }) => text && pack(Buffer.from(text)));
      }
      case 'own table':
        return this.textTable(false);
      case 'parts':
        return this.textTable(true);
    }
  }

  /** The whole record in one column, its time and direction beside the text. */
  private record({ said, text, id }: Line): object {
    return {
      guid: `g-${id}`,
      meta: { sentTime: said.at, fromMe: said.who === 0 },
      content: { text, lang: 'und' }
    };
  }

  private textTable(inParts: boolean): void {
    const { names } = this;
    const table = names.of('parts');
    const [ref, seq, text] = [names.of('partOf'), names.of('sequence'), names.of('text')];
    this.before.push((db) => {
      db.run(
        `CREATE TABLE ${table}(_id INTEGER PRIMARY KEY, ${ref} INTEGER, ${seq} INTEGER, ${text} TEXT)`
      );
      for (const { id, text: whole } of this.lines) {
        if (whole === null) continue;
        const cut = inParts && whole.length > 60 ? Math.floor(whole.length / 2) : whole.length;
        const pieces = [whole.slice(0, cut), whole.slice(cut)].filter((piece) => piece !== '');
        pieces.forEach((piece, i) =>
          db.run(`INSERT INTO ${table}(${ref}, ${seq}, ${text}) VALUES(?,?,?)`, [id, i, piece])
        );
      }
    });
  }

  private timeColumns(): void {
    const { names, plan } = this;
    if (plan.text === 'record in json') return;
    const name = names.of('time');
    const at = ({ said }: Line): number => said.at;
    switch (plan.time) {
      case 'date and time':
        this.add(names.of('day'), 'TEXT', (line) => local(at(line)).slice(0, 10));
        return this.add(names.of('clock'), 'TEXT', (line) => local(at(line)).slice(11));
      case 'parent row':
        return this.parentTable();
      case 'in a uuid':
        return this.add(names.of('server'), 'TEXT', (line) => uuid7(at(line), line.id));
      case 'in a ulid':
        return this.add(names.of('server'), 'TEXT', (line) => ulid(at(line), line.id));
      default:
        return this.add(
          name,
          typeof stamp(0, plan.time) === 'string' ? 'TEXT' : 'INTEGER',
          (line) => stamp(at(line), plan.time)
        );
    }
  }

  private parentTable(): void {
    const { names } = this;
    const [table, time, ref] = [names.of('parent'), names.of('time'), names.of('parentId')];
    this.add(ref, 'INTEGER', ({ id }) => id + 5000);
    this.before.push((db) => {
      db.run(`CREATE TABLE ${table}(id INTEGER PRIMARY KEY, ${time} INTEGER, state INTEGER)`);
      for (const { id, said } of this.lines)
        db.run(`INSERT INTO ${table} VALUES(?,?,1)`, [id + 5000, said.at]);
    });
  }

  private own({ said }: Line): boolean {
    return said.who === 0;
  }

  private directionColumns(): void {
    const { names, plan } = this;
    const [yes, no] = this.ownFirst ? [1, 0] : [0, 1];
    if (plan.text === 'record in json') return;
    switch (plan.direction) {
      case 'own flag':
        return this.add(names.of('ownFlag'), 'INTEGER', (line) => (this.own(line) ? 1 : 0));
      case 'other flag':
        return this.add(names.of('otherFlag'), 'INTEGER', (line) => (this.own(line) ? 0 : 1));
      case 'neutral flag':
        this.evidence();
        return this.add(names.of('neutralFlag'), 'INTEGER', (line) =>
          this.own(line) ? yes! : no!
        );
      case 'numbers': {
        this.evidence();
        const [sent, received] = this.pick([
          [21, 20],
          [3, 7],
          [1, 2],
          [2, 1],
          [87, 10]
        ]);
        return this.add(names.of('kind'), 'INTEGER', (line) =>
          this.own(line) ? sent! : received!
        );
      }
      case 'words': {
        const [sent, received] = this.pick([
          ['out', 'in'],
          ['sent', 'recv'],
          ['outbox', 'inbox'],
          ['me', 'them'],
          ['S', 'R'],
          ['OUTGOING', 'INCOMING'],
          ['mo', 'mt']
        ]);
        return this.add(names.of('neutralFlag'), 'TEXT', (line) =>
          this.own(line) ? sent! : received!
        );
      }
      case 'account table':
        this.accounts();
        return;
      case 'folder':
        this.path = `accounts/${this.address(0)}/chat/store.db`;
        return;
      case 'every conversation':
      case 'two tables':
        return;
      case 'delivery columns':
        this.add(names.of('delivered'), 'INTEGER', (line) =>
          this.own(line) ? line.said.at + 2000 : null
        );
        return this.add(names.of('status'), 'INTEGER', (line) =>
          this.own(line) ? line.id % 3 : 0
        );
    }
  }

  /** What shows the polarity of a column that does not say it: only what came in can be unread, only what went out is delivered. */
  private evidence(): void {
    const { names } = this;
    const last = this.lines.length;
    const isLate = ({ id }: Line): boolean => id > last - 40 || id % 9 === 0;
    switch (this.plan.seed % 3) {
      case 0:
        return this.add(names.of('read'), 'INTEGER', (line) =>
          this.own(line) ? 1 : isLate(line) ? 0 : 1
        );
      case 1:
        return this.add(names.of('unread'), 'INTEGER', (line) =>
          !this.own(line) && isLate(line) ? 1 : 0
        );
      default:
        return this.add(names.of('delivered'), 'INTEGER', (line) =>
          this.own(line) && line.id % 11 > 0 ? line.said.at + 3000 : null
        );
    }
  }

  private accounts(): void {
    const { names } = this;
    const table = names.of('accounts');
    this.before.push((db) => {
      db.run(
        `CREATE TABLE ${table}(id INTEGER PRIMARY KEY, ${names.of('address', 'own')} TEXT, enabled INTEGER)`
      );
      db.run(`INSERT INTO ${table} VALUES(1, ?, 1)`, [this.address(0)]);
    });
  }

  /** Whether something other than the sender's name says who wrote. */
  private get isFlagged(): boolean {
    return (
      this.plan.text === 'record in json' ||
      ['own flag', 'other flag', 'neutral flag', 'numbers', 'words', 'delivery columns'].includes(
        this.plan.direction
      )
    );
  }

  private conversationColumns(): void {
    const { names, plan } = this;
    const needsSender = !this.isFlagged && plan.direction !== 'two tables';
    switch (plan.conversation) {
      case 'peer':
        this.add(names.of('peer'), 'TEXT', ({ said }) => this.address(this.peer(said)));
        if (needsSender) this.add(names.of('sender'), 'TEXT', ({ said }) => this.address(said.who));
        return;
      case 'one join':
        this.add(names.of('conversationId'), 'INTEGER', ({ said }) => said.room + 11);
        this.before.push((db) => this.conversations(db, true));
        if (needsSender) this.add(names.of('sender'), 'TEXT', ({ said }) => this.address(said.who));
        return;
      case 'members':
        this.add(names.of('conversationId'), 'INTEGER', ({ said }) => said.room + 11);
        this.add(names.of('sender'), 'INTEGER', ({ said }) =>
          said.who === 0 && this.isFlagged && this.plan.seed % 2 ? null : said.who + 101
        );
        this.before.push((db) => this.withMembers(db));
        return;
      case 'three joins':
        this.add(
          names.of('sessionId'),
          'INTEGER',
          ({ said }) => said.room * 10 + Math.floor(said.n / 200)
        );
        if (needsSender) this.add(names.of('sender'), 'TEXT', ({ said }) => this.address(said.who));
        this.before.push((db) => this.sessions(db));
        return;
      case 'address pair':
        this.add(names.of('sender'), 'TEXT', ({ said }) => this.address(said.who));
        return this.add(names.of('recipient'), 'TEXT', ({ said }) =>
          this.address(said.who === 0 ? this.peer(said) : 0)
        );
      case 'rooms with nicknames':
        this.add(names.of('room'), 'TEXT', ({ said }) =>
          this.talk.rooms[said.room]!.length > 1
            ? `room${said.room}@rooms.example`
            : this.address(this.peer(said))
        );
        return this.add(names.of('nick'), 'TEXT', ({ said }) =>
          plan.direction === 'folder' || plan.direction === 'account table'
            ? this.address(said.who)
            : this.person(said)
        );
    }
  }

  private conversations(db: SqlJs, addressed: boolean): void {
    const { names } = this;
    const columns = addressed ? `, ${names.of('address', 'conversation')} TEXT` : '';
    db.run(
      `CREATE TABLE ${names.of('conversations')}(id INTEGER PRIMARY KEY, ${names.of('title')} TEXT${columns}, unread_count INTEGER)`
    );
    this.talk.rooms.forEach((members, room) => {
      const first = this.talk.people[members[0]!]!;
      const title = members.length > 1 ? `Crew ${room}` : first.name;
      const values = addressed ? [room + 11, title, first.address, 0] : [room + 11, title, 0];
      db.run(
        `INSERT INTO ${names.of('conversations')} VALUES(${values.map(() => '?').join()})`,
        values
      );
    });
  }

  private withMembers(db: SqlJs): void {
    const { names } = this;
    this.conversations(db, false);
    const [contacts, members] = [names.of('contacts'), names.of('members')];
    db.run(
      `CREATE TABLE ${contacts}(id INTEGER PRIMARY KEY, ${names.of('name')} TEXT, ${names.of('address')} TEXT)`
    );
    this.talk.people.forEach(({ name, address }, i) =>
      db.run(`INSERT INTO ${contacts} VALUES(?,?,?)`, [i + 101, name, address])
    );
    db.run(
      `CREATE TABLE ${members}(${names.of('conversationId')} INTEGER, ${names.of('contactId')} INTEGER)`
    );
    this.talk.rooms.forEach((list, room) => {
      for (const who of [0, ...list])
        db.run(`INSERT INTO ${members} VALUES(?,?)`, [room + 11, who + 101]);
    });
  }

  private sessions(db: SqlJs): void {
    const { names } = this;
    const [sessions, threads, contacts] = [
      names.of('sessions'),
      names.of('conversations'),
      names.of('contacts')
    ];
    db.run(
      `CREATE TABLE ${sessions}(id INTEGER PRIMARY KEY, ${names.of('conversationId')} INTEGER)`
    );
    db.run(`CREATE TABLE ${threads}(id INTEGER PRIMARY KEY, ${names.of('contactId')} INTEGER)`);
    db.run(
      `CREATE TABLE ${contacts}(id INTEGER PRIMARY KEY, ${names.of('name')} TEXT, ${names.of('address')} TEXT)`
    );
    this.talk.rooms.forEach((members, room) => {
      for (let part = 0; part < 4; part++)
        db.run(`INSERT INTO ${sessions} VALUES(?,?)`, [room * 10 + part, room + 301]);
      db.run(`INSERT INTO ${threads} VALUES(?,?)`, [room + 301, members[0]! + 901]);
    });
    this.talk.people.forEach(({ name, address }, i) => {
      if (i > 0) db.run(`INSERT INTO ${contacts} VALUES(?,?,?)`, [i + 901, name, address]);
    });
  }

  private otherColumns(): void {
    const { names } = this;
    if (this.plan.others === 'none') return;
    const kinds = { status: 4, join: 6, call: 8, edit: 12, deletion: 13 };
    this.add(names.of('event'), 'INTEGER', ({ other }) => (other === null ? 0 : kinds[other]));
    if (this.plan.others === 'calls')
      this.add(names.of('duration'), 'INTEGER', ({ other, id }) =>
        other === 'call' ? (id * 13) % 400 : 0
      );
    if (this.plan.others === 'edits' || this.plan.others === 'deletions')
      this.add(names.of('target'), 'INTEGER', ({ other, id }) => (other === null ? null : id - 1));
  }

  private noise(): void {
    const { names } = this;
    const all: (() => void)[] = [
      () => this.add(names.of('priority'), 'INTEGER', () => 0),
      () => this.add(names.of('starred'), 'INTEGER', ({ id }) => (id % 41 === 0 ? 1 : 0)),
      () => this.add(names.of('size'), 'INTEGER', ({ text }) => (text ?? '').length * 2 + 40),
      () => this.add(names.of('device'), 'TEXT', ({ id }) => (id % 5 ? 'desk' : 'phone')),
      () =>
        this.add(
          names.of('server', 'noise'),
          'TEXT',
          ({ id }) => `srv-${(id * 7919).toString(36)}-${id}`
        )
    ];
    for (const make of all) if (this.random() < 0.6) make();
  }

  private create(db: SqlJs): void {
    const { names } = this;
    const ordered = this.columns
      .map((column) => ({ column, at: this.random() }))
      .sort((a, b) => a.at - b.at)
      .map(({ column }) => column);
    const sql = (table: string): string =>
      `CREATE TABLE ${table}(${names.of('id')} INTEGER PRIMARY KEY, ${ordered.map(({ name, type }) => `${name} ${type}`).join(', ')})`;
    const isSplit = this.plan.direction === 'two tables' && this.plan.text !== 'record in json';
    const [sent, received] = isSplit
      ? [names.of('outbox'), names.of('inbox')]
      : [this.main, this.main];
    for (const table of new Set([sent, received])) db.run(sql(table));
    for (const line of this.lines) {
      const values = [line.id, ...ordered.map(({ value }) => value(line))];
      db.run(
        `INSERT INTO ${this.own(line) ? sent : received} VALUES(${values.map(() => '?').join()})`,
        values
      );
    }
  }

  private remove(db: SqlJs, gone: ReadonlySet<number>): void {
    const ids = this.lines
      .filter(({ said, other }) => other === null && gone.has(said.n))
      .map(({ id }) => id);
    const { names, plan } = this;
    const tables: [string, string][] =
      plan.direction === 'two tables' && plan.text !== 'record in json'
        ? [
            [names.of('outbox'), names.of('id')],
            [names.of('inbox'), names.of('id')]
          ]
        : [[this.main, names.of('id')]];
    if (plan.text === 'own table' || plan.text === 'parts')
      tables.push([names.of('parts'), names.of('partOf')]);
    for (const [table, key] of tables)
      db.run(`DELETE FROM ${table} WHERE ${key} IN (${ids.join()})`);
  }
}

/** Figures of a moment in {@link ZONE}, with a blank in the middle. */
function local(at: number): string {
  return new Intl.DateTimeFormat('sv-SE', {
    timeZone: ZONE,
    dateStyle: 'short',
    timeStyle: 'medium'
  }).format(at);
}

function stamp(at: number, kind: Plan['time']): Stored {
  const iso = new Date(at).toISOString();
  const EPOCH_2001 = 978_307_200_000;
  switch (kind) {
    case 'seconds':
      return at / 1000;
    case 'microseconds':
      return at * 1000;
    case 'nanoseconds':
      return (BigInt(at) * 1_000_000n) as unknown as Stored;
    case 'seconds 2001':
      return (at - EPOCH_2001) / 1000 + 0.25;
    case 'nanoseconds 2001':
      return (BigInt(at - EPOCH_2001) * 1_000_000n) as unknown as Stored;
    case 'microseconds 1601':
      return (at + 11_644_473_600_000) * 1000;
    case 'ticks':
      return (BigInt(at + 62_135_596_800_000) * 10_000n) as unknown as Stored;
    case 'iso T Z':
      return `${iso.slice(0, 19)}Z`;
    case 'iso blank':
      return local(at);
    case 'iso fraction':
      return iso.replace('000Z', '481Z');
    case 'iso +02:00':
      return `${new Date(at + 7_200_000).toISOString().slice(0, 19)}+02:00`;
    case 'iso +0200':
      return `${new Date(at + 7_200_000).toISOString().slice(0, 19)}+0200`;
    case 'iso T':
      return local(at).replace(' ', 'T');
    default:
      return at;
  }
}

function uuid7(at: number, id: number): string {
  const time = at.toString(16).padStart(12, '0');
  const rest = ((id * 2_654_435_761) >>> 0).toString(16).padStart(8, '0');
  return `${time.slice(0, 8)}-${time.slice(8)}-7${rest.slice(0, 3)}-9${rest.slice(3, 6)}-${rest}${rest.slice(0, 4)}`;
}

const BASE32 = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';

function ulid(at: number, id: number): string {
  let out = '';
  for (let rest = at, i = 0; i < 10; i++, rest = Math.floor(rest / 32))
    out = BASE32[rest % 32]! + out;
  for (let i = 0; i < 16; i++) out += BASE32[(id * 7 + i * 11) % 32]!;
  return out;
}
