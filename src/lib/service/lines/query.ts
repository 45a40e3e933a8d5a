import type { Conversation, KeptAttachment, Naming } from '$core/case';
import { CHUNK, type RowList } from '$core/case/lines';
import { bodyAt, extraAt, idAt, sourceIn, STATES, type Gap, type TextColumns } from '$core/records';
import type { ZonedTime } from '$core/shown';
import { isNotice } from './notices';
import type { NotesRoom } from '../notes/notes-room';
import { Passing } from './passing';
import {
  DENSITY_CELLS,
  type CorrespondentRow,
  type Line,
  type LineFile,
  type LineGap,
  type LinePage,
  type ReadFilter,
  type River
} from '../api/protocol';
import { maskOf, rowsOf } from './row-mask';
import type { Hits, TextFinder } from './text-search';
import { DAY, WallClock } from '../host/wall-clock';
import type { KeptIndex } from './store-lines';

const LIVE = STATES.indexOf('live');

/** What a case shows beside its lines. */
interface Surroundings {
  /** Chosen lines, and how many of them each conversation has. */
  chosen: ReadonlySet<string>;
  chosenIn: () => Promise<ReadonlyMap<string, number>>;
  /** Codes of redactions by message or attachment. */
  codes: ReadonlyMap<string, string[]>;
  notes: Pick<NotesRoom, 'get' | 'matching' | 'labelled'>;
  /** More hits of a text are known. */
  moreHits: () => void;
}

/** Counts of a conversation's lines that pass a filter, by the case's time. */
interface Counted {
  lines: number;
  notLive: number;
  density: number[];
  densityNotLive: number[];
}

type Span = { from: number; to: number } | null;

/** Answers the reading view's questions. */
export class Reader {
  private last: { key: string; list: Promise<RowList> } | null = null;

  constructor(
    private readonly index: KeptIndex,
    private readonly naming: Naming,
    private readonly time: ZonedTime,
    private readonly finder: TextFinder,
    private readonly around: Surroundings
  ) {}

  /** With a text that is looked for, counts are those of the hits that are known by then. */
  async correspondents(filter: ReadFilter): Promise<CorrespondentRow[]> {
    const passing = await this.passing(filter, await this.hitsSoFar(filter));
    const chosenIn = await this.around.chosenIn();
    const rows = (await this.tally(passing)).flatMap((counted, i) => {
      const row = this.index.conversations[i]!;
      return counted.lines > 0 ? [this.row(row, counted, chosenIn.get(row.id) ?? 0)] : [];
    });
    return rows.sort((a, b) => b.lines - a.lines || a.name.localeCompare(b.name));
  }

  private hitsSoFar({ query }: ReadFilter): Promise<Hits | null> {
    if (query.trim() === '') return Promise.resolve(null);
    return this.finder.begin(query.trim(), this.around.moreHits);
  }

  private async passing(filter: ReadFilter, hits: Hits | null): Promise<Passing> {
    const { notes } = this.around;
    const mask = await maskOf(this.index, filter, (label) => notes.labelled(label));
    const matching = hits ? notes.matching(filter.query.trim()) : [];
    const noted = matching.length > 0 ? await rowsOf(this.index, matching) : [];
    return new Passing(this.index, this.naming, filter, hits, mask, noted);
  }

  private row(row: Conversation, counted: Counted, chosen: number): CorrespondentRow {
    const person = row.group ? null : (row.participants[0] ?? null);
    const name = this.naming.correspondent(row);
    const address = this.naming.shown(person);
    const addresses = person === null ? 0 : this.naming.members(person).length;
    const more = addresses > 1 ? ` and ${addresses - 1} more` : '';
    const unnamed = name === address ? `no name${more}` : `${address}${more}`;
    return {
      id: row.id,
      name,
      detail: row.group ? `group of ${row.participants.length + 1}` : unnamed,
      group: row.group,
      person,
      named: row.group || name !== address,
      chosen,
      last: Number.isNaN(row.summary.last) ? null : row.summary.last,
      addresses,
      isNotice: isNotice(row, this.index, name !== address),
      ...counted
    };
  }

