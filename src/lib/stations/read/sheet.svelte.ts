import type { Remote } from 'comlink';
import type { MediaFilter, MediaRow, MediaSheet } from '../../service/api/media-api';
import { ALL_MEDIA } from './media-filter';
import type { CaseDeskApi } from '../../service/case/desk-api';

const PAGE = 240;
const MOST_PAGES = 40;

/** The files of the media sheet, fetched in pages as they come into view. */
export class SheetWindow {
  sheet = $state.raw<MediaSheet | null>(null);
  /** Counts up when a page arrives. */
  arrived = $state(0);
  private pages = new Map<number, MediaRow[]>();
  private asked = new Set<number>();
  private filter: MediaFilter = ALL_MEDIA;
  private turn = 0;

  constructor(private readonly desk: () => Remote<CaseDeskApi>) {}

  async show(filter: MediaFilter): Promise<void> {
    const turn = ++this.turn;
    const sheet = await this.desk().media.sheet(filter);
    const first = await this.desk().media.rows(filter, 0, PAGE);
    if (turn !== this.turn) return;
    this.filter = filter;
    this.pages = new Map([[0, first]]);
    this.asked = new Set([0]);
    this.sheet = sheet;
    this.arrived++;
  }

  /** The file, or undefined while its page is on the way. */
  get(at: number): MediaRow | undefined {
    const page = Math.floor(at / PAGE);
    const rows = this.pages.get(page);
    if (!rows) void this.fetch(page);
    // Who scrolls on finds the next page there.
    const into = (at - page * PAGE) / PAGE;
    if (into > 0.6) void this.fetch(page + 1);
    else if (into < 0.4 && page > 0) void this.fetch(page - 1);
    return rows?.[at - page * PAGE];
  }

  private async fetch(page: number): Promise<void> {
    if (this.asked.has(page) || page * PAGE >= (this.sheet?.total ?? 0)) return;
    this.asked.add(page);
    const { turn } = this;
    const rows = await this.desk().media.rows(this.filter, page * PAGE, (page + 1) * PAGE);
    if (turn !== this.turn) return;
    this.pages.set(page, rows);
    for (const far of [...this.pages.keys()].slice(0, Math.max(0, this.pages.size - MOST_PAGES))) {
      this.pages.delete(far);
      this.asked.delete(far);
    }
    this.arrived++;
  }

  /** Keys of files by their places. */
  keys(from: number, to: number): Promise<string[]> {
    return this.desk().media.keys(this.filter, from, to);
  }
}
