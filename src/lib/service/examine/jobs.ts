import { PauseGate } from '$core/host';
import {
  EVERYTHING,
  runPass,
  scopeOf,
  wantOf,
  type PassEvent,
  type Scope,
  type Stage,
  type Want
} from '$core/examine';
import { emptyCounts, STATES, type Depth, type Source } from '$core/records';
import type { CountryCode } from '$core/messages';
import { version } from '../../../../package.json';
import { logAct, type Act } from '../../storage/custody';
import { savedProfiles } from '../../storage/profiles';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import { BlobScratch } from '../host/blob-scratch';
import { turn } from '../host/turn';
import { workerPool } from '../host/helpers';
import { inputOf } from '../evidence/input';
import { sha256Hasher } from '../host/hash';
import type { DeskEvent, JobView } from '../api/protocol';
import type { Keeper } from '../lines/keeping';
import type { Shelf } from '../evidence/shelf';

const STAGES: Record<Stage, string> = {
  unlock: 'working out the key',
  unpack: 'opening packages',
  files: 'listing files',
  hash: 'checking the checksum',
  declarations: 'looking for dropped tables',
  carve: 'searching the raw bytes',
  rows: 'reading live rows',
  freed: 'searching freed space',
  messages: 'joining messages'
};

const SHOWN_EVERY = 100;
const NOTHING_YET = { fraction: 0, after: 0, found: 0 };
/** Rows past which a table's messages come as batches. */
const MOST_HELD = 4000;

interface Job {
  sourceId: string;
  name: string;
  depth: Depth;
  want: Want;
  resumed: boolean;
}

/** Runs passes one after the other and keeps what they find as they go. */
export class Jobs {
  private readonly queue: Job[] = [];
  private gate = new PauseGate();
  private stopper = new AbortController();
  private running = false;
  private view: JobView | null = null;

  constructor(
    private readonly shelf: Shelf,
    private readonly keeper: Keeper,
    private readonly currentCase: () => CaseRecord,
    private readonly changed: (record?: CaseRecord) => Promise<void>,
    private readonly tell: (event: DeskEvent) => void,
    private readonly keysOf: (sourceId: string) => readonly string[],
    /** Tells of a store whether anything of it was chosen, covered or noted. */
    private readonly namedIn: () => Promise<(store: string) => boolean>
  ) {}

  /** Takes up again what a reload cut off. */
  async takeUp(sources: SourceRecord[]): Promise<void> {
    for (const { id, name, pass } of sources) {
      if (pass.state === 'running' || pass.state === 'queued') {
        await this.begin({
          sourceId: id,
          name,
          depth: pass.depth,
          want: pass.want ? wantOf(pass.want) : EVERYTHING,
          resumed: pass.state === 'running'
        });
      }
    }
  }

  async begin(job: Job): Promise<void> {
    if (this.view?.sourceId === job.sourceId || this.queue.some((j) => j.sourceId === job.sourceId))
      return;
    await this.shelf.setPass(job.sourceId, {
      ...askedOf(job),
      state: 'queued',
      startedAt: Date.now()
    });
    this.queue.push(job);
    if (!this.running) void this.work();
  }

  /** Ends the pass over a source, or takes it out of those that wait; over when it has ended. */
  async giveUp(sourceId: string): Promise<void> {
    for (let at = this.queue.length - 1; at >= 0; at--)
      if (this.queue[at]!.sourceId === sourceId) this.queue.splice(at, 1);
    if (this.view?.sourceId !== sourceId) return;
    this.stop();
    await this.current;
  }

  pause(): void {
    this.gate.pause();
    this.show({ paused: true });
  }

  resume(): void {
    this.gate.resume();
    this.show({ paused: false });
  }

  stop(): void {
    this.stopper.abort();
    this.gate.resume();
  }

  /** The pass that runs. */
  private current: Promise<void> = Promise.resolve();

  private async work(): Promise<void> {
    this.running = true;
    for (let job = this.queue.shift(); job; job = this.queue.shift()) {
      this.gate = new PauseGate();
      this.stopper = new AbortController();
      this.current = this.run(job);
      await this.current;
    }
    this.running = false;
    this.view = null;
    this.tell({ type: 'job', job: null });
  }

