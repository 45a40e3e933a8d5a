import type { Attachment, Message } from '../records';
import { plain, withBars, type Span, type Text } from './parts';
import type { Redaction } from './settings';

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
  what: 'text' | 'line' | 'file' | 'area';
  count: number;
}

/** A text shorter than this, or of one common word, is covered where it was marked and nowhere else. */
const TELLING = 6;
const LONG = 12;

interface Wanted {
  text: string;
  code: string;
}

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

  /** @throws RedactionError where a redaction names what is not there */
  constructor(
    redactions: readonly Redaction[],
    messages: ReadonlyMap<string, Message>,
    attachments: ReadonlyMap<string, Attachment>
  ) {
    const families = familiesOf(messages);
    for (const redaction of redactions) {
      if ('text' in redaction) {
        this.everywhere.push(redaction);
        this.count(redaction.code, 'text');
        continue;
      }
      if ('attachment' in redaction) {
        const attachment = attachments.get(redaction.attachment);
        if (!attachment) throw new RedactionError('attachment', redaction.attachment);
        this.cover(redaction, attachment, attachments);
        continue;
      }
      const message = messages.get(redaction.message);
      if (!message) throw new RedactionError('message', redaction.message);
      if ('whole' in redaction) this.coverLine(message, redaction.code, families);
      else this.coverSpan(message, redaction, families);
    }
    // A longer text first: what is left of it around a shorter one would tell.
    this.everywhere.sort((a, b) => b.text.length - a.text.length);
  }

  get isEmpty(): boolean {
    const { spans, lines, files, areas, everywhere } = this;
    return spans.size + lines.size + files.size + areas.size + everywhere.length === 0;
  }

  private coverLine(message: Message, code: string, families: Families): void {
    for (const { id } of families.get(message.id) ?? [message]) this.lines.set(id, code);
    this.count(code, 'line');
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
    this.count(code, 'text');
    const wanted = { text: message.body.slice(from, to), code };
    for (const { id } of families.get(message.id) ?? [])
      this.within.set(id, [...(this.within.get(id) ?? []), wanted]);
    if (isTelling(wanted.text)) this.everywhere.push(wanted);
  }

  /** The same file may be attached to other messages: its content is covered there too. */
  private cover(
    redaction: Extract<Redaction, { attachment: string }>,
    attachment: Attachment,
    all: ReadonlyMap<string, Attachment>
  ): void {
    const copies = [...all.values()].filter(
      ({ id, sha256 }) => id === attachment.id || (sha256 !== null && sha256 === attachment.sha256)
    );
    const { code } = redaction;
    this.count(code, 'whole' in redaction ? 'file' : 'area');
    for (const { id } of copies) {
      if ('whole' in redaction) this.files.set(id, code);
      else this.areas.set(id, [...(this.areas.get(id) ?? []), { ...redaction.area, code }]);
    }
  }

  private count(code: string, what: RedactionCount['what'], by = 1): void {
    const key = `${code}\0${what}`;
    const known = this.counts.get(key);
    if (known) known.count += by;
    else this.counts.set(key, { code, what, count: by });
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
    return withBars(message.body, [...marked, ...found(message.body, wanted)]);
  }

  /** Any other text: a name, a title, a path. */
  text(text: string, message?: string): Text {
    const code = message === undefined ? undefined : this.lines.get(message);
    if (code !== undefined) return text === '' ? [] : [{ code }];
    const wanted =
      message === undefined
        ? this.everywhere
        : [...(this.within.get(message) ?? []), ...this.everywhere];
    return wanted.length === 0 ? plain(text) : withBars(text, found(text, wanted));
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

/** Places of texts in another, whatever the case of its letters. */
function found(text: string, wanted: readonly Wanted[]): Span[] {
  const spans: Span[] = [];
  const folded = text.toLowerCase();
  // Letters that change their length with their case would shift the places.
  const isAligned = folded.length === text.length;
  for (const { text: secret, code } of wanted) {
    const [hay, needle] =
      isAligned && secret.toLowerCase().length === secret.length
        ? [folded, secret.toLowerCase()]
        : [text, secret];
    for (let at = hay.indexOf(needle); at >= 0; at = hay.indexOf(needle, at + needle.length))
      spans.push({ from: at, to: at + needle.length, code });
  }
  return spans;
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
