import { failedGlance, glanceAt } from '$core/pass';
import type { SourceGlance } from '$core/records';
import { logAct } from '../storage/custody';
import { placeOf } from '../storage/evidence';
import { savedProfiles } from '../storage/profiles';
import type { CaseRecord, CopiedFrom, EvidencePlace, SourceRecord } from '../storage/schema';
import { BlobScratch } from './blob-scratch';
import { sha256 } from './hash';
import { handlesOf, isAllowed } from './in-place';
import { inputOf } from './input';
import type { AddResult, DeskEvent, EvidenceHandle, NamedBlob } from './protocol';
import type { Shelf } from './shelf';

interface ShelvingHost {
  record(): CaseRecord;
  shelf(): Shelf;
  tell(event: DeskEvent): void;
}

/** Puts sources on the shelf, writes down that they came, and looks at each at a glance. */
export class Shelving {
  constructor(private readonly host: ShelvingHost) {}

  add(name: string, files: NamedBlob[], copied?: CopiedFrom): Promise<AddResult> {
    return this.put(name, (report) => this.host.shelf().add(name, files, report, copied));
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
    if (result.ok) await this.came(result.source);
    return result;
  }

  /** Writes down that a source came, and looks at it. */
  async came(source: SourceRecord): Promise<void> {
    await this.log(source);
    await this.host.shelf().setGlance(source.id, await this.glance(source));
    this.host.tell({ type: 'changed' });
  }

  /** What the browser has to be asked about before a source on the disk can be read; nothing where it can. */
  async closedHandles(sourceId: string): Promise<EvidenceHandle[]> {
    const place = await placeOf(`${this.host.record().id}/${sourceId}`);
    return !place || (await isAllowed(place)) ? [] : handlesOf(place);
  }

  private async log({ id, name, files }: SourceRecord): Promise<void> {
    const bytes = files.reduce((sum, file) => sum + file.bytes, 0);
    // Of a folder the log names the checksum of its list; the list itself is the source's.
    const list = files.map(({ path, sha256 }) => `${sha256}  ${path}\n`).join('');
    const sum =
      files.length === 1 ? files[0]!.sha256 : await sha256(new TextEncoder().encode(list));
    await logAct(this.host.record().id, 'source added', {
      source: name,
      id,
      files: files.length,
      bytes,
      sha256: sum
    });
  }

  /** What a source that was added is, so that it says so at once. */
  private async glance(source: SourceRecord): Promise<SourceGlance> {
    // To look into a large folder its files would have to be opened.
    if (source.files.some(({ sha256 }) => sha256 === '')) return listedGlance(source.files.length);
    try {
      const input = await inputOf(this.host.shelf(), source);
      const opening = { keys: [], scratch: () => new BlobScratch() };
      const rest = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));
      const { zone } = this.host.record();
      return await glanceAt(input, opening, zone, await savedProfiles(), rest);
    } catch (error) {
      return failedGlance(error, source.name);
    }
  }
}

function listedGlance(files: number): SourceGlance {
  const says = `${files.toLocaleString('en')} files were listed. They are opened and hashed when the folder is examined.`;
  return { kind: 'folder', files, packages: [], parts: [], says, worth: true };
}
