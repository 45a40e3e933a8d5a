import type { Naming } from '$core/case';
import { proxyMarker, type ProxyMarked } from 'comlink';
import { stateCounts } from '$core/case/lines';
import { STATES, type Counts, type ProofMethod, type RecordState } from '$core/records';
import type { CaseRecord, ProductionRecord, SourceRecord } from '../../storage/schema';
import { DAY, WallClock } from '../host/wall-clock';
import type { KeptIndex } from '../lines/store-lines';

const HOUR = 3_600_000;
const HOURS = 24;
/** Correspondents that are listed by themselves. */
const MOST_LISTED = 25;
/** Days past which a month is one bar. */
const MOST_DAYS = 400;

export interface SummaryApi extends ProxyMarked {
  figures(): Promise<CaseFigures>;
}

/** A number of lines by state. */
export type ByState = Record<RecordState, number>;

/** What a case comes to. */
export interface CaseFigures {
  totals: Counts;
  from: number | null;
  to: number | null;
  /** Lines by day or month, in the case's time. */
  spans: { label: string; counts: ByState }[];
  isByMonth: boolean;
  correspondents: {
    id: string;
    name: string;
    detail: string;
    counts: ByState;
    first: number | null;
    last: number | null;
  }[];
  /** Correspondents that are not listed, and their lines. */
  others: { correspondents: number; lines: number };
  /** Lines by hour of day and by day of the week, from Monday on. */
  hours: number[];
  weekdays: number[];
  sources: {
    id: string;
    name: string;
    sha256: string;
    bytes: number;
    pass: string;
    stores: { path: string; profile: string; counts: Counts; limits: string[] }[];
    /** Records that were brought back, by where they were found. */
    methods: [ProofMethod, number][];
  }[];
  gaps: {
    count: number;
    missing: number;
    largest: { count: number; name: string | null; from: number | null; to: number | null }[];
  };
  chosen: number;
  productions: ProductionRecord[];
  notes: number;
}

interface SummaryHost {
  index(): KeptIndex;
  naming(): Naming;
  record(): CaseRecord;
  sources(): Promise<SourceRecord[]>;
  productions(): Promise<ProductionRecord[]>;
  chosen(): number;
  notes(): number;
}

/** Counts a case through, for one page. */
export class SummaryRoom implements SummaryApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: SummaryHost) {}

  async figures(): Promise<CaseFigures> {
    const { host } = this;
    const index = host.index();
    const span = index.span();
    const isByMonth = span !== null && span.to - span.from > MOST_DAYS * DAY;
    const clock = new WallClock(host.record().zone);
    await index.loadAll();
    return {
      totals: index.counts(),
      from: span?.from ?? null,
      to: span?.to ?? null,
      spans: spansOf(index, clock, isByMonth),
      isByMonth,
      ...this.correspondents(index),
      ...rhythm(index, clock),
      sources: await this.sources(index),
      gaps: this.gaps(index),
      chosen: host.chosen(),
      productions: await host.productions(),
      notes: host.notes()
    };
  }

  private correspondents(index: KeptIndex): Pick<CaseFigures, 'correspondents' | 'others'> {
    const naming = this.host.naming();
    const sorted = [...index.conversations].sort((a, b) => b.summary.count - a.summary.count);
    const known = (at: number): number | null => (Number.isNaN(at) ? null : at);
    const rest = sorted.slice(MOST_LISTED);
    return {
      correspondents: sorted.slice(0, MOST_LISTED).map((row) => ({
        id: row.id,
        name: naming.correspondent(row),
        detail: row.group
          ? `group of ${row.participants.length + 1}`
          : naming.shown(row.participants[0] ?? null),
        counts: named(stateCounts(row.summary)),
        first: known(row.summary.first),
        last: known(row.summary.last)
      })),
      others: {
        correspondents: rest.length,
        lines: rest.reduce((sum, { summary }) => sum + summary.count, 0)
      }
    };
  }

  private async sources(index: KeptIndex): Promise<CaseFigures['sources']> {
    const all: CaseFigures['sources'] = [];
    for (const source of await this.host.sources()) {
      const methods = new Map<ProofMethod, number>();
      for (const store of index.stores) {
        if (store.record.sourceId !== source.id) continue;
        for await (const { method } of store.recoveredProofs())
          methods.set(method, (methods.get(method) ?? 0) + 1);
      }
      all.push({
        id: source.id,
        name: source.name,
        sha256: source.source?.sha256 ?? source.files[0]?.sha256 ?? '',
        bytes: source.files.reduce((sum, { bytes }) => sum + bytes, 0),
        pass:
          'depth' in source.pass
            ? `${source.pass.state}, depth ${source.pass.depth}`
            : 'not examined',
        stores: source.stores.map(({ path, profile, counts, limits }) => ({
          path,
          profile,
          counts,
          limits
        })),
        methods: [...methods].sort((a, b) => b[1] - a[1])
      });
    }
    return all;
  }

  private gaps(index: KeptIndex): CaseFigures['gaps'] {
    const naming = this.host.naming();
    const largest = index.gaps
      .map(({ gap }) => gap)
      .sort((a, b) => b.count - a.count)
      .slice(0, 10)
      .map(({ count, thread, from, to }) => {
        const row = thread === null ? undefined : index.correspondentOf(thread);
        return { count, name: row ? naming.correspondent(row) : null, from, to };
      });
    const missing = index.gaps.reduce((sum, { gap }) => sum + gap.count, 0);
    return { count: index.gaps.length, missing, largest };
  }
}

function named(counts: ArrayLike<number>): ByState {
  return Object.fromEntries(STATES.map((state, i) => [state, counts[i] ?? 0])) as ByState;
}

/** Calls for each line that is shown and whose time is known. */
function eachLine(index: KeptIndex, take: (at: number, state: number) => void): void {
  for (const row of index.conversations) {
    const stands = index.standsOf(row);
    for (const { place, range } of index.partsOf(row)) {
      const { sentAt, state } = index.stores[place]!.columns;
      for (let at = range.start; at < range.start + range.count; at++)
        if (!Number.isNaN(sentAt[at]!) && !stands.isCopy(place, at)) take(sentAt[at]!, state[at]!);
    }
  }
}

function spansOf(index: KeptIndex, clock: WallClock, isByMonth: boolean): CaseFigures['spans'] {
  const spans = new Map<string, number[]>();
  eachLine(index, (at, state) => {
    const label = new Date(clock.wall(at)).toISOString().slice(0, isByMonth ? 7 : 10);
    const counts = spans.get(label) ?? new Array<number>(STATES.length).fill(0);
    counts[state]!++;
    spans.set(label, counts);
  });
  return [...spans]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([label, counts]) => ({ label, counts: named(counts) }));
}

function rhythm(index: KeptIndex, clock: WallClock): Pick<CaseFigures, 'hours' | 'weekdays'> {
  const hours = new Array<number>(HOURS).fill(0);
  const weekdays = new Array<number>(7).fill(0);
  eachLine(index, (at) => {
    const wall = clock.wall(at);
    hours[Math.floor((((wall % DAY) + DAY) % DAY) / HOUR)]!++;
    // The first of January 1970 was a Thursday.
    weekdays[(((Math.floor(wall / DAY) + 3) % 7) + 7) % 7]!++;
  });
  return { hours, weekdays };
}
