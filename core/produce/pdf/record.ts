import { sizeText } from '../../host';
import type { ShelvedFile } from '../media';
import { JOINED } from '../model';
import {
  carrierText,
  partsOf,
  proofText,
  shownBody,
  STATE_MARKS,
  storeChanges,
  type Production,
  type ProductionCall,
  type ProductionContact,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionSection,
  type ProductionThread
} from '../model';
import type { RedactionCount } from '../redact';
import { plain, shown, type Text } from '../parts';
import type { Settings } from '../settings';
import { visible, type ZonedTime } from '../../shown';
import { EMOJI, MONO, SANS, type FontSet } from './fonts';
import { lineOf, paragraphsOf, type Paragraph } from './runs';

/** A picture that a page shows, with its size in millimetres. */
export interface PlacedPicture {
  path: string;
  w: number;
  h: number;
  alt: string;
}

/** What is known of the files when a page is set: pictures by attachment, and why others are not shown. */
export interface ShownFiles {
  pictures: ReadonlyMap<string, PlacedPicture>;
  /** Facts of a file that stand behind its name. */
  facts: ReadonlyMap<string, string>;
}

/** A volume of a record: sections or parts of them. */
export interface Volume {
  number: number;
  of: number;
  /** Pages of the volumes before. */
  before: number;
  sections: ProductionSection[];
}

/** Everything that the template says, as data. Lines are numbered by their place in `ids`. */
export interface RecordData {
  data: object;
  ids: string[];
}

/** The data of one volume. */
export function recordData(
  production: Production,
  volume: Volume,
  settings: Settings,
  time: ZonedTime,
  fonts: FontSet,
  files: ShownFiles
): RecordData {
  const builder = new RecordBuilder(production, volume, settings, time, fonts, files);
  return { data: builder.data(), ids: builder.ids };
}

/** Paragraphs of a line that are set as one block: about as many as go on a page. */
const MOST_PARAGRAPHS = 6;

/** Letters up to which a body and its picture go on one page. */
const SHORT_BODY = 1200;

/** A line as the template sets it. */
interface LineRow {
  files: object[];
  more: Paragraph[];
  /** Head, body and files stand on one page. */
  keep: boolean;
  [field: string]: unknown;
}

class RecordBuilder {
  readonly ids: string[] = [];

  constructor(
    private readonly production: Production,
    private readonly volume: Volume,
    private readonly settings: Settings,
    private readonly time: ZonedTime,
    private readonly fonts: FontSet,
    private readonly files: ShownFiles
  ) {}

  data(): object {
    const { production, volume, settings, fonts, time } = this;
    const { head } = production;
    const made = new Date(head.made);
    const withProofs = settings.proofs === 'appendix';
    return {
      families: fonts.families,
      sans: SANS,
      mono: MONO,
      emoji: EMOJI,
      set: {
        title: visible(head.title),
        author: visible(head.preparedBy ?? ''),
        keywords: [head.caseName, head.reference ?? ''].filter((word) => word !== ''),
        made: [
          made.getUTCFullYear(),
          made.getUTCMonth() + 1,
          made.getUTCDate(),
          made.getUTCHours(),
          made.getUTCMinutes(),
          made.getUTCSeconds()
        ],
        paper: PAPERS[settings.pdf.paper],
        margin: settings.pdf.marginMm,
        size: settings.pdf.sizePt,
        layout: settings.pdf.layout,
        'zone-text': `Times in ${head.zone}`,
        stamp: settings.numbering,
        before: volume.before,
        volume: volume.number,
        volumes: volume.of
      },
      title: this.line(plain(head.title)),
      reference: this.line(plain(head.reference ?? head.caseName)),
      facts: this.facts(),
      sources: production.sources.map(({ name, kind, bytes, sha256, depth }) => ({
        name: this.line(plain(name)),
        facts: `${kind}, ${sizeText(bytes)}, examined at depth ${depth}`,
        sum: sha256.replace(/(.{16})/g, '$1\u200b')
      })),
      overview: production.sections.map((section) => this.overview(section)),
      marks: Object.entries(STATE_MARKS).map(([state, { word, means }]) => [state, word, means]),
      redactions: this.redactions(),
      sections: volume.sections.map((section) => this.section(section)),
      files: this.fileList(),
      proofs: withProofs ? this.proofs() : [],
      attached: true,
      time: time.zone
    };
  }

  private line(text: Text): Paragraph {
    return lineOf(text, this.fonts);
  }

