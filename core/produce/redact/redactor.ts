import {
  OWNER,
  type Attachment,
  type Contact,
  type FileRecord,
  type Message,
  type Person
} from '../../records';
import { plain, withBars, type Span, type Text } from '../parts';
import type { Reason, Redaction } from '../settings';
import { Secrets, type Secret } from './match';

/** A part of a picture that is covered; shares of its width and height. */
export interface Area {
  x: number;
  y: number;
  width: number;
  height: number;
  code: string;
}

/** How often each code was used, and on what. */
export interface RedactionCount {
  code: string;
  what: 'text' | 'line' | 'file' | 'area' | 'person';
  count: number;
}

/** A redaction as the log of redactions tells it. */
export interface RedactionEntry {
  code: string;
  what: RedactionCount['what'];
  /** Line that it is in; null where it holds everywhere. */
  line: number | null;
  /** What the code stands for; empty where nobody said. */
  reason: string;
}

/** What redactions can name. */
export interface Redactable {
  messages: ReadonlyMap<string, Message>;
  attachments: ReadonlyMap<string, Attachment>;
  files: readonly FileRecord[];
  people: readonly Person[];
  contacts: readonly Contact[];
  nameOf: (person: string | null) => { name: string; address: string };
  /** All persons that are the same individual, the one that is named among them. */
  membersOf?: (person: string) => readonly string[];
  /** The messages that are shown for copies of theirs in other stores, by the ids of the copies. */
  shownFor?: ReadonlyMap<string, string>;
}

/** A file that can be covered: one that came with a line, or one of the list of files. */
type Coverable = Pick<FileRecord, 'id' | 'sha256' | 'name'> & { message?: string };

/** Letters of a part of a name that is covered by itself; shorter ones only as they are written. */
const LEAST_NAME = 3;
const SHORTEST_NAME = 2;
/** Small words in names, which are everybody's. */
const PARTICLES = new Set('van von der den del des dos the and und for mrs miss sir'.split(' '));

/** A marked text shorter than this is covered in its message and what belongs to it, and nowhere else. */
const TELLING = 6;
/** A message that is covered whole and shorter than this may be anybody's words. */
const LONG = 12;

/**
 * What is to be redacted, applied to whatever is shown: the one gate through
 * which every text of a case passes on its way into a record. A marked text is
 * covered in the other wordings of its message, in quotes of it, and, where it
 * is long enough to tell, wherever else it stands: in names, titles, paths.
 */
export class Redactor {
  private readonly spans = new Map<string, Span[]>();
  private readonly lines = new Map<string, string>();
  private readonly files = new Map<string, string>();
  private readonly contacts = new Map<string, string>();
  private readonly areas = new Map<string, Area[]>();
  private readonly secrets: Secret[] = [];
  /** All that is covered wherever it stands. */
  readonly everywhere: Secrets;
  /** Texts that are covered in a message, its other wordings, and what belongs to them. */
  private readonly marked = new Map<string, Secret[]>();
  private readonly within = new Map<string, Secrets>();
  private readonly counts = new Map<string, RedactionCount>();

  private readonly list: Omit<RedactionEntry, 'reason' | 'line'>[] = [];
  /** The message of each entry of the list. */
  private readonly listed: (string | null)[] = [];
  private readonly ids = new Map<string, string>();

  /** @throws RedactionError where a redaction names what is not there */
  constructor(redactions: readonly Redaction[], known: Redactable) {
    const families = familiesOf(known);
    const covered = new Map<string, Coverable>(known.attachments);
    for (const file of redactions.length > 0 ? known.files : []) covered.set(file.id, file);
    for (const redaction of redactions) this.take(redaction, known, families, covered);
    this.everywhere = new Secrets(this.secrets);
    for (const [id, secrets] of this.marked) this.within.set(id, new Secrets(secrets));
  }

  private take(
    redaction: Redaction,
    known: Redactable,
    families: Families,
    covered: ReadonlyMap<string, Coverable>
  ): void {
    if ('text' in redaction) {
      this.secrets.push(redaction);
      this.count(redaction.code, 'text', null);
    } else if ('person' in redaction) this.coverPerson(redaction.person, redaction.code, known);
    else if ('attachment' in redaction) {
      const file = covered.get(redaction.attachment);
      if (!file) throw unknown('attachment', redaction.attachment);
      this.cover(redaction, file, covered);
    } else {
      const message = known.messages.get(redaction.message);
      if (!message) throw unknown('message', redaction.message);
      const shown = known.shownFor?.get(message.id) ?? message.id;
      if ('whole' in redaction) this.coverLine(message, shown, redaction.code, families);
      else this.coverSpan(message, shown, redaction, families);
    }
  }

