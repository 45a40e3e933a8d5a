import type { ShelvedFile } from '../media';
import {
  proofText,
  shownBody,
  sizeText,
  STATE_MARKS,
  type Production,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionThread
} from '../model';
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

/** A volume of a record: threads or parts of them. */
export interface Volume {
  number: number;
  of: number;
  /** Pages of the volumes before. */
  before: number;
  threads: ProductionThread[];
  isLast: boolean;
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
    const isLast = volume.isLast;
    const withProofs = isLast && settings.proofs === 'appendix';
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
      overview: production.threads.map((thread) => this.overview(thread)),
      marks: Object.values(STATE_MARKS).map(({ word, means }) => [word, means]),
      redactions: production.redactions.map(({ code, what, count }) => [code, `${what}: ${count}`]),
      threads: volume.threads.map((thread) => this.thread(thread)),
      calls: isLast ? this.calls() : [],
      contacts: isLast ? this.contacts() : [],
      files: isLast ? this.fileList() : [],
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
      [
        'Holds',
        `${lines} lines in ${threads.length} conversations, ${calls.length} calls, ${contacts.length} contacts`
      ]
    ];
    return all.flatMap(([label, value]): [string, Paragraph][] =>
      value ? [[label, this.line(plain(value))]] : []
    );
  }

  private overview({ title, lines }: ProductionThread): object {
    const times = lines.flatMap(({ at }) => (at === null ? [] : [at]));
    const day = (at: number): string => this.time.split(at).date;
    return {
      title: this.line(title),
      span: times.length === 0 ? '' : `${day(times[0]!)} to ${day(times.at(-1)!)}`,
      lines: lines.length,
      other: lines.filter(({ state }) => state !== 'live').length
    };
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
    return {
      title: this.line(thread.title),
      short: this.line(thread.title),
      people,
      part: `${part}.`,
      rows: this.rows(thread)
    };
  }

  private rows(thread: ProductionThread): object[] {
    const rows: object[] = [];
    let [day, month, speaker] = ['', '', ''];
    for (const line of thread.lines) {
      for (const gap of thread.gapsBefore.get(line.id) ?? []) rows.push(this.gap(gap));
      const heading = line.at === null ? 'Time unknown' : this.time.longDay(line.at);
      if (heading !== day) {
        const own = line.at === null ? month : heading.split(' ').slice(2).join(' ');
        if (own !== month && own !== '') rows.push({ k: 'month', t: own });
        month = own;
        rows.push({ k: 'day', t: heading });
        speaker = '';
      }
      day = heading;
      const who = shown(line.sender);
      const isNamed = line.direction !== 'outgoing' && who !== speaker;
      speaker = who;
      rows.push(this.row(line, isNamed && (thread.isGroup || line.direction === 'unknown')));
    }
    for (const gap of thread.gapsAtEnd) rows.push(this.gap(gap));
    return rows;
  }

  private gap({ count, from, to }: ProductionGap): object {
    const what = count === 1 ? '1 message missing' : `${count} messages missing`;
    const between =
      from === null || to === null
        ? ''
        : ` between ${this.time.full(from)} and ${this.time.full(to)}`;
    return { k: 'gap', t: what + between };
  }

  private row(line: ProductionLine, isNamed: boolean): object {
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
      body: line.body.length === 0 ? [] : paragraphsOf(shownBody(line), this.fonts),
      files: line.attachments.map((file) => this.file(file)),
      more: this.more(line)
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
      name: this.line(file.name),
      facts: facts === undefined || facts === '' ? '' : `, ${facts}`,
      picture
    };
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

  private calls(): Paragraph[][] {
    return this.production.calls.map((call) =>
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

  private contacts(): Paragraph[][] {
    const listed = (texts: readonly Text[]): Text =>
      texts.flatMap((text, i) => (i === 0 ? text : [{ text: ', ' }, ...text]));
    return this.production.contacts.map((contact) =>
      [
        contact.name,
        listed(contact.phones),
        listed(contact.emails),
        contact.organisation,
        plain(contact.state)
      ].map((text) => this.line(text))
    );
  }

  private fileList(): Paragraph[][] {
    return this.production.threads.flatMap(({ lines }) =>
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
    return this.production.threads.flatMap(({ lines }) =>
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

const PAPERS = { A4: 'a4', Letter: 'us-letter', Legal: 'us-legal' } as const;

/** Facts that stand behind a file's name. */
export function fileFacts(file: ProductionFile, found: ShelvedFile | string, note: string): string {
  if (typeof found === 'string') return found;
  const size = file.areas.length > 0 ? 'redacted in part' : sizeText(found.bytes.length);
  const sum =
    file.areas.length > 0 || file.sha256 === null
      ? ''
      : `, SHA-256 ${file.sha256.slice(0, 8)}…${file.sha256.slice(-4)}`;
  return `${size}${sum}${note === '' ? '' : `, ${note}`}`;
}