  private facts(): [string, Paragraph][] {
    const { head, threads, calls, contacts } = this.production;
    const lines = threads.reduce((sum, thread) => sum + thread.lines.length, 0);
    const all: [string, string | null][] = [
      ['Case', head.caseName],
      ['Reference', head.reference],
      ['Prepared by', head.preparedBy],
      ['Prepared for', head.preparedFor],
      ['Made', this.time.full(head.made)],
      ['Times', `in ${head.zone}, with the offset of each day`],
      ['Holds', holdsText(lines, threads.length, calls.length, contacts.length)]
    ];
    return all.flatMap(([label, value]): [string, Paragraph][] =>
      value ? [[label, this.line(plain(value))]] : []
    );
  }

  private redactions(): [string, string][] {
    const { redactions, redacted } = this.production;
    return redactions.map(({ code, what, count }) => {
      const reason = redacted.find((entry) => entry.code === code)?.reason ?? '';
      return [code, `${REDACTED[what]}: ${count}${reason === '' ? '' : `, ${visible(reason)}`}`];
    });
  }

  private titled({ label, title }: ProductionSection): Paragraph {
    return this.line(label === null ? title : [{ text: `${label}  ` }, ...title]);
  }

  private overview(section: ProductionSection): object {
    const lines = section.kind === 'thread' ? section.thread.lines : [];
    const times = timesOf(section);
    const day = (at: number): string => this.time.split(at).date;
    const others = othersOf(section);
    return {
      title: this.titled(section),
      span: times.length === 0 ? '' : `${day(times[0]!)} to ${day(times.at(-1)!)}`,
      lines: section.kind === 'thread' ? String(lines.length) : countOf(section),
      other: others === null ? '' : String(others)
    };
  }

  private section(section: ProductionSection): object {
    const title = this.titled(section);
    const head = { k: section.kind, title, short: title };
    switch (section.kind) {
      case 'thread':
        return { ...head, ...this.thread(section.thread) };
      case 'calls':
        return { ...head, rows: this.calls(section.calls) };
      case 'contacts':
        return { ...head, rows: this.contacts(section.contacts) };
      case 'files':
        return { ...head, rows: section.files.map((file) => this.fileAlone(file)) };
      case 'gaps':
        return { ...head, rows: this.gaps(section.gaps) };
    }
  }

  private thread(thread: ProductionThread): object {
    const people = thread.participants.map(({ name, address }) => ({
      name: this.line(name),
      address: address.length === 0 || shown(address) === shown(name) ? null : this.line(address)
    }));
    const part =
      thread.lines.length === thread.of
        ? `${thread.of} lines`
        : `${thread.lines.length} of ${thread.of} lines`;
    return { people, part: `${part}.`, rows: this.rows(thread) };
  }

  private rows(thread: ProductionThread): object[] {
    const rows: object[] = [];
    const months = this.monthsWithDays(thread);
    let [day, month, speaker] = ['', '', ''];
    const stores = storeChanges(thread.lines);
    for (const line of thread.lines) {
      for (const gap of thread.gapsBefore.get(line.id) ?? []) rows.push(this.gap(gap));
      const heading = line.at === null ? 'Time unknown' : this.time.longDay(line.at);
      if (heading !== day) {
        const own = line.at === null ? month : heading.split(' ').slice(2).join(' ');
        if (own !== month && months.has(own)) rows.push({ k: 'month', t: own });
        month = own;
        rows.push({ k: 'day', t: heading });
        speaker = '';
      }
      day = heading;
      const store = stores.get(line.id);
      if (store !== undefined) rows.push({ k: 'store', t: this.line(plain(`from ${store}`)) });
      const who = shown(line.sender);
      const isNamed = line.direction !== 'outgoing' && who !== speaker;
      speaker = who;
      const body = line.body.length === 0 ? [] : paragraphsOf(shownBody(line), this.fonts);
      const named = isNamed && (thread.isGroup || line.direction === 'unknown');
      rows.push(...this.blocks(line, this.row(line, named, body.slice(0, MOST_PARAGRAPHS)), body));
    }
    for (const gap of thread.gapsAtEnd) rows.push(this.gap(gap));
    return rows;
  }

