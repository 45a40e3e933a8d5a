import { OWNER, type Attachment, type FileRecord, type Message, type Person } from '../records';
import { placesOf, type Wanted } from './everywhere';
import { plain, withBars, type Span, type Text } from './parts';
import type { Reason, Redaction } from './settings';

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
  nameOf: (person: string | null) => { name: string; address: string };
}

/** A file that can be covered: one that came with a line, or one of the list of files. */
type Coverable = Pick<FileRecord, 'id' | 'sha256'> & { message?: string };

/** Letters of a part of a name that is covered by itself. */
const LEAST_NAME = 3;

/** A text shorter than this, or of one common word, is covered where it was marked and nowhere else. */
const TELLING = 6;
const LONG = 12;

/**
 * What is to be redacted, applied to whatever is shown. A marked text is
 * covered in the other wordings of its message, in quotes of it, and, where it
 * is telling enough, wherever else it stands: in names, titles, file names.
 */
export class Redactor {
  private readonly spans = new Map<string, Span[]>();
  private readonly lines = new Map<string, string>();
  private readonly files = new Map<string, string>();
  private readonly areas = new Map<string, Area[]>();
  private readonly everywhere: Wanted[] = [];
  /** Texts that are covered in the other wordings of the same message. */
  private readonly within = new Map<string, Wanted[]>();
  private readonly counts = new Map<string, RedactionCount>();

  private readonly list: Omit<RedactionEntry, 'reason' | 'line'>[] = [];
  /** The message of each entry of the list. */
  private readonly listed: (string | null)[] = [];
  private readonly ids = new Map<string, string>();

  /** @throws RedactionError where a redaction names what is not there */
  constructor(redactions: readonly Redaction[], known: Redactable) {
    const families = familiesOf(known.messages);
    const covered = new Map<string, Coverable>(known.attachments);
    for (const file of redactions.length > 0 ? known.files : []) covered.set(file.id, file);
    for (const redaction of redactions) this.take(redaction, known, families, covered);
    // A longer text first: what is left of it around a shorter one would tell.
    this.everywhere.sort((a, b) => b.text.length - a.text.length);
  }

  private take(
    redaction: Redaction,
    known: Redactable,
    families: Families,
    covered: ReadonlyMap<string, Coverable>
  ): void {
    if ('text' in redaction) {
      this.everywhere.push(redaction);
      this.count(redaction.code, 'text', null);
    } else if ('person' in redaction) this.coverPerson(redaction.person, redaction.code, known);
    else if ('attachment' in redaction) {
      const file = covered.get(redaction.attachment);
      if (!file) throw new RedactionError('attachment', redaction.attachment);
      this.cover(redaction, file, covered);
    } else {
      const message = known.messages.get(redaction.message);
      if (!message) throw new RedactionError('message', redaction.message);
      if ('whole' in redaction) this.coverLine(message, redaction.code, families);
      else this.coverSpan(message, redaction, families);
    }
  }

  /** Every name and address of a person. Of a name each word goes that is long enough to tell. */
  private coverPerson(id: string, code: string, { people, nameOf }: Redactable): void {
    const person = people.find((known) => known.id === id);
    if (!person) throw new RedactionError('person', id);
    const names = [person.name, nameOf(id).name].filter((name) => name !== null);
    const words = names.flatMap((name) => name.split(/[\s,;.]+/));
    const telling = words.filter((word) => word.length >= LEAST_NAME && /\p{L}/u.test(word));
    const own = id.replace(/^\w:/, '');
    const isOwner = id === OWNER || person.owner;
    for (const text of new Set([
      ...names,
      ...telling,
      ...person.addresses,
      ...(isOwner ? [] : [own])
    ]))
      if (text.trim().length >= 2) this.everywhere.push({ text: text.trim(), code });
    this.count(code, 'person', null);
  }

  get isEmpty(): boolean {
    const { spans, lines, files, areas, everywhere } = this;
    return spans.size + lines.size + files.size + areas.size + everywhere.length === 0;
  }

  private coverLine(message: Message, code: string, families: Families): void {
    for (const { id } of families.get(message.id) ?? [message]) this.lines.set(id, code);
    this.count(code, 'line', message.id);
    if (message.body.trim().length >= LONG) this.everywhere.push({ text: message.body, code });
    if (message.subject && message.subject.trim().length >= LONG)
      this.everywhere.push({ text: message.subject, code });
  }

  private coverSpan(message: Message, { from, to, code }: Span, families: Families): void {
    if (from >= to || from >= message.body.length)
      throw new RedactionError('stretch', `${message.id} ${from} to ${to}`);
    const list = this.spans.get(message.id) ?? [];
    list.push({ from, to, code });
    this.spans.set(message.id, list);
    this.count(code, 'text', message.id);
    const wanted = { text: message.body.slice(from, to), code };
    for (const { id } of families.get(message.id) ?? [])
      this.within.set(id, [...(this.within.get(id) ?? []), wanted]);
    if (isTelling(wanted.text)) this.everywhere.push(wanted);
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
    if (this.everywhere.length === 0 || placesOf(id, this.everywhere).length === 0) return id;
    const known = this.ids.get(id) ?? `withheld-${this.ids.size + 1}`;
    this.ids.set(id, known);
    return known;
  }

  /** Whether a text holds what is covered everywhere. */
  covers(text: string): boolean {
    return this.everywhere.length > 0 && placesOf(text, this.everywhere).length > 0;
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

  /** A message's wording. */
  body(message: Message): Text {
    const code = this.lines.get(message.id);
    if (code !== undefined) return [{ code }];
    const marked = this.spans.get(message.id) ?? [];
    const wanted = [...(this.within.get(message.id) ?? []), ...this.everywhere];
    return withBars(message.body, [...marked, ...placesOf(message.body, wanted)]);
  }

  /** Any other text: a name, a title, a path. */
  text(text: string, message?: string): Text {
    const code = message === undefined ? undefined : this.lines.get(message);
    if (code !== undefined) return text === '' ? [] : [{ code }];
    const wanted =
      message === undefined
        ? this.everywhere
        : [...(this.within.get(message) ?? []), ...this.everywhere];
    return wanted.length === 0 ? plain(text) : withBars(text, placesOf(text, wanted));
  }
}

/** A redaction that names what the case does not hold. */
export class RedactionError extends Error {
  override readonly name = 'RedactionError';

  constructor(what: string, which: string) {
    super(`A redaction names the ${what} ${which}, which the case does not hold.`);
  }
}

function isTelling(text: string): boolean {
  const bare = text.trim();
  if (bare.length < TELLING) return false;
  return bare.length >= LONG || /\d|\s|@/.test(bare);
}

type Families = ReadonlyMap<string, readonly Message[]>;

/** Each message with its other wordings. */
function familiesOf(messages: ReadonlyMap<string, Message>): Families {
  const byRoot = new Map<string, Message[]>();
  for (const message of messages.values()) {
    const root = rootOf(message, messages);
    byRoot.set(root, [...(byRoot.get(root) ?? []), message]);
  }
  const families = new Map<string, readonly Message[]>();
  for (const list of byRoot.values())
    if (list.length > 1) for (const { id } of list) families.set(id, list);
  return families;
}

function rootOf(message: Message, messages: ReadonlyMap<string, Message>): string {
  let root = message;
  for (let steps = 0; root.replaces !== null && steps < 100; steps++) {
    const next = messages.get(root.replaces);
    if (!next) break;
    root = next;
  }
  return root.id;
}