  /** Counts of all conversations, by their summaries where those tell. */
  private async tally(passing: Passing): Promise<Counted[]> {
    const span = this.index.span();
    const areWide = Cells.areWide(span);
    const cells = this.index.conversations.map(() => new Cells(span));
    const byRows = this.index.conversations.filter((row) => !passing.passesByState(row));
    if (byRows.length > 0 || !areWide) await this.index.loadAll();
    this.index.conversations.forEach((row, i) => {
      if (!passing.passesByState(row)) return;
      if (areWide) countByDays(row, passing, cells[i]!);
      else this.countByRows(row, passing, cells[i]!);
    });
    if (byRows.length > 0)
      passing.each((i, store, row) => {
        const { sentAt, state } = this.index.stores[store]!.columns;
        cells[i]!.add(sentAt[row]!, 1, state[row] === LIVE);
      });
    return cells.map(({ lines, linesNotLive, all, notLive }) => ({
      lines,
      notLive: linesNotLive,
      density: all,
      densityNotLive: notLive
    }));
  }

  /** Where the case's time is short, days do not tell where in it a line belongs. */
  private countByRows(row: Conversation, passing: Passing, cells: Cells): void {
    this.eachOf(row, passing, (at, state) => cells.add(at, 1, state === LIVE));
  }

  /** Lines of a conversation that pass the filter, in order. */
  matching(id: string, filter: ReadFilter): Promise<RowList> {
    const key = JSON.stringify([id, filter]);
    if (this.last?.key !== key) this.last = { key, list: this.match(id, filter) };
    return this.last.list;
  }

  private async match(id: string, filter: ReadFilter): Promise<RowList> {
    const row = this.index.conversation(id);
    const list = await this.index.rows(id);
    if (!row) return list;
    const query = filter.query.trim();
    const hits = query === '' ? null : await this.finder.find(query);
    // The search that this one gave way to knows but some of the hits.
    if (hits && !hits.isDone) this.last = null;
    return (await this.passing(filter, hits)).of(row, list);
  }

  /** Where in the lines that a filter lets pass those stand that hold a text, or whose note does. */
  async hitsIn(id: string, filter: ReadFilter, query: string): Promise<Uint32Array> {
    const { store, row } = await this.matching(id, filter);
    const hits = await this.finder.find(query.trim());
    const noted = await rowsOf(this.index, this.around.notes.matching(query.trim()));
    const found: number[] = [];
    for (let at = 0; at < row.length; at++) {
      const [place, own] = [store[at]!, row[at]!];
      if (hits.marks(place)[own] === 1 || noted[place]![own] === 1) found.push(at);
    }
    return Uint32Array.from(found);
  }

  /** Ids of the lines of a list. */
  async idsOf({ store, row }: RowList, from = 0, to = row.length): Promise<string[]> {
    const ids: string[] = [];
    for (let at = from; at < Math.min(to, row.length); at++)
      ids.push(idAt(await this.texts(store[at]!, row[at]!), row[at]! % CHUNK));
    return ids;
  }

  private texts(store: number, row: number): Promise<TextColumns> {
    return this.index.stores[store]!.texts(Math.floor(row / CHUNK));
  }

  /** Where a message stands in a list; -1 where it does not. */
  async indexIn({ store, row }: RowList, messageId: string): Promise<number> {
    const place = await this.index.locateOne(messageId);
    if (!place) return -1;
    for (let at = row.indexOf(place.row); at >= 0; at = row.indexOf(place.row, at + 1))
      if (store[at] === place.store) return at;
    return -1;
  }

  /** Lines of the day of one of them. */
  async ofDay(id: string, filter: ReadFilter, messageId: string): Promise<string[]> {
    const list = await this.matching(id, filter);
    const at = await this.indexIn(list, messageId);
    if (at < 0) return [];
    const day = this.dayOf(this.momentAt(list, at));
    let [from, to] = [at, at + 1];
    while (from > 0 && this.dayOf(this.momentAt(list, from - 1)) === day) from--;
    while (to < list.row.length && this.dayOf(this.momentAt(list, to)) === day) to++;
    return this.idsOf(list, from, to);
  }

  private momentAt({ store, row }: RowList, at: number): number | null {
    const moment = this.index.stores[store[at]!]!.columns.sentAt[row[at]!]!;
    return Number.isNaN(moment) ? null : moment;
  }