  /** Months in which there are several days: the others need no heading of their own. */
  private monthsWithDays({ lines }: ProductionThread): Set<string> {
    const days = new Map<string, Set<string>>();
    for (const { at } of lines) {
      if (at === null) continue;
      const heading = this.time.longDay(at);
      const month = heading.split(' ').slice(2).join(' ');
      days.set(month, (days.get(month) ?? new Set()).add(heading));
    }
    if (days.size < 2) return new Set();
    return new Set([...days].filter(([, set]) => set.size > 1).map(([month]) => month));
  }

  /** A line as blocks that each go on a page: a short body with its first picture, then the rest. */
  private blocks(line: ProductionLine, row: LineRow, body: readonly Paragraph[]): object[] {
    const hasPicture = line.attachments.some(({ id }) => this.files.pictures.has(id));
    const isShort = body.length < MOST_PARAGRAPHS && shown(line.body).length < SHORT_BODY;
    if (!hasPicture || !isShort) {
      const further: object[] = [];
      for (let at = MOST_PARAGRAPHS; at < body.length; at += MOST_PARAGRAPHS)
        further.push({
          ...row,
          k: 'more',
          body: body.slice(at, at + MOST_PARAGRAPHS),
          files: [],
          more: []
        });
      return [row, ...further];
    }
    const [first, ...others] = row.files;
    if (others.length === 0) return [{ ...row, keep: true }];
    const rest = others.map((file, i) => ({
      ...row,
      k: 'more',
      body: [],
      files: [file],
      more: i === others.length - 1 ? row.more : []
    }));
    return [{ ...row, keep: true, files: [first], more: [] }, ...rest];
  }

  private gap({ count, from, to }: ProductionGap): object {
    const what = count === 1 ? '1 message missing' : `${count} messages missing`;
    const between =
      from === null || to === null
        ? ''
        : ` between ${this.time.full(from)} and ${this.time.full(to)}`;
    return { k: 'gap', t: what + between };
  }

  private row(line: ProductionLine, isNamed: boolean, body: readonly Paragraph[]): LineRow {
    const i = this.ids.push(line.id) - 1;
    const at = line.at === null ? null : this.time.split(line.at);
    return {
      k: 'line',
      i,
      n: line.number,
      t: at === null ? 'time unknown' : `${at.time} ${at.offset}`,
      state: line.state,
      w: line.state === 'live' ? '' : STATE_MARKS[line.state].word,
      side: line.direction === 'outgoing' ? 'r' : line.direction === 'system' ? 'c' : 'l',
      context: line.isContext,
      from: line.sender.length > 0 ? this.line(line.sender) : null,
      who: isNamed && line.sender.length > 0 ? this.line(line.sender) : null,
      quote: this.quote(line),
      subject: line.subject.length > 0 ? this.line(line.subject) : null,
      body,
      files: line.attachments.map((file) => this.file(file)),
      more: this.more(line),
      keep: false
    };
  }

  private quote({ replyTo, earlierOf }: ProductionLine): object | null {
    if (replyTo) {
      const to = replyTo.line === null ? 'answers: ' : `answers line ${replyTo.line}: `;
      return { to, text: this.line(replyTo.quote) };
    }
    return earlierOf === null
      ? null
      : { to: `earlier wording of line ${earlierOf}`, text: this.line([]) };
  }

  private file(file: ProductionFile): object {
    const picture = this.files.pictures.get(file.id) ?? null;
    const facts = this.files.facts.get(file.id);
    return {
      code: file.code,
      codes: [...new Set(file.areas.map(({ code }) => code))],
      name: this.line(file.name),
      facts: facts === undefined || facts === '' ? '' : `, ${facts}`,
      picture
    };
  }

  private fileAlone(file: ProductionFile): object {
    const carried = file.carriers.map((carrier) => this.line(carrierText(carrier, this.time)));
    return { ...this.file(file), carried };
  }

  private more({ place, reactions }: ProductionLine): Paragraph[] {
    const places = place
      ? [this.line([{ text: `Place ${place.lat}, ${place.lon} ` }, ...place.label])]
      : [];
    const answers = reactions.map(({ who, text, at }) =>
      this.line([
        ...text,
        { text: ' by ' },
        ...who,
        { text: at === null ? '' : `, ${this.time.full(at)}` }
      ])
    );
    return [...places, ...answers];
  }

  private calls(calls: readonly ProductionCall[]): Paragraph[][] {
    return calls.map((call) =>
      [
        call.who,
        call.address,
        plain(call.direction),
        plain(call.at === null ? 'time unknown' : this.time.full(call.at)),
        plain(call.seconds === null ? '' : `${call.seconds} s`),
        plain(call.state)
      ].map((text) => this.line(text))
    );
  }

