import { downloadZip } from 'client-zip';
import { CardReader, CopyError, takeCopy, type CopyEvent, type CopyWire } from '$core/acquire';
import { PauseGate } from '$core/host';
import { bytes } from '../../format';
import { logAct } from '../../storage/custody';
import { BrowserCopy, keepCopy, keptCopies, keptCopy, removeCopy } from '../../storage/copies';
import type { CopyRecord, SourceRecord } from '../../storage/schema';
import type { CopyOrder, CopyView, DeskEvent } from '../api/protocol';
import type { Shelf } from './shelf';
import { benchWire, transmitToCard } from './wire';

/** Takes copies of devices on the bench, one at a time. */
export class Copies {
  private gate = new PauseGate();
  private stopper = new AbortController();
  private view: CopyView | null = null;

  constructor(
    private readonly shelf: Shelf,
    private readonly caseId: string,
    private readonly tell: (event: DeskEvent) => void
  ) {}

  pause(): void {
    this.gate.pause();
    this.show({ state: 'paused' });
  }

  resume(): void {
    this.gate.resume();
    this.show({ state: 'running' });
  }

  stop(): void {
    this.stopper.abort();
    this.gate.resume();
  }

  /** Copies that are not whole and not being taken. */
  async broken(): Promise<CopyRecord[]> {
    const running = this.view && this.keyOf(this.view);
    return (await keptCopies(this.caseId)).filter(({ key }) => key !== running);
  }

  async throwAway(key: string): Promise<void> {
    const record = await keptCopy(key);
    await removeCopy(key);
    if (record) await this.log('copy thrown away', record);
  }

  private keyOf({ device, depth, kinds }: CopyOrder): string {
    return `${this.caseId}/${device}/${depth}/${kinds?.join('+') ?? 'all'}`;
  }

  /** The source that the copy became; null where it broke off, which was told. */
  async take(order: CopyOrder): Promise<SourceRecord | null> {
    if (this.view) throw new Error('Another copy is being taken; wait for it, or stop it.');
    const key = this.keyOf(order);
    const { device, name, depth, kinds } = order;
    const earlier = await keptCopy(key);
    const record: CopyRecord = {
      ...{ key, caseId: this.caseId, device, name, depth, kinds },
      done: earlier?.done ?? 0,
      total: earlier?.total ?? 0,
      message: null
    };
    this.gate = new PauseGate();
    this.stopper = new AbortController();
    this.view = {
      ...order,
      state: 'running',
      path: '',
      done: record.done,
      total: record.total,
      rate: null,
      secondsLeft: null
    };
    this.show({});
    try {
      await keepCopy(record);
      await this.log('copy begun', record);
      return await this.run(order, record);
    } catch (error) {
      await this.broke(record, error);
      return null;
    } finally {
      this.view = null;
      this.tell({ type: 'copying', copy: null });
    }
  }

