import type { Remote } from 'comlink';
import type { CaseDeskApi } from '../../service/case/desk-api';
import type { Line, ReadFilter } from '../../service/api/protocol';

const PAGE = 120;
/** Pages that are kept: a conversation can have thousands. */
const MOST_PAGES = 60;

/** The lines of one conversation, fetched in pages as they come into view. */
export class LineWindow {
  total = $state(0);
  /** Counts up when a page arrives. */
  arrived = $state(0);
  private pages = new Map<number, Line[]>();
  /** Pages that are there or on the way. */
  private asked = new Map<number, Promise<void>>();
  private turn = 0;
  /** Whose lines are shown; until those of another are there, these are not drawn under its name. */
  correspondent = $state('');
  private filter: ReadFilter | null = null;

  constructor(
    private readonly desk: () => Remote<CaseDeskApi>,
    /** Told where a page that came into view could not be read. */
    private readonly failed: (error: unknown) => void
  ) {}

  /** Turns to a conversation; what is shown stays until the first page of the new one is there. */
  async show(correspondent: string, filter: ReadFilter, near: number): Promise<void> {
    const turn = ++this.turn;
    const index = Math.max(0, Math.floor(near / PAGE));
    const from = index * PAGE;
    const page = await this.desk().read.lines(correspondent, filter, from, from + PAGE);
    if (turn !== this.turn) return;
    this.correspondent = correspondent;
    this.filter = filter;
    this.pages = new Map([[index, page.lines]]);
    this.asked = new Map([[index, Promise.resolve()]]);
    this.total = page.total;
    this.arrived++;
  }

  clear(): void {
    this.turn++;
    this.pages.clear();
    this.total = 0;
    this.arrived++;
  }

  /** The line, or undefined while its page is on the way. */
  get(i: number): Line | undefined {
    const index = Math.floor(i / PAGE);
    const page = this.pages.get(index);
    if (!page && !this.asked.has(index)) this.fetch(index).catch(this.failed);
    return page?.[i - index * PAGE];
  }

  /** Waits until a line is there. */
  async need(i: number): Promise<void> {
    await this.fetch(Math.floor(i / PAGE));
  }

  private fetch(index: number): Promise<void> {
    const known = this.asked.get(index);
    if (known || !this.filter) return known ?? Promise.resolve();
    const asked = this.take(index, this.filter).catch((error: unknown) => {
      // It is asked for again when it next comes into view.
      this.asked.delete(index);
      throw error;
    });
    this.asked.set(index, asked);
    return asked;
  }

  private async take(index: number, filter: ReadFilter): Promise<void> {
    const turn = this.turn;
    const from = index * PAGE;
    const page = await this.desk().read.lines(this.correspondent, filter, from, from + PAGE);
    if (turn !== this.turn) return;
    this.pages.set(index, page.lines);
    this.forgetFar(index);
    this.arrived++;
  }

  /** Of many pages those that lie farthest from the one that came are dropped; they are asked for again when they come into view. */
  private forgetFar(index: number): void {
    if (this.pages.size <= MOST_PAGES) return;
    const byDistance = [...this.pages.keys()].sort(
      (a, b) => Math.abs(a - index) - Math.abs(b - index)
    );
    for (const far of byDistance.slice(MOST_PAGES / 2)) {
      this.pages.delete(far);
      this.asked.delete(far);
    }
  }

  /** Marks lines as chosen at once; the worker's answer follows. */
  mark(ids: ReadonlySet<string>, chosen: boolean): void {
    for (const [index, page] of this.pages) {
      this.pages.set(
        index,
        page.map((line) => (ids.has(line.id) ? { ...line, chosen } : line))
      );
    }
    this.arrived++;
  }
}
