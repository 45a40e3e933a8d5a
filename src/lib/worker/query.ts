import type { Gap, RecordState } from '$core/records';
import { STATES } from '$core/records';
import type { Correspondent } from '$core/threads';
import type { ZonedTime } from '$core/shown';
import type { Held, Holdings, Naming } from './holdings';
import {
  DENSITY_CELLS,
  type CorrespondentRow,
  type Line,
  type LineFile,
  type LinePage,
  type ReadFilter,
  type River
} from './protocol';

const DAY = 86_400_000;

/** Answers the reading view's questions over the holdings. */
export class Reader {
  private lastKey = '';
  private lastList: Held[] = [];

  constructor(
    private readonly holdings: Holdings,
    private readonly naming: Naming,
    private readonly time: ZonedTime,
    private readonly chosen: ReadonlySet<string>,
    /** Codes of redactions by message or attachment. */
    private readonly codes: ReadonlyMap<string, string[]> = new Map()
  ) {}

  correspondents(filter: ReadFilter): CorrespondentRow[] {
    const span = this.holdings.span();
    return this.holdings.correspondents
      .map((row) => this.row(row, filter, span))
      .filter((row) => row.lines > 0)
      .sort((a, b) => b.lines - a.lines || a.name.localeCompare(b.name));
  }

  private row(
    row: Correspondent,
    filter: ReadFilter,
    span: { from: number; to: number } | null
  ): CorrespondentRow {
    const held = this.matching(row.id, filter);
    const { density, densityNotLive } = densityOf(held, span);
    const person = row.group ? null : (row.participants[0] ?? null);
    const name = this.naming.correspondent(row);
    const address = this.naming.shown(person);
    return {
      id: row.id,
      name,
      detail: row.group
        ? `group of ${row.participants.length + 1}`
        : name === address
          ? 'no name'
          : address,
      group: row.group,
      person,
      named: row.group || name !== address,
      lines: held.length,
      notLive: held.filter(({ message }) => message.state !== 'live').length,
      chosen: this.holdings.of(row.id).filter(({ message }) => this.chosen.has(message.id)).length,
      density,
      densityNotLive
    };
  }

  /** Lines of a conversation that pass the filter, in order. A name that matches lets all of its lines pass. */
  matching(id: string, filter: ReadFilter): Held[] {
    const key = JSON.stringify([id, filter]);
    if (key === this.lastKey) return this.lastList;
    const row = this.holdings.correspondents.find((c) => c.id === id);
    const query = fold(filter.query.trim());
    const byName = row !== undefined && query !== '' && this.nameMatches(row, query);
    const states = new Set<RecordState>(filter.states);
    const list = this.holdings.of(id).filter(({ message }) => {
      if (!states.has(message.state) || !inSpan(message.sentAt, filter)) return false;
      return query === '' || byName || fold(message.body).includes(query);
    });
    this.lastKey = key;
    this.lastList = list;
    return list;
  }

  /** Lines of the day of one of them. */
  ofDay(id: string, filter: ReadFilter, messageId: string): Held[] {
    const all = this.matching(id, filter);
    const at = all.find(({ message }) => message.id === messageId)?.message.sentAt ?? null;
    const day = this.dayOf(at);
    return all.filter(({ message }) => this.dayOf(message.sentAt) === day);
  }

  private nameMatches(row: Correspondent, query: string): boolean {
    const digits = query.replace(/[^\d]/g, '');
    const names = [
      this.naming.correspondent(row),
      ...row.participants.map((p) => this.naming.person(p))
    ];
    if (names.some((name) => fold(name).includes(query))) return true;
    const addresses = row.participants.map((p) => this.naming.address(p));
    const plain = digits.replace(/^0+/, '');
    return addresses.some(
      (address) =>
        fold(address).includes(query) ||
        (/^[\d\s+()-]+$/.test(query) && plain.length > 2 && address.includes(plain))
    );
  }

  lines(id: string, filter: ReadFilter, from: number, to: number): LinePage {
    const list = this.matching(id, filter);
    const group = this.holdings.correspondents.find((c) => c.id === id)?.group ?? false;
    const gaps = this.gapsOf(id);
    const lines = list.slice(from, to).map((held, i) => {
      const line = this.line(held, list[from + i - 1], group);
      line.gapsBefore = (gaps.before.get(line.id) ?? []).map((gap) => this.gapText(gap));
      line.gapsAfter = (gaps.after.get(line.id) ?? []).map((gap) => this.gapText(gap));
      return line;
    });
    return { total: list.length, from, lines };
  }

