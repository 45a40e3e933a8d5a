import { proxy, wrap, type Remote } from 'comlink';
import { getContext, setContext } from 'svelte';
import { giveUpPasses } from '../storage/passes';
import type { Door } from '../service/case/case.worker';
import type { Exchange } from '$core/acquire';
import type { CaseDeskApi } from '../service/case/desk-api';
import type {
  CaseSummary,
  ClosedSource,
  CopyEnd,
  CopyView,
  DeskEvent,
  JobView
} from '../service/api/protocol';

/** The page's side of an open case: the worker, and what it last said. */
export class OpenCase {
  summary = $state.raw<CaseSummary | null>(null);
  job = $state.raw<JobView | null>(null);
  /** How many pictures were compared, of how many. */
  comparing = $state.raw<{ done: number; total: number } | null>(null);
  adding = $state.raw<{ name: string; fraction: number } | null>(null);
  /** How far a production is. */
  producing = $state.raw<{ what: string; done: number; total: number } | null>(null);
  /** The copy that is being taken on the bench, and how the last one broke off. */
  copying = $state.raw<CopyView | null>(null);
  copyEnd = $state.raw<CopyEnd | null>(null);
  /** What was said to the card in the reader, and what it answered. */
  exchange = $state.raw<Exchange[]>([]);
  failure = $state<string | null>(null);
  /** Opens what explains the marks. */
  explain: () => void = () => undefined;
  /** Counts up whenever the case's records change, so that views ask again. */
  version = $state(0);
  /** Counts up as more is known of what is searched for. */
  hits = $state(0);
  /** Sources on the disk that the browser has to be asked about. */
  closed = $state.raw<ClosedSource[]>([]);
  /** Passwords that were typed and not yet given, by their sources. */
  readonly typedKeys = new Map<string, string>();
  private worker: Worker | null = null;
  private remote: Remote<CaseDeskApi> | null = null;

  /** @param afresh the page was not just loaded again */
  async open(caseId: string, afresh: boolean): Promise<void> {
    this.worker = new Worker(new URL('../service/case/case.worker.ts', import.meta.url), {
      type: 'module'
    });
    this.worker.addEventListener('error', (event) => {
      event.preventDefault();
      this.failure = `The part that reads evidence stopped working (${event.message || 'no reason given'}). Reload the page: what was found is kept.`;
    });
    const door = wrap<Door>(this.worker);
    const listener = proxy((event: DeskEvent) => this.hear(event));
    this.remote = (await door.desk(listener)) as unknown as Remote<CaseDeskApi>;
    this.summary = await this.remote.open(caseId, afresh);
  }

  /** The worker's answers; only after {@link open}. */
  get desk(): Remote<CaseDeskApi> {
    if (!this.remote) throw new Error('No case is open.');
    return this.remote;
  }

  close(): void {
    this.worker?.terminate();
    this.worker = null;
    this.remote = null;
  }

  /**
   * Stops the pass. A worker that does not answer is ended, and the case opened
   * anew: what was kept until then stays, the pass is not taken up again.
   */
  async stopPass(): Promise<void> {
    const answer = this.desk.stopPass().then(() => true);
    const isHeard = await Promise.race([
      answer,
      new Promise<false>((resolve) => setTimeout(() => resolve(false), PATIENCE))
    ]);
    if (isHeard || !this.summary) return;
    const { id } = this.summary.record;
    this.close();
    this.job = null;
    await giveUpPasses(id);
    await this.open(id, false);
    this.version++;
  }

  async lookClosed(): Promise<void> {
    const anyInPlace = this.summary?.sources.some(({ isInPlace }) => isInPlace) ?? false;
    this.closed = this.remote && anyInPlace ? await this.remote.sources.closed() : [];
  }

  /** Gives what was typed into the fields of locked sources, so that whatever begins next uses it. */
  async giveTypedKeys(): Promise<void> {
    for (const [source, key] of this.typedKeys) {
      this.typedKeys.delete(source);
      await this.desk.sources.giveKeys(source, [key]);
    }
  }

  private hear(event: DeskEvent): void {
    switch (event.type) {
      case 'job':
        this.job = event.job;
        return;
      case 'copying':
        if (event.copy && this.copying === null) [this.copyEnd, this.exchange] = [null, []];
        this.copying = event.copy;
        return;
      case 'copy-broke':
        this.copyEnd = event.end;
        return;
      case 'exchange':
        this.exchange = [...this.exchange, event.said];
        return;
      case 'adding':
        this.adding = event.fraction < 1 ? event : null;
        return;
      case 'comparing':
        this.comparing = event.done < event.total ? event : null;
        return;
      case 'producing':
        this.producing = event.done < event.total ? event : null;
        return;
      case 'changed':
        this.adding = null;
        void this.refresh();
        return;
      case 'hits':
        this.hits++;
        return;
      case 'failed':
        this.failure = event.text;
        return;
    }
  }

  async refresh(): Promise<void> {
    if (!this.remote) return;
    this.summary = await this.remote.summary();
    this.version++;
  }
}

/** Milliseconds after which a worker that does not answer is taken to be stuck. */
const PATIENCE = 4000;

const KEY = Symbol('open case');

export function provideCase(open: OpenCase): void {
  setContext(KEY, () => open);
}

export function useCase(): OpenCase {
  const get = getContext<(() => OpenCase) | undefined>(KEY);
  if (!get) throw new Error('useCase() needs a case layout above it.');
  return get();
}