  async lines(id: string, filter: ReadFilter, from: number, to: number): Promise<LinePage> {
    const list = await this.matching(id, filter);
    const row = this.index.conversation(id);
    const gaps = row ? this.index.gapsOf(row) : { before: new Map(), after: new Map() };
    const lines: Line[] = [];
    for (let at = from; at < Math.min(to, list.row.length); at++) {
      const line = await this.line(list, at, row?.group ?? false);
      line.gapsBefore = (gaps.before.get(line.id) ?? []).map((gap: Gap) => this.lineGap(gap));
      line.gapsAfter = (gaps.after.get(line.id) ?? []).map((gap: Gap) => this.lineGap(gap));
      lines.push(line);
    }
    return { total: list.row.length, from, lines };
  }

  private async line(list: RowList, at: number, group: boolean): Promise<Line> {
    const [store, row] = [list.store[at]!, list.row[at]!];
    const { columns, record } = this.index.stores[store]!;
    const texts = await this.texts(store, row);
    const sentAt = this.momentAt(list, at);
    const day = this.dayOf(sentAt);
    const newDay = at === 0 || this.dayOf(this.momentAt(list, at - 1)) !== day;
    const { sender, direction } = record.contexts[columns.context[row]!]!;
    const sameSpeaker = !newDay && this.senderAt(list, at - 1) === sender;
    const name = this.naming.person(sender);
    const side = SIDES[direction] ?? 'both';
    const id = idAt(texts, row % CHUNK);
    const { subject, attachments } = extraAt(texts, row % CHUNK);
    const files = await this.filesOf(record.store, attachments);
    return {
      id,
      number: columns.line[row]!,
      at: sentAt,
      day: newDay ? day : null,
      time: sentAt === null ? 'time unknown' : this.time.split(sentAt).time,
      sender: name,
      side,
      speaker: group && !sameSpeaker && side !== 'own' ? name : null,
      body: bodyAt(texts, row % CHUNK),
      subject,
      state: STATES[columns.state[row]!]!,
      certainty: columns.certainty[row]!,
      chosen: this.around.chosen.has(id),
      note: this.around.notes.get(id)?.text ?? '',
      labels: this.around.notes.get(id)?.labels ?? [],
      codes: [id, ...attachments].flatMap((one) => this.around.codes.get(one) ?? []),
      attachments: files,
      gapsBefore: [],
      gapsAfter: []
    };
  }

  private senderAt({ store, row }: RowList, at: number): string | null {
    const { record, columns } = this.index.stores[store[at]!]!;
    return record.contexts[columns.context[row[at]!]!]!.sender;
  }

  private lineGap({ count, from, to, thread, reason }: Gap): LineGap {
    const whose = thread === null ? ', here or in another conversation' : '';
    return {
      count,
      // “row numbers 871 to 872 of table sms are missing”: that they are missing is said already.
      shownBy: reason.replace(/(?: of table .+)? (?:is|are) missing$/, ''),
      bounds: `${reason}${this.between(from, to)}${whose}`
    };
  }

  private between(from: number | null, to: number | null): string {
    const at = (moment: number): string => this.time.full(moment);
    if (from !== null && to !== null) return ` between ${at(from)} and ${at(to)}`;
    if (to !== null) return ` before ${at(to)}`;
    return from === null ? '' : ` after ${at(from)}`;
  }

  /** Files that came with a message of a store. */
  async filesOf(store: string, ids: readonly string[]): Promise<LineFile[]> {
    if (ids.length === 0) return [];
    const known = await this.index.attachments();
    return ids.map((id) => fileOf(store, id, known.get(id)));
  }

  private dayOf(at: number | null): string {
    return at === null ? 'Time unknown' : this.time.longDay(at);
  }