  private line({ message, line }: Held, before: Held | undefined, group: boolean): Line {
    const { sentAt } = message;
    const day = this.dayOf(sentAt);
    const newDay = !before || this.dayOf(before.message.sentAt) !== day;
    const sender = this.naming.person(message.sender);
    const sameSpeaker = !newDay && before?.message.sender === message.sender;
    const { outgoing, incoming } = { outgoing: 'own', incoming: 'other' } as const;
    const side =
      message.direction === 'outgoing'
        ? outgoing
        : message.direction === 'incoming'
          ? incoming
          : 'both';
    return {
      id: message.id,
      number: line,
      at: sentAt,
      day: newDay ? day : null,
      time: sentAt === null ? 'time unknown' : this.time.split(sentAt).time,
      sender,
      side,
      speaker: group && !sameSpeaker && side !== 'own' ? sender : null,
      body: message.body,
      subject: message.subject,
      state: message.state,
      certainty: message.certainty,
      chosen: this.chosen.has(message.id),
      codes: [message.id, ...message.attachments].flatMap((id) => this.codes.get(id) ?? []),
      attachments: message.attachments.map((id) => this.file(message.store, id)),
      gapsBefore: [],
      gapsAfter: []
    };
  }

  private readonly gapCache = new Map<string, ReturnType<Holdings['gapsOf']>>();

  private gapsOf(id: string): ReturnType<Holdings['gapsOf']> {
    const known = this.gapCache.get(id) ?? this.holdings.gapsOf(id);
    this.gapCache.set(id, known);
    return known;
  }

  private gapText({ count, from, to, thread }: Gap): string {
    const what = count === 1 ? '1 message' : `${count.toLocaleString('en')} messages`;
    const whose = thread === null ? ', here or in another conversation' : '';
    return `${what} missing${this.between(from, to)}${whose}`;
  }

  private between(from: number | null, to: number | null): string {
    const at = (moment: number): string => this.time.full(moment);
    if (from !== null && to !== null) return ` between ${at(from)} and ${at(to)}`;
    if (to !== null) return ` before ${at(to)}`;
    return from === null ? '' : ` after ${at(from)}`;
  }

  file(store: string, id: string): LineFile {
    const found = this.holdings.attachments.get(id);
    return {
      id,
      name: found?.name ?? 'unnamed',
      mime: found?.mime ?? null,
      bytes: found?.bytes ?? null,
      sourceId: store.split('.')[0]!,
      path: found?.path ?? '',
      missing: !found?.sha256,
      thumbnail: found?.thumbnail ?? null
    };
  }

  private dayOf(at: number | null): string {
    return at === null ? 'Time unknown' : this.time.longDay(at);
  }

  river(filter: ReadFilter, correspondent: string | null): River {
    const span = this.holdings.span();
    const river: River = {
      days: [],
      series: { live: [], held: [], recovered: [], fragment: [], earlier: [] }
    };
    if (!span) return river;
    const first = Math.floor(span.from / DAY);
    const count = Math.min(Math.floor(span.to / DAY) - first + 1, MOST_DAYS);
    for (let i = 0; i < count; i++) river.days.push((first + i) * DAY);
    for (const state of STATES) river.series[state] = new Array<number>(count).fill(0);
    const open: ReadFilter = { ...filter, from: null, to: null };
    const ids =
      correspondent === null ? this.holdings.correspondents.map((c) => c.id) : [correspondent];
    for (const { message } of ids.flatMap((id) => this.matching(id, open))) {
      const at = message.sentAt === null ? -1 : Math.floor(message.sentAt / DAY) - first;
      if (at >= 0 && at < count) river.series[message.state][at]!++;
    }
    return river;
  }
}

/** A chart of more days than a century says nothing; damaged times can ask for it. */
const MOST_DAYS = 40_000;

function inSpan(at: number | null, filter: ReadFilter): boolean {
  if (filter.from === null && filter.to === null) return true;
  if (at === null) return false;
  return (filter.from === null || at >= filter.from) && (filter.to === null || at <= filter.to);
}

/** Letters that are letters of their own and yet are searched for by their plain likeness. */
const PLAIN: Record<string, string> = {
  ø: 'o',
  ł: 'l',
  đ: 'd',
  ð: 'd',
  þ: 'th',
  æ: 'ae',
  œ: 'oe',
  ß: 'ss',
  ı: 'i'
};

/** Case and accents do not matter when searching. */
function fold(text: string): string {
  return text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[øłđðþæœßı]/g, (letter) => PLAIN[letter]!);
}

function densityOf(
  held: Held[],
  span: { from: number; to: number } | null
): { density: number[]; densityNotLive: number[] } {
  const density = new Array<number>(DENSITY_CELLS).fill(0);
  const densityNotLive = new Array<number>(DENSITY_CELLS).fill(0);
  if (!span) return { density, densityNotLive };
  const width = Math.max(1, span.to - span.from);
  for (const { message } of held) {
    if (message.sentAt === null) continue;
    const at = Math.min(
      DENSITY_CELLS - 1,
      Math.floor(((message.sentAt - span.from) / width) * DENSITY_CELLS)
    );
    density[at]!++;
    if (message.state !== 'live') densityNotLive[at]!++;
  }
  return { density, densityNotLive };
}
