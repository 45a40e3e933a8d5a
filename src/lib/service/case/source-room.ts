import { proxyMarker, type ProxyMarked } from 'comlink';
import { EVERYTHING, wantOf } from '$core/examine';
import { sourceIn, type Depth } from '$core/records';
import { logAct } from '../../storage/custody';
import { openStorage } from '../../storage/open';
import { purgeSource } from '../../storage/evidence';
import type { CaseRecord, EvidencePlace, SourceRecord } from '../../storage/schema';
import type { CaseOwner } from './case-owner';
import type { CaseExhibits } from '../exhibits/exhibits';
import type { Jobs } from '../examine/jobs';
import type { Keeper } from '../lines/keeping';
import type { AddHow, AddResult, ClosedSource, NamedBlob, WantSpec } from '../api/protocol';
import type { Shelf } from '../evidence/shelf';
import type { Shelving } from '../evidence/shelving';
import type { OpenedSources } from '../evidence/source-files';

/** What goes along when a source is removed. */
export interface RemovalToll {
  messages: number;
  calls: number;
  contacts: number;
  files: number;
  exhibits: number;
  redactions: number;
  notes: number;
}

/** What the page asks about the sources of the case. */
export interface SourceApi extends ProxyMarked {
  add(name: string, files: NamedBlob[], how?: AddHow): Promise<AddResult>;
  /** Adds files or a folder that are read where they lie on the disk. */
  addInPlace(name: string, place: EvidencePlace): Promise<AddResult>;
  /** Sources on the disk that the browser has to be asked about before they can be read. */
  closed(): Promise<ClosedSource[]>;
  /** What would go along if a source were removed. */
  toll(sourceId: string): Promise<RemovalToll>;
  /** Takes a source and what was found in it out of the case; it can be brought back until the case is closed. */
  remove(sourceId: string): Promise<void>;
  /** Sources that were removed and can be brought back. */
  removed(): Promise<SourceRecord[]>;
  restore(sourceId: string): Promise<void>;
  /** Removes for good what was removed before the case was last closed. */
  purge(): Promise<void>;
  rename(sourceId: string, name: string): Promise<void>;
  /** The zone of times that a source writes without one; null for the case's. */
  setLocalZone(sourceId: string, zone: string | null): Promise<void>;
  /** Begins a pass. */
  examine(sourceId: string, depth: Depth, want?: WantSpec): Promise<void>;
  /** Begins a pass over each source that was not examined and may hold something, once all were looked at. */
  examineNew(): Promise<void>;
  /** Remembers passwords or keys for a source as long as the case is open; the first is tried first. */
  giveKeys(sourceId: string, keys: string[]): Promise<void>;
  /** Gives passwords or keys for a source and begins its pass again, as it was asked for. */
  unlock(sourceId: string, keys: string[]): Promise<void>;
}

interface SourceHost {
  record(): CaseRecord;
  /** Takes up what was changed of the case as it is kept. */
  recordChanged(): Promise<void>;
  owner(): CaseOwner;
  shelf(): Shelf;
  shelving: Shelving;
  keeper(): Keeper;
  jobs(): Jobs;
  exhibits(): CaseExhibits;
  /** Lines and files that something was noted of. */
  noted(): Iterable<{ of: string }>;
  files: OpenedSources;
  reload(): Promise<void>;
  changed(): void;
}