  private async run(job: Job): Promise<void> {
    const startedAt = Date.now();
    const { want: _, ...shown } = job;
    this.start(shown);
    this.seen.clear();
    try {
      await this.shelf.setPass(job.sourceId, { ...askedOf(job), state: 'running', startedAt });
      await this.log('examination begun', job, {
        kinds: [...job.want.kinds],
        resumed: job.resumed
      });
      const events = await this.events(job);
      [this.last, this.first] = [null, null];
      for await (const event of events) await this.take(job, event, startedAt);
    } catch (error) {
      this.tell({ type: 'failed', text: failureText(job.name, error) });
      await this.log('examination failed', job, { reason: String(error) }).catch((kept: unknown) =>
        this.tell({ type: 'failed', text: `The log was not kept: ${String(kept)}` })
      );
      const endedAt = Date.now();
      await this.shelf
        .takeStaged(job.sourceId, false)
        .catch((kept: unknown) => this.tell({ type: 'failed', text: failureText(job.name, kept) }));
      // Where the disk is full even this may not be kept; that was told already.
      await this.shelf
        .setPass(job.sourceId, { ...askedOf(job), state: 'failed', startedAt, endedAt })
        .catch((kept: unknown) => this.tell({ type: 'failed', text: failureText(job.name, kept) }));
    } finally {
      await this.keeper.forget();
      this.helpers.end();
    }
    await this.changed();
  }

  private start(job: Omit<Job, 'want'>): void {
    this.view = {
      ...job,
      stage: 'opening',
      fraction: 0,
      found: 0,
      rate: null,
      secondsLeft: null,
      paused: false
    };
    this.show({});
  }

  private readonly helpers = workerPool();

  private async events(job: Job): Promise<AsyncGenerator<PassEvent>> {
    const record = await this.shelf.get(job.sourceId);
    if (!record) throw new Error('the source is no longer in this case');
    const input = await inputOf(this.shelf, record);
    const { own, offered } = await savedProfiles(this.currentCase().id);
    return runPass({
      input,
      depth: job.depth,
      region: this.currentCase().region as CountryCode | null,
      zone: record.localZone ?? this.currentCase().zone,
      hasher: sha256Hasher,
      early: true,
      keys: this.keysOf(job.sourceId),
      scratch: () => new BlobScratch(),
      want: job.want,
      profiles: own,
      offered,
      mostHeld: MOST_HELD,
      helpers: this.helpers,
      turn,
      signal: this.stopper.signal,
      gate: this.gate
    });
  }

  private async take(job: Job, event: PassEvent, startedAt: number): Promise<void> {
    switch (event.type) {
      case 'progress':
        return this.progress(event);
      case 'json':
        throw new Error('records as JSON were not asked for');
      case 'batch':
        return this.keeper.add(job.sourceId, event.batch);
      case 'found': {
        // A first look is for stores of which nothing is known yet: it must not take the place of more.
        const store = event.findings.stores[0]!.id;
        this.seen.add(store);
        if (!event.final && this.keeper.knows(store)) return this.keeper.drop(store);
        const record = await this.keeper.keep(job.sourceId, event.findings, this.currentCase(), {
          isFinal: event.final,
          scope: scopeOf(job.want, job.depth),
          wrote: (done, total) => this.keeping(done, total)
        });
        return this.changed(record);
      }
      case 'done': {
        const state = event.stopped ? 'stopped' : 'done';
        const pass = { ...askedOf(job), state, startedAt, endedAt: Date.now() } as const;
        if (!event.stopped) await this.retire(job, event.source);
        await this.keeper.join(true);
        const listsAll = !event.stopped && job.want.kinds.has('files');
        await this.shelf.takeStaged(job.sourceId, listsAll);
        await this.shelf.setPass(job.sourceId, pass, await this.factsOf(job, event));
        await this.nameByDevice(job.sourceId, event.source);
        return this.logEnd(job, event.stopped, event.source);
      }
      case 'files':
        return this.shelf.stageFiles(job.sourceId, event.files);
      case 'source':
        await this.shelf.dropStaged(job.sourceId);
        if ((await this.shelf.get(job.sourceId))?.source === null)
          await this.shelf.setSource(job.sourceId, event.source);
        return this.changed();
      case 'candidate':
      case 'note':
        return;
    }
  }

  /** Stores of the source that were met again. */
  private readonly seen = new Set<string>();

  /** What was read of a file that something else reads now goes, unless something of it was chosen, covered or noted. */
  private async retire(job: Job, source: Source): Promise<void> {
    if (source.inside.packages.some(({ lock }) => lock !== null)) return;
    const isNamed = await this.namedIn();
    const read = new Set(
      this.keeper.index.stores.flatMap(({ id, record }) =>
        this.seen.has(id) ? [record.facts.path] : []
      )
    );
    await this.keeper.retire(
      job.sourceId,
      scopeOf(job.want, job.depth),
      ({ id, record }) => !this.seen.has(id) && read.has(record.facts.path) && !isNamed(id)
    );
  }

  /** What is kept of a source: a pass that was stopped or narrowed does not take away what an earlier one knew. */
  private async factsOf(
    { sourceId }: Job,
    { source, stopped }: PassEvent & { type: 'done' }
  ): Promise<Source> {
    const before = (await this.shelf.get(sourceId))?.source;
    if (!before || before.inside.files === 0 || !stopped) return source;
    const isOpen = source.inside.packages.length >= before.inside.packages.length;
    return isOpen && source.kind !== 'unrecognised' ? source : before;
  }