  /** Every name and address of a person, those of all contact cards among them. Of a name each word goes that is long enough to tell. */
  private coverPerson(asked: string, code: string, known: Redactable): void {
    const { people, contacts, nameOf } = known;
    if (!people.some(({ id }) => id === asked)) throw unknown('person', asked);
    const members = new Set([asked, ...(known.membersOf?.(asked) ?? [])]);
    const own = people.filter(({ id }) => members.has(id));
    const addresses = own.flatMap((person) => person.addresses);
    const cards = contacts.filter(({ person }) => person !== null && members.has(person));
    for (const { id } of cards) this.contacts.set(id, code);
    addresses.push(...cards.flatMap(({ phones, emails }) => [...phones, ...emails]));
    const shown = own.map(({ id }) => nameOf(id).name);
    const names = [...own.map(({ name }) => name), ...cards.map(({ name }) => name), ...shown];
    // Who has no name is shown by an address or an id, which are no names.
    const noName = new Set<string | null>([null, '', OWNER, 'owner', ...members]);
    for (const name of new Set(names))
      if (name !== null && !noName.has(name)) this.coverName(name.trim(), code);
    for (const address of new Set(addresses)) this.secrets.push({ text: address, code });
    for (const { note } of cards)
      if (note && note.trim().length >= TELLING) this.secrets.push({ text: note, code });
    this.count(code, 'person', null);
  }

  private coverName(name: string, code: string): void {
    this.secrets.push({ text: name, code, isName: true });
    for (const part of name.split(/[\s,;.()/]+/)) {
      const word = part.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, '');
      if (!/\p{L}/u.test(word) || PARTICLES.has(word.toLowerCase())) continue;
      if (word.length >= LEAST_NAME) this.secrets.push({ text: word, code, isName: true });
      else if (word.length >= SHORTEST_NAME)
        this.secrets.push({ text: word, code, isName: true, isExact: true });
    }
  }

  get isEmpty(): boolean {
    const { spans, lines, files, areas, everywhere } = this;
    return spans.size + lines.size + files.size + areas.size === 0 && everywhere.isEmpty;
  }

  private coverLine(message: Message, shown: string, code: string, families: Families): void {
    this.count(code, 'line', shown);
    for (const { id, body, subject } of families.get(message.id) ?? [message]) {
      this.lines.set(id, code);
      for (const text of [body, subject ?? ''])
        if (text.trim().length >= LONG) this.secrets.push({ text, code });
    }
  }

  private coverSpan(
    message: Message,
    shown: string,
    { from, to, code }: Span,
    families: Families
  ): void {
    if (from >= to || from >= message.body.length)
      throw new RedactionError(
        `The redaction of ${message.id} from ${from} to ${to} lies outside its text, or has no length.`
      );
    const list = this.spans.get(shown) ?? [];
    list.push({ from, to, code });
    this.spans.set(shown, list);
    this.count(code, 'text', shown);
    const text = message.body.slice(from, to);
    const isShort = text.trim().length < TELLING;
    // A short word is not looked for inside of others, which it tells nothing of.
    const wanted = { text, code, isName: isShort && isWord(message.body, from, to) };
    for (const { id } of families.get(message.id) ?? [message])
      this.marked.set(id, [...(this.marked.get(id) ?? []), wanted]);
    if (!isShort) this.secrets.push(wanted);
  }

  /** The same file may be attached to other messages: its content is covered there too. */
  private cover(
    redaction: Extract<Redaction, { attachment: string }>,
    file: Coverable,
    all: ReadonlyMap<string, Coverable>
  ): void {
    const copies = [...all.values()].filter(
      ({ id, sha256 }) => id === file.id || (sha256 !== null && sha256 === file.sha256)
    );
    const { code } = redaction;
    if ('area' in redaction && !isInPicture(redaction.area))
      throw new RedactionError(
        `The area that covers a part of ${file.name ?? file.id} has no size or lies outside the picture.`
      );
    this.count(code, 'whole' in redaction ? 'file' : 'area', file.message ?? null);
    for (const { id } of copies) {
      if ('whole' in redaction) this.files.set(id, code);
      else this.areas.set(id, [...(this.areas.get(id) ?? []), { ...redaction.area, code }]);
    }
  }

  private count(code: string, what: RedactionCount['what'], message: string | null): void {
    const key = `${code}\0${what}`;
    const known = this.counts.get(key);
    if (known) known.count++;
    else this.counts.set(key, { code, what, count: 1 });
    this.list.push({ code, what });
    this.listed.push(message);
  }

  /** Each redaction, in the order in which it was made, with the line that it is in. */
  entries(reasons: readonly Reason[], lines: ReadonlyMap<string, number>): RedactionEntry[] {
    const said = new Map(reasons.map(({ code, reason }) => [code, reason]));
    return this.list.map((entry, i) => {
      const message = this.listed[i];
      return {
        ...entry,
        line: message ? (lines.get(message) ?? null) : null,
        reason: said.get(entry.code) ?? ''
      };
    });
  }

  /** An id that tells nothing: one that holds what is covered stands under another. */
  id(id: string): string {
    if (!this.covers(id)) return id;
    const known = this.ids.get(id) ?? `withheld-${this.ids.size + 1}`;
    this.ids.set(id, known);
    return known;
  }

  /** The id that another one stands for. */
  originalOf(id: string): string {
    return [...this.ids].find(([, told]) => told === id)?.[0] ?? id;
  }

  /** Whether a text holds what is covered everywhere. */
  covers(text: string): boolean {
    return this.everywhere.firstIn(text) !== null;
  }

  /** Uses of each code, by code. */
  used(): RedactionCount[] {
    return [...this.counts.values()].sort((a, b) =>
      `${a.code}\0${a.what}` < `${b.code}\0${b.what}` ? -1 : 1
    );
  }

  /** The code over a whole message; null where it is shown. */
  lineCode(id: string): string | null {
    return this.lines.get(id) ?? null;
  }

  /** The code over a whole file; null where it is shown. */
  fileCode(id: string): string | null {
    return this.files.get(id) ?? null;
  }

  areasOf(id: string): readonly Area[] {
    return this.areas.get(id) ?? [];
  }

  /** The code over a whole contact card; null where it is shown. */
  contactCode(id: string): string | null {
    return this.contacts.get(id) ?? null;
  }

  /** A message's wording. */
  body(message: Message): Text {
    const code = this.lines.get(message.id);
    if (code !== undefined) return [{ code }];
    const marked = this.spans.get(message.id) ?? [];
    return withBars(message.body, [...marked, ...this.placesIn(message.body, message.id)]);
  }

  /** Any other text: a name, a title, a path; of a message where one is named. */
  text(text: string, message?: string): Text {
    const code = message === undefined ? undefined : this.lines.get(message);
    if (code !== undefined) return text === '' ? [] : [{ code }];
    const spans = this.placesIn(text, message);
    return spans.length === 0 ? plain(text) : withBars(text, spans);
  }

  private placesIn(text: string, message: string | undefined): Span[] {
    const within = message === undefined ? undefined : this.within.get(message);
    const everywhere = this.everywhere.placesIn(text);
    return within ? [...within.placesIn(text), ...everywhere] : everywhere;
  }
}