  private gaps(gaps: readonly ProductionGap[]): Paragraph[][] {
    const at = (moment: number | null): Text =>
      plain(moment === null ? 'unknown' : this.time.full(moment));
    return gaps.map(({ who, count, from, to, reason }) =>
      [who ?? plain('not known'), plain(String(count)), at(from), at(to), plain(reason)].map(
        (text) => this.line(text)
      )
    );
  }

  private contacts(contacts: readonly ProductionContact[]): Paragraph[][] {
    const listed = (texts: readonly Text[]): Text =>
      texts.flatMap((text, i) => (i === 0 ? text : [{ text: ', ' }, ...text]));
    return contacts.map((contact) =>
      [
        contact.name,
        listed(contact.phones),
        listed(contact.emails),
        contact.organisation,
        plain(contact.state)
      ].map((text) => this.line(text))
    );
  }

  /** Each volume ends with the files and proofs of its own lines: all of them together would fill the memory. */
  private fileList(): Paragraph[][] {
    return partsOf(this.volume.sections).threads.flatMap(({ lines }) =>
      lines.flatMap((line) =>
        line.attachments.map((file) => {
          const isWhole = file.code === null && file.areas.length === 0;
          return [
            plain(String(line.number)),
            file.name,
            plain(file.mime ?? ''),
            plain(isWhole && file.bytes !== null ? sizeText(file.bytes) : ''),
            plain(isWhole ? (file.sha256 ?? 'not in the source') : 'redacted')
          ].map((text) => this.line(text));
        })
      )
    );
  }

  private proofs(): Paragraph[][] {
    return partsOf(this.volume.sections).threads.flatMap(({ lines }) =>
      lines
        .filter(({ state }) => state !== 'live')
        .map((line) =>
          [
            String(line.number),
            line.state,
            String(line.certainty),
            line.proofs.map(proofText).join('; ')
          ].map((text) => this.line(plain(text)))
        )
    );
  }
}

function holdsText(lines: number, threads: number, calls: number, contacts: number): string {
  const parts = [`${lines} lines in ${threads} conversations`];
  if (calls > 0) parts.push(`${calls} calls`);
  if (contacts > 0) parts.push(`${contacts} contacts`);
  return parts.join(', ');
}

const REDACTED: Record<RedactionCount['what'], string> = {
  text: 'words',
  line: 'lines',
  file: 'files',
  area: 'parts of pictures',
  person: 'people'
};

function timesOf(section: ProductionSection): number[] {
  const moments =
    section.kind === 'thread'
      ? section.thread.lines
      : section.kind === 'calls'
        ? section.calls
        : [];
  return moments.flatMap(({ at }) => (at === null ? [] : [at]));
}

function countOf(section: Exclude<ProductionSection, { kind: 'thread' }>): string {
  switch (section.kind) {
    case 'calls':
      return `${section.calls.length} calls`;
    case 'contacts':
      return `${section.contacts.length} contacts`;
    case 'files':
      return `${section.files.length} files`;
    case 'gaps':
      return `${section.gaps.reduce((sum, { count }) => sum + count, 0)} missing`;
  }
}

/** How many of a section are not live; null where that says nothing. */
function othersOf(section: ProductionSection): number | null {
  const notLive = (records: readonly { state: string }[]): number =>
    records.filter(({ state }) => state !== 'live').length;
  switch (section.kind) {
    case 'thread':
      return notLive(section.thread.lines);
    case 'calls':
      return notLive(section.calls);
    case 'contacts':
      return notLive(section.contacts);
    case 'files':
      return notLive(section.files);
    case 'gaps':
      return null;
  }
}

const PAPERS = { A4: 'a4', Letter: 'us-letter', Legal: 'us-legal' } as const;

/** Facts that stand behind a file's name. */
export function fileFacts(file: ProductionFile, found: ShelvedFile | string, note: string): string {
  if (typeof found === 'string') return found;
  const size = file.areas.length > 0 ? 'redacted in part' : sizeText(found.bytes.length);
  const sum =
    file.areas.length > 0 || file.sha256 === null
      ? ''
      : `, SHA-256 ${file.sha256.slice(0, 8)}…${file.sha256.slice(-4)}`;
  const joined = file.byHand ? `, ${JOINED}` : '';
  return `${size}${sum}${joined}${note === '' ? '' : `, ${note}`}`;
}