  private async run(order: CopyOrder, record: CopyRecord): Promise<SourceRecord> {
    const place = await BrowserCopy.open(record.key);
    const events = takeCopy(this.wireOf(order), place, {
      gate: this.gate,
      signal: this.stopper.signal,
      now: () => Date.now(),
      sleep: (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds))
    });
    for await (const event of events) {
      const source = await this.follow(event, record, place);
      if (source) return source;
    }
    throw new Error('The copy ended without an end.');
  }

  private wireOf(order: CopyOrder): CopyWire {
    if (order.device !== 'card') return benchWire(order);
    return new CardReader(transmitToCard, order.depth, (said) =>
      this.tell({ type: 'exchange', said })
    );
  }

  private async follow(
    event: CopyEvent,
    record: CopyRecord,
    place: BrowserCopy
  ): Promise<SourceRecord | null> {
    switch (event.type) {
      case 'taken-up':
        this.show({ done: event.verified, total: event.total });
        return null;
      case 'waiting':
        this.show({ state: 'waiting', secondsLeft: event.milliseconds / 1000 });
        return null;
      case 'progress': {
        const { path, done, total, rate, secondsLeft } = event;
        Object.assign(record, { done, total });
        const state = this.gate.paused ? 'paused' : 'running';
        this.show({ state, path, done, total, rate, secondsLeft });
        return null;
      }
      case 'done':
        return this.shelve(record, event, place);
    }
  }

  private async shelve(
    record: CopyRecord,
    { files, total }: Extract<CopyEvent, { type: 'done' }>,
    place: BrowserCopy
  ): Promise<SourceRecord> {
    const { key, device, name, depth } = record;
    const paths = [...files.map(({ path }) => path), 'SHA256SUMS'];
    const blobs = paths.map((path) => ({ path, blob: place.blob(path) }));
    const copied = { device, depth, at: Date.now(), log: await place.log() };
    const added = await this.shelf.add(name, blobs, () => undefined, {
      copied,
      isNamed: true
    });
    if (!added.ok) throw new CopyError('no-room', added.reason);
    const wrong = files.find(
      ({ path, sha256 }) => added.source.files.find((file) => file.path === path)?.sha256 !== sha256
    );
    if (wrong) {
      await this.shelf.remove(added.source.id);
      throw new CopyError(
        'damaged-in-transit',
        `${wrong.path} was not kept exactly as it was copied.`
      );
    }
    await removeCopy(key);
    await this.log('copy finished', record, { files: files.length, bytes: total });
    return added.source;
  }

  private async broke(record: CopyRecord, error: unknown): Promise<void> {
    const { device } = record;
    if (this.stopper.signal.aborted) {
      const message = `The copy was stopped. ${keptWords(record)}`;
      if (record.done === 0) await removeCopy(record.key);
      else await keepCopy({ ...record, message });
      await this.log('copy stopped', record);
      return this.tell({ type: 'copy-broke', end: { device, fault: 'stopped', message } });
    }
    if (!(error instanceof CopyError)) {
      await keepCopy({ ...record, message: 'The copy failed.' });
      throw error;
    }
    const { fault } = error;
    const message = fault === 'not-ready' ? error.message : `${error.message} ${keptWords(record)}`;
    if (record.done === 0) await removeCopy(record.key);
    else await keepCopy({ ...record, message });
    await this.log('copy broke off', record, { reason: message });
    this.tell({ type: 'copy-broke', end: { device, fault, message } });
  }

  /** A copy with its checksums and its log. */
  async archive(sourceId: string): Promise<Blob> {
    const source = await this.shelf.get(sourceId);
    if (!source?.copied) throw new Error('This source is not a copy that was taken here.');
    const parts = [];
    for (const { path, sha256 } of source.files) {
      const input = await this.shelf.blob(sha256);
      if (!input) throw new Error(`${path} is no longer in this browser.`);
      parts.push({ name: path, input, lastModified: new Date(source.copied.at) });
    }
    const log = source.copied.log.map((entry) => `${JSON.stringify(entry)}\n`).join('');
    const name = 'copying-log.jsonl';
    parts.push({ name, input: new Blob([log]), lastModified: new Date(source.copied.at) });
    return downloadZip(parts).blob();
  }

  private async log(
    what: Parameters<typeof logAct>[1],
    { device, name, depth, kinds }: CopyRecord,
    more: Record<string, unknown> = {}
  ): Promise<void> {
    const detail = { device, source: name, depth, ...(kinds ? { kinds } : {}), ...more };
    await logAct(this.caseId, what, detail);
  }

  private show(change: Partial<CopyView>): void {
    if (!this.view) return;
    this.view = { ...this.view, ...change };
    this.tell({ type: 'copying', copy: this.view });
  }
}

function keptWords({ done, total }: CopyRecord): string {
  return done === 0
    ? 'Nothing had been copied yet.'
    : `${bytes(done)} of ${bytes(total)} are verified and kept.`;
}