/** Sources: added, named, examined, removed and brought back. */
export class SourceRoom implements SourceApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: SourceHost) {}

  add(name: string, files: NamedBlob[], how: AddHow = {}): Promise<AddResult> {
    return this.put(() => this.host.shelving.add(name, files, how));
  }

  addInPlace(name: string, place: EvidencePlace): Promise<AddResult> {
    return this.put(() => this.host.shelving.addInPlace(name, place));
  }

  private async put(add: () => Promise<AddResult>): Promise<AddResult> {
    const owner = this.host.owner();
    if (!owner.isOwner) return { ok: false, reason: owner.reason };
    const result = await add();
    if (!result.ok || !result.met) return result;
    const { id, removedAt, pass } = result.source;
    if (removedAt !== undefined) await this.host.keeper().restore(id);
    this.host.files.forget(id);
    await this.host.reload();
    if (pass.state === 'running' || pass.state === 'queued')
      await this.host.jobs().takeUp([result.source]);
    return result;
  }

  async closed(): Promise<ClosedSource[]> {
    return this.host.shelving.closed(await this.host.shelf().sources());
  }

  async toll(sourceId: string): Promise<RemovalToll> {
    const { host } = this;
    const { stores } = host.keeper().index;
    const own = stores.flatMap(({ record }) => (record.sourceId === sourceId ? [record] : []));
    const sum = (of: (record: (typeof own)[number]) => number): number =>
      own.reduce((all, record) => all + of(record), 0);
    const isOwn = (id: string): boolean => sourceIn(id.split('/')[0]!) === sourceId;
    const exhibits = host.exhibits();
    return {
      messages: sum(({ count }) => count),
      calls: sum(({ calls }) => calls.length),
      contacts: sum(({ contacts }) => contacts.length),
      files: (await host.shelf().get(sourceId))?.source?.inside.files ?? 0,
      exhibits: exhibits.all().filter(isOwn).length,
      redactions: exhibits.covered().filter(isOwn).length,
      notes: [...host.noted()].filter(({ of }) => isOwn(of)).length
    };
  }

  async remove(sourceId: string): Promise<void> {
    const { host } = this;
    host.owner().demand();
    const source = await this.source(sourceId);
    await host.jobs().giveUp(sourceId);
    await host.keeper().remove(sourceId, Date.now());
    await logAct(host.record().id, 'source removed', { source: source.name, id: sourceId });
    host.files.forget(sourceId);
    await host.reload();
  }

  removed(): Promise<SourceRecord[]> {
    return this.host.shelf().removed();
  }

  async restore(sourceId: string): Promise<void> {
    const { host } = this;
    host.owner().demand();
    const source = await this.source(sourceId);
    await host.keeper().restore(sourceId);
    await logAct(host.record().id, 'source brought back', { source: source.name, id: sourceId });
    await host.reload();
  }

  async purge(): Promise<void> {
    const { host } = this;
    if (!host.owner().isOwner) return;
    for (const source of await host.shelf().removed()) {
      await this.rememberId(source);
      await purgeSource(source);
      const { name, id } = source;
      await logAct(host.record().id, 'source removed for good', { source: name, id });
    }
  }

  /** The same evidence gets its id again, and with it what was chosen and noted. */
  private async rememberId({ id, sum }: SourceRecord): Promise<void> {
    if (!sum) return;
    const tx = (await openStorage()).transaction('cases', 'readwrite');
    const kept = await tx.store.get(this.host.record().id);
    if (kept)
      await tx.store.put({ ...kept, removedSources: { ...kept.removedSources, [sum]: id } });
    await tx.done;
    await this.host.recordChanged();
  }

  async rename(sourceId: string, name: string): Promise<void> {
    const { host } = this;
    const before = (await this.source(sourceId)).name;
    const wanted = name.trim();
    if (wanted === '' || wanted === before) return;
    const given = await host.shelf().rename(sourceId, wanted, true);
    await logAct(host.record().id, 'source named', { id: sourceId, before, name: given });
    await host.reload();
  }

  async setLocalZone(sourceId: string, zone: string | null): Promise<void> {
    const { host } = this;
    const { name } = await this.source(sourceId);
    await host.shelf().setLocalZone(sourceId, zone);
    await logAct(host.record().id, 'source changed', { source: name, id: sourceId, zone });
    host.changed();
  }

  async examine(sourceId: string, depth: Depth, want?: WantSpec): Promise<void> {
    const { host } = this;
    host.owner().demand();
    const { name } = await this.source(sourceId);
    await host.jobs().begin({
      sourceId,
      name,
      depth,
      want: want ? wantOf(want) : EVERYTHING,
      resumed: false
    });
    host.changed();
  }

  async examineNew(): Promise<void> {
    const { host } = this;
    host.owner().demand();
    // Pressed while sources are still looked at, it waits for that.
    await host.shelving.settled();
    for (const { id, pass, glance } of await host.shelf().sources()) {
      const isUnlocked = host.files.keysOf(id).length > 0;
      if (pass.state !== 'none' || (glance?.worth === false && !isUnlocked)) continue;
      await this.examine(id, glance?.depth ?? 'freed');
    }
  }

  async giveKeys(sourceId: string, keys: string[]): Promise<void> {
    const { host } = this;
    const { name } = await this.source(sourceId);
    // What was given last is tried first, for deriving a key takes long.
    if (host.files.giveKeys(sourceId, keys))
      await logAct(host.record().id, 'key given', {
        source: name,
        id: sourceId,
        ...(keys.length > 1 ? { keys: keys.length } : {})
      });
  }

  async unlock(sourceId: string, keys: string[]): Promise<void> {
    const { pass } = await this.source(sourceId);
    await this.giveKeys(sourceId, keys);
    const isAsked = pass.state !== 'none';
    await this.examine(sourceId, isAsked ? pass.depth : 'freed', isAsked ? pass.want : undefined);
  }

  private async source(id: string): Promise<SourceRecord> {
    const source = await this.host.shelf().get(id);
    if (!source) throw new Error('This source is no longer in this case.');
    return source;
  }
}