  /** A source whose name nobody gave takes that of its device. */
  private async nameByDevice(sourceId: string, { device }: Source): Promise<void> {
    const record = await this.shelf.get(sourceId);
    if (!record || record.isNamed || !device.name || device.name === record.name) return;
    await this.shelf.rename(sourceId, device.name, false);
  }

  private log(what: Act, job: Job, detail: Record<string, unknown>): Promise<void> {
    const { sourceId, name, depth } = job;
    return logAct(this.currentCase().id, what, {
      source: name,
      id: sourceId,
      depth,
      version,
      ...detail
    });
  }

  /** What a pass came to, and whether a key that was given opened the source. */
  private async logEnd(job: Job, stopped: boolean, source: Source): Promise<void> {
    if (this.keysOf(job.sourceId).length > 0) {
      const isLocked = source.inside.packages.some(({ lock }) => lock !== null);
      await this.log(isLocked ? 'key refused' : 'key accepted', job, {});
    }
    const record = await this.shelf.get(job.sourceId);
    const found = emptyCounts();
    for (const { counts } of record?.stores ?? [])
      for (const state of STATES) found[state] += counts[state];
    await this.log(stopped ? 'examination stopped' : 'examination finished', job, {
      sha256: record?.sum ?? source.sha256,
      found
    });
  }

  private progress(event: PassEvent & { type: 'progress' }): void {
    this.last = event;
    if (event.stage === 'unlock') return this.unlocking(event);
    this.first ??= { at: Date.now(), fraction: event.fraction };
    this.advance(event.fraction, STAGES[event.stage], event.found);
  }

  /** Working out a key reads nothing: it has a time of its own, and what follows is told from its beginning. */
  private unlocking({ part, fraction, found }: PassEvent & { type: 'progress' }): void {
    this.first = null;
    const now = Date.now();
    if (part === 0) this.unlockSince = now;
    const seconds = (now - this.unlockSince) / 1000;
    const secondsLeft = part > 0.01 ? (seconds / part) * (1 - part) : null;
    this.show({ stage: STAGES.unlock, fraction, found, rate: null, secondsLeft });
  }

  private unlockSince = 0;

  /** What was found is being put in order and kept. */
  private keeping(done: number, total: number): void {
    const now = Date.now();
    if (now < this.nextShown && done < total) return;
    this.nextShown = now + SHOWN_EVERY;
    const { fraction, after, found } = this.last ?? NOTHING_YET;
    const shown = fraction + (after - fraction) * (done / Math.max(1, total));
    const stage = `keeping line ${done.toLocaleString('en')} of ${total.toLocaleString('en')}`;
    this.advance(shown, stage, Math.max(found, total));
  }

  /** The last that the pass said, and where it was when it first said something. */
  private last: (PassEvent & { type: 'progress' }) | null = null;
  private first: { at: number; fraction: number } | null = null;

  /** Time left is told by how fast the pass went since it began to tell. */
  private advance(fraction: number, stage: string, found: number): void {
    const first = this.first ?? { at: Date.now(), fraction: 0 };
    const seconds = (Date.now() - first.at) / 1000;
    const over = fraction - first.fraction;
    const isKnown = over > 0.02 && seconds > 0.5;
    const bytes = this.last?.bytes ?? 0;
    this.show({
      stage,
      fraction,
      found,
      rate: isKnown ? (bytes * (over / Math.max(1e-9, 1 - first.fraction))) / seconds : null,
      secondsLeft: isKnown ? (seconds / over) * (1 - fraction) : null
    });
  }

  private nextShown = 0;

  private show(change: Partial<JobView>): void {
    if (!this.view) return;
    this.view = { ...this.view, ...change };
    this.tell({ type: 'job', job: this.view });
  }
}

/** What of a job is kept with the state of its source. */
function askedOf({ want, depth }: Job): { depth: Depth; want: Omit<Scope, 'depth'> } {
  const { depth: _, ...wanted } = scopeOf(want, depth);
  return { depth, want: wanted };
}

/** How browsers say that the disk, or their share of it, is full. */
function isFull(error: unknown): boolean {
  return error instanceof DOMException && /Quota|Unknown/.test(error.name);
}

function failureText(name: string, error: unknown): string {
  if (isFull(error))
    return `The examination of ${name} ended early: this browser has no room left to keep what is found. Make room on the disk, or delete a case, and examine it again. What was kept until then stays.`;
  const reason = error instanceof Error ? error.message : String(error);
  return `The examination of ${name} ended early: ${reason}. What was found until then is kept.`;
}