  async river(filter: ReadFilter, correspondent: string | null): Promise<River> {
    const river: River = {
      days: [],
      starts: [],
      series: { live: [], held: [], recovered: [], fragment: [], earlier: [] }
    };
    const span = this.index.span();
    if (!span) return river;
    const clock = new WallClock(this.time.zone);
    const first = clock.day(span.from);
    const count = Math.min(clock.day(span.to) - first + 1, MOST_DAYS);
    for (let i = 0; i < count; i++) river.days.push((first + i) * DAY);
    for (let i = 0; i <= count; i++) river.starts.push(clock.startOf(first + i));
    for (const state of STATES) river.series[state] = new Array<number>(count).fill(0);
    const add = (day: number, state: number, lines: number): void => {
      const at = day - first;
      if (at >= 0 && at < count) river.series[STATES[state]!][at]! += lines;
    };
    const open = { ...filter, from: null, to: null };
    const passing = await this.passing(open, await this.hitsSoFar(filter));
    const isAsked = (row: Conversation): boolean =>
      correspondent === null || row.id === correspondent;
    const asked = this.index.conversations.filter(isAsked);
    const whole = asked.filter((row) => passing.passesByState(row));
    // Summaries count by the days of UTC: those of another zone are told by the lines themselves.
    const isByDays = UTC.test(this.time.zone);
    if (!isByDays || whole.length < asked.length) await this.index.loadAll();
    for (const row of whole)
      if (isByDays) addDays(row, passing, add);
      else this.eachOf(row, passing, (at, state) => add(clock.day(at), state, 1));
    if (whole.length === asked.length) return river;
    passing.each((i, store, row) => {
      if (!isAsked(this.index.conversations[i]!)) return;
      const { sentAt, state } = this.index.stores[store]!.columns;
      add(clock.day(sentAt[row]!), state[row]!, 1);
    });
    return river;
  }

  /** Calls for each line of a conversation whose state passes. */
  private eachOf(
    row: Conversation,
    passing: Passing,
    take: (at: number, state: number) => void
  ): void {
    const stands = this.index.standsOf(row);
    for (const { place, range } of this.index.partsOf(row)) {
      const { sentAt, state } = this.index.stores[place]!.columns;
      for (let at = range.start; at < range.start + range.count; at++)
        if (passing.passesState(state[at]!) && !stands.isCopy(place, at))
          take(sentAt[at]!, state[at]!);
    }
  }
}

/** Zones whose days are those of UTC. */
const UTC = /^(Etc\/)?(UTC|GMT|UCT|Zulu|Universal)$/;

function addDays(
  { summary }: Conversation,
  passing: Passing,
  add: (day: number, state: number, lines: number) => void
): void {
  const { days, dayStates, dayCounts } = summary;
  for (let i = 0; i < dayCounts.length; i++)
    if (passing.passesState(dayStates[i]!)) add(days[i]!, dayStates[i]!, dayCounts[i]!);
}

const SIDES: Partial<Record<string, Line['side']>> = { outgoing: 'own', incoming: 'other' };

function fileOf(store: string, id: string, known: KeptAttachment | undefined): LineFile {
  const found = known?.attachment;
  return {
    id,
    name: found?.name ?? 'unnamed',
    mime: found?.mime ?? null,
    bytes: found?.bytes ?? null,
    sourceId: found?.byHand ?? sourceIn(store),
    byHand: found?.byHand !== undefined,
    path: found?.path ?? '',
    missing: !found?.sha256,
    thumbnail: found?.thumbnail ?? null
  };
}

/** A chart of more days than a century says nothing; damaged times can ask for it. */
const MOST_DAYS = 40_000;

/** Lines, and where in equal stretches of the case's time they lie. */
class Cells {
  lines = 0;
  linesNotLive = 0;
  readonly all = new Array<number>(DENSITY_CELLS).fill(0);
  readonly notLive = new Array<number>(DENSITY_CELLS).fill(0);

  constructor(private readonly span: Span) {}

  /** Whether each stretch is days long, so that the day of a line tells where it belongs. */
  static areWide(span: Span): boolean {
    return span === null || span.to - span.from > 3 * DAY * DENSITY_CELLS;
  }

  add(moment: number, lines: number, isLive: boolean): void {
    this.lines += lines;
    if (!isLive) this.linesNotLive += lines;
    const { span } = this;
    if (span === null || Number.isNaN(moment)) return;
    const part = (moment - span.from) / Math.max(1, span.to - span.from);
    const at = Math.max(0, Math.min(DENSITY_CELLS - 1, Math.floor(part * DENSITY_CELLS)));
    this.all[at]! += lines;
    if (!isLive) this.notLive[at]! += lines;
  }
}

function countByDays({ summary }: Conversation, passing: Passing, cells: Cells): void {
  const { days, dayStates, dayCounts, timeless } = summary;
  for (let i = 0; i < dayCounts.length; i++) {
    const state = dayStates[i]!;
    if (passing.passesState(state))
      cells.add(days[i]! * DAY + DAY / 2, dayCounts[i]!, state === LIVE);
  }
  timeless.forEach((lines, state) => {
    if (passing.passesState(state)) cells.add(NaN, lines, state === LIVE);
  });
}
