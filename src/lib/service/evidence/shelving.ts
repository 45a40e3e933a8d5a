import { failedGlance, glanceAt } from '$core/examine';
import type { SourceGlance } from '$core/records';
import { logAct } from '../../storage/custody';
import { savedProfiles } from '../../storage/profiles';
import type { CaseRecord, EvidencePlace, SourceRecord } from '../../storage/schema';
import { BlobScratch } from '../host/blob-scratch';
import { handlesOf, isAllowed } from './in-place';
import { inputOf } from './input';
import type { AddHow, AddResult, ClosedSource, DeskEvent, NamedBlob } from '../api/protocol';
import type { Shelf } from './shelf';

interface ShelvingHost {
  record(): CaseRecord;
  shelf(): Shelf;
  tell(event: DeskEvent): void;
}

/** Puts sources on the shelf, writes down that they came, and looks at each at a glance. */
export class Shelving {
  constructor(private readonly host: ShelvingHost) {}

  add(name: string, files: NamedBlob[], how: AddHow): Promise<AddResult> {
    return this.put(name, (report) => this.host.shelf().add(name, files, report, how));
  }

  addInPlace(name: string, place: EvidencePlace): Promise<AddResult> {
    return this.put(name, (report) => this.host.shelf().addInPlace(name, place, report));
  }

  private async put(
    name: string,
    add: (report: (fraction: number) => void) => Promise<AddResult>
  ): Promise<AddResult> {
    const { host } = this;
    const result = await add((fraction) => host.tell({ type: 'adding', name, fraction }));
    host.tell({ type: 'changed' });
    if (result.ok && result.met) await this.log('evidence met', result.source);
    else if (result.ok) await this.came(result.source);
    return result;
  }

  /** Sources that are being looked at. */
  private readonly looking = new Set<Promise<unknown>>();

  /** Over when every source that came was looked at. */
  async settled(): Promise<void> {
    while (this.looking.size > 0) await Promise.allSettled([...this.looking]);
  }

  /** Writes down that a source came, and looks at it. */
  async came(source: SourceRecord): Promise<void> {
    const work = this.look(source);
    this.looking.add(work);
    try {
      await work;
    } finally {
      this.looking.delete(work);
    }
  }

  private async look(source: SourceRecord): Promise<void> {
    await this.log('source added', source);
    await this.host.shelf().setGlance(source.id, await this.glance(source));
    this.host.tell({ type: 'changed' });
  }

  /** Sources that the browser has to be asked about before they can be read. */
  async closed(sources: readonly SourceRecord[]): Promise<ClosedSource[]> {
    const closed: ClosedSource[] = [];
    for (const { id, name, isInPlace } of sources) {
      const place = isInPlace ? await this.host.shelf().place(id) : undefined;
      if (place && !(await isAllowed(place))) closed.push({ id, name, handles: handlesOf(place) });
    }
    return closed;
  }

  private async log(
    what: 'source added' | 'evidence met',
    { id, name, files, sum }: SourceRecord
  ): Promise<void> {
    const bytes = files.reduce((all, file) => all + file.bytes, 0);
    const detail = { source: name, id, files: files.length, bytes, sha256: sum ?? '' };
    await logAct(this.host.record().id, what, detail);
  }

  /** What a source that was added is, so that it says so at once. */
  private async glance(source: SourceRecord): Promise<SourceGlance> {
    // To look into a large folder its files would have to be opened.
    if (source.files.some(({ sha256 }) => sha256 === '')) return listedGlance(source.files.length);
    try {
      const input = await inputOf(this.host.shelf(), source);
      const opening = { keys: [], scratch: () => new BlobScratch() };
      const rest = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));
      const { zone, id } = this.host.record();
      const { own } = await savedProfiles(id);
      return await glanceAt(input, opening, zone, own, rest);
    } catch (error) {
      return failedGlance(error, source.name);
    }
  }
}

function listedGlance(files: number): SourceGlance {
  const says = `${files.toLocaleString('en')} files were listed. They are opened and hashed when the folder is examined.`;
  return { kind: 'folder', files, packages: [], parts: [], says, worth: true };
}