/** A redaction that names what the case does not hold, or covers nothing. */
export class RedactionError extends Error {
  override readonly name = 'RedactionError';
}

function unknown(what: string, which: string): RedactionError {
  return new RedactionError(
    `A redaction names the ${what} ${which}, which the case does not hold.`
  );
}

/** Whether a stretch begins and ends where words do. */
function isWord(text: string, from: number, to: number): boolean {
  const cut = (at: number): boolean =>
    /[\p{L}\p{M}]$/u.test(text.slice(Math.max(0, at - 2), at)) &&
    /^[\p{L}\p{M}]/u.test(text.slice(at, at + 2));
  return !cut(from) && !cut(to);
}

/** Whether a part of the picture lies under the area. */
function isInPicture({ x, y, width, height }: Omit<Area, 'code'>): boolean {
  return width > 0 && height > 0 && x < 1 && y < 1 && x + width > 0 && y + height > 0;
}

type Families = ReadonlyMap<string, readonly Message[]>;

/** Each message with its other wordings, those of its copies in other stores among them. */
function familiesOf({ messages, shownFor }: Pick<Redactable, 'messages' | 'shownFor'>): Families {
  const shown = (id: string): string => shownFor?.get(id) ?? id;
  const byRoot = new Map<string, Message[]>();
  for (const message of messages.values()) {
    const root = rootOf(message, messages, shown);
    byRoot.set(root, [...(byRoot.get(root) ?? []), message]);
  }
  const families = new Map<string, readonly Message[]>();
  for (const list of byRoot.values())
    if (list.length > 1) for (const { id } of list) families.set(id, list);
  return families;
}

function rootOf(
  message: Message,
  messages: ReadonlyMap<string, Message>,
  shown: (id: string) => string
): string {
  let root = message;
  for (let steps = 0; root.replaces !== null && steps < 100; steps++) {
    const next = messages.get(shown(root.replaces));
    if (!next) break;
    root = next;
  }
  return shown(root.id);
}
