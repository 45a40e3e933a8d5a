import { Naming } from '$core/case';
import type { ByteSource } from '$core/host';
import { Facets } from '../lines/facets';
import type { FileRecord, SourcePart } from '$core/records';
import { ZonedTime } from '$core/shown';
import { carriedOf } from '../../storage/carried';
import { custodyLog, logAct } from '../../storage/custody';
import { openStorage } from '../../storage/open';
import type { CaseRecord, CopyRecord, SourceRecord } from '../../storage/schema';
import { shownBlob } from '../media/shown-blob';
import { Copies } from '../evidence/copies';
import { CaseOwner } from './case-owner';
import { CaseExhibits } from '../exhibits/exhibits';
import { Keeper } from '../lines/keeping';
import { moveChunks } from '../lines/moving';
import { MediaRoom } from '../media/media-room';
import { NotesRoom } from '../notes/notes-room';
import { ExhibitRoom } from '../exhibits/exhibit-room';
import { InsideRoom } from '../inside/inside-room';
import { LineRoom } from '../lines/line-room';
import { LogRoom } from './log-room';
import { ProfileRoom } from '../profiles/profile-room';
import { Jobs } from '../examine/jobs';
import { caseFileBlob, type OpenedParts } from '../produce/case-file';
import { blobSha256 } from '../host/hash';

import { PeopleRoom } from '../people/people-room';
import { ProductionRoom } from '../produce/production-room';
import type { CaseDeskApi } from './desk-api';
import type {
  CallRow,
  CaseSummary,
  ContactRow,
  CopyOrder,
  DeskEvent,
  FacetCounts,
  FileFacet,
  FilePage,
  GapRow
} from '../api/protocol';
import { Reader } from '../lines/query';
import { Shelf } from '../evidence/shelf';
import { Shelving } from '../evidence/shelving';
import { OpenedSources } from '../evidence/source-files';
import { SourceRoom } from './source-room';
import { SummaryRoom } from './summary-room';
import { TextSearch } from '../lines/text-search';
import type { KeptIndex } from '../lines/store-lines';

/** How long after the opening of a case its texts are read ahead for searches, in milliseconds. */
const HOLD_AFTER = 800;

/** Holds one case in the worker: storage, passes, and the answers to what the page asks. */
export class CaseDesk implements CaseDeskApi {
  private record!: CaseRecord;
  private shelf!: Shelf;
  private jobs!: Jobs;
  private copies!: Copies;
  private owner!: CaseOwner;
  private keeper!: Keeper;
  private readonly search = new TextSearch(() => this.index.stores);
  private exhibitLists!: CaseExhibits;
  private reader!: Reader;
  private readonly sourceFiles = new OpenedSources(() => this.shelf);
  readonly pages = new InsideRoom({
    index: () => this.index,
    time: () => new ZonedTime(this.record.zone),
    shelf: () => this.shelf,
    files: this.sourceFiles
  });
  private readonly shelving = new Shelving({
    record: () => this.record,
    shelf: () => this.shelf,
    tell: (event) => this.tell(event)
  });
  private facetsCache: Facets | null = null;
  /** A case can list a hundred thousand files: they are read once. */
  private filesCache: Promise<FileRecord[]> | null = null;
  readonly production = new ProductionRoom({
    parts: () => this.parts(),
    exhibits: () => this.exhibitLists,
    produced: (made) => this.change(() => ({ lastProduction: made })),
    file: (source, path) => this.sourceFiles.file(source, path),
    tell: (event) => this.tell(event)
  });

  readonly read = new LineRoom({
    index: () => this.index,
    naming: () => this.naming(),
    time: () => new ZonedTime(this.record.zone),
    reader: () => this.reader,
    sources: () => this.shelf.sources(),
    redactions: () => this.exhibitLists.redactions,
    files: this.sourceFiles
  });
  readonly exhibits = new ExhibitRoom({
    exhibits: () => this.exhibitLists,
    index: () => this.index,
    naming: () => this.naming(),
    reader: () => this.reader,
    view: () => this.production.view(),
    chosenChanged: () => {
      this.production.warm();
      this.tabs.postMessage(this.record.id);
    },
    coveredChanged: () => {
      this.refresh();
      this.tabs.postMessage(this.record.id);
    }
  });
  readonly log = new LogRoom(() => this.record.id);
  readonly profiles = new ProfileRoom({
    caseId: () => this.record.id,
    zone: () => this.record.zone,
    file: (source, path) => this.sourceFiles.file(source, path)
  });
  readonly notes = new NotesRoom({
    caseId: () => this.record.id,
    lines: (filter) => this.exhibits.idsOf(filter),
    chosenFiles: () => this.exhibitLists.idsOf('files'),
    changed: () => {
      this.refresh();
      this.tabs.postMessage(this.record.id);
      this.tell({ type: 'changed' });
    }
  });
  readonly media = new MediaRoom({
    index: () => this.index,
    naming: () => this.naming(),
    time: () => new ZonedTime(this.record.zone),
    facets: () => this.facetsOf(),
    notes: () => this.notes,
    file: (source, path) => this.fileAnywhere(source, path),
    tell: (event) => this.tell(event),
    asShown: shownBlob
  });
  readonly figures = new SummaryRoom({
    index: () => this.index,
    naming: () => this.naming(),
    record: () => this.record,
    sources: () => this.shelf.sources(),
    productions: async () => (await this.summary()).productions,
    chosen: () => this.exhibitLists.chosen.size,
    notes: () => [...this.notes.all].length
  });
  readonly sources = new SourceRoom({
    record: () => this.record,
    recordChanged: () => this.readRecord(),
    owner: () => this.owner,
    shelf: () => this.shelf,
    shelving: this.shelving,
    keeper: () => this.keeper,
    jobs: () => this.jobs,
    exhibits: () => this.exhibitLists,
    noted: () => this.notes.all,
    files: this.sourceFiles,
    reload: () => this.reload(),
    changed: () => this.tell({ type: 'changed' })
  });
  readonly people = new PeopleRoom({
    index: () => this.index,
    naming: () => this.naming(),
    record: () => this.record,
    sources: () => this.shelf.sources(),
    change: (change) => this.change(change, () => this.keeper.join(false))
  });

  /** Other tabs with the same case hear of changes here. */
  private readonly tabs = new BroadcastChannel('ombudsman cases');

  constructor(private readonly tell: (event: DeskEvent) => void) {
    this.tabs.onmessage = ({ data }: MessageEvent<string>) => {
      this.heard(data).catch((error: unknown) =>
        this.tell({
          type: 'failed',
          text: `What another tab changed could not be read: ${String(error)}`
        })
      );
    };
  }

  async open(caseId: string, afresh: boolean): Promise<CaseSummary> {
    const db = await openStorage();
    const record = await db.get('cases', caseId);
    if (!record) throw new Error('This case is not in this browser.');
    this.record = record;
    this.shelf = new Shelf(caseId);
    this.keeper = await Keeper.open(caseId);
    this.jobs = new Jobs(
      this.shelf,
      this.keeper,
      () => this.record,
      (r) => this.reload(r),
      this.tell,
      (sourceId) => this.sourceFiles.keysOf(sourceId),
      async () => this.namedIn()
    );
    this.copies = new Copies(this.shelf, caseId, this.tell);
    this.owner = new CaseOwner(caseId, () => void this.takeOver());
    await this.owner.claim();
    if (this.owner.isOwner) await this.takeOwnership();
    if (afresh) await this.sources.purge();
    this.exhibitLists = new CaseExhibits(caseId, (ids) => this.groupsOf(ids));
    await this.exhibitLists.load();
    await this.notes.load();
    this.refresh();
    // What is read first needs no search, and the disk is busy with it.
    setTimeout(() => this.search.hold(this.index.stores), HOLD_AFTER);
    await this.beginLog();
    this.production.warm();
    const summary = await this.summary();
    if (this.owner.isOwner) await this.jobs.takeUp(summary.sources);
    return summary;
  }

  /** The tab that owned the case was closed: what it left running is taken up here. */
  private async takeOver(): Promise<void> {
    try {
      await this.takeOwnership();
      await this.reload();
      await this.jobs.takeUp(await this.shelf.sources());
    } catch (error) {
      const text = `What another tab left could not be continued: ${String(error)}`;
      this.tell({ type: 'failed', text });
    }
  }

  /** Cases of earlier versions have no log: it begins with what there is. */
  private async beginLog(): Promise<void> {
    if ((await custodyLog(this.record.id)).length > 0) return;
    const sources = await this.shelf.sources();
    await logAct(this.record.id, 'log begun', {
      name: this.record.name,
      sources: sources.map(({ name, source }) => ({ name, sha256: source?.sha256 ?? null }))
    });
  }

  /** Whether anything of a store was chosen, covered or noted. */
  private namedIn(): (store: string) => boolean {
    const notes = [...this.notes.all].map(({ of }) => of);
    const ids = [...this.exhibitLists.all(), ...this.exhibitLists.covered(), ...notes];
    const stores = new Set(ids.map((id) => id.split('/')[0]!));
    return (store) => stores.has(store);
  }

  /** Takes up what was changed of the case's own record. */
  private async readRecord(): Promise<void> {
    this.record = (await (await openStorage()).get('cases', this.record.id)) ?? this.record;
  }

  private get index(): KeptIndex {
    const { index } = this.keeper;
    index.joinFiles(this.record.fileJoins);
    return index;
  }

  /** Who owns a case brings up what earlier versions kept, and clears away what was cut off. */
  private async takeOwnership(): Promise<void> {
    this.record = await moveChunks(this.keeper, this.record);
    await this.keeper.tidy();
  }

  private async groupsOf(messages: Iterable<string>): Promise<Map<string, string>> {
    const groups = new Map<string, string>();
    for (const [id, place] of await this.index.locate(messages)) {
      const thread = this.index.threadOf(place);
      groups.set(id, this.index.correspondentOf(thread)?.id ?? thread);
    }
    return groups;
  }

  private async parts(): Promise<OpenedParts> {
    const { record, index } = this;
    this.filesCache ??= this.shelf.files();
    const [sources, files, attachments] = await Promise.all([
      this.shelf.sources(),
      this.filesCache,
      index.attachments()
    ]);
    return { record, sources, files, index, attachments, naming: this.naming() };
  }

  private async load(): Promise<void> {
    // Who does not own the case hears from others what changed.
    if (!this.owner.isOwner) await this.keeper.refresh();
    this.facetsCache = null;
    this.filesCache = null;
    this.refresh();
    this.search.hold(this.index.stores);
  }

  /** Built when first asked for: a case can list a hundred thousand files. */
  private async facetsOf(): Promise<Facets> {
    if (this.facetsCache) return this.facetsCache;
    const time = new ZonedTime(this.record.zone);
    const [sources, files, attachments] = await Promise.all([
      this.shelf.sources(),
      this.shelf.files(),
      this.index.attachments()
    ]);
    const kept = attachments.values();
    return (this.facetsCache = new Facets(
      this.index,
      this.naming(),
      time,
      sources,
      files,
      kept,
      this.notes
    ));
  }

  async facets(): Promise<FacetCounts> {
    return (await this.facetsOf()).counts();
  }
  async calls(): Promise<CallRow[]> {
    return (await this.facetsOf()).calls();
  }
  async contacts(): Promise<ContactRow[]> {
    return (await this.facetsOf()).contacts();
  }
  async gaps(): Promise<GapRow[]> {
    return (await this.facetsOf()).gaps();
  }
  async files(facet: FileFacet, query: string, from: number, to: number): Promise<FilePage> {
    return (await this.facetsOf()).files(facet, query, from, to);
  }

  /** A file from its place, or from any other that holds the same bytes. */
  private async fileAnywhere(sourceId: string, path: string): Promise<ByteSource | null> {
    const own = await this.sourceFiles.file(sourceId, path);
    if (own) return own;
    const [, ...others] = (await this.facetsOf()).placesOf(sourceId, path);
    for (const place of others) {
      const found = await this.sourceFiles.file(place.sourceId, place.path);
      if (found) return found;
    }
    return null;
  }

  async fileBlob(sourceId: string, path: string): Promise<Blob | null> {
    const file = await this.fileAnywhere(sourceId, path);
    return file && new Blob([Uint8Array.from(file.read(0, file.size))]);
  }

  async pictureBlob(sourceId: string, path: string): Promise<Blob | null> {
    const file = await this.fileAnywhere(sourceId, path);
    return file && shownBlob(Uint8Array.from(file.read(0, file.size)));
  }

  private async reload(record?: CaseRecord): Promise<void> {
    if (record) this.record = record;
    await this.load();
    this.tell({ type: 'changed' });
  }

  private refresh(): void {
    this.facetsCache = null;
    const time = new ZonedTime(this.record.zone);
    this.reader = new Reader(this.index, this.naming(), time, this.search, {
      chosen: this.exhibitLists.chosen,
      chosenIn: () => this.chosenIn(),
      codes: this.exhibitLists.codes(),
      notes: this.notes,
      moreHits: () => this.tell({ type: 'hits' })
    });
  }

  /** Chosen lines by conversation, counted anew when lines were chosen. */
  private async chosenIn(): Promise<ReadonlyMap<string, number>> {
    const { chosen } = this.exhibitLists;
    const counts = new Map<string, number>();
    if (chosen.size === 0) return counts;
    for (const group of (await this.groupsOf(chosen)).values())
      counts.set(group, (counts.get(group) ?? 0) + 1);
    return counts;
  }

  private naming(): Naming {
    const { people, individuals } = this.index;
    return new Naming(people, this.record.names, this.record.client, individuals);
  }

  async summary(): Promise<CaseSummary> {
    const db = await openStorage();
    const productions = await db.getAllFromIndex('productions', 'case', this.record.id);
    return {
      record: this.record,
      sources: await this.shelf.sources(),
      totals: this.index.counts(),
      isOwner: this.owner.isOwner,
      exhibits: this.exhibitLists.chosen.size,
      productions: productions.sort((a, b) => b.made - a.made)
    };
  }

  async takeCopy(order: CopyOrder): Promise<SourceRecord | null> {
    this.owner.demand();
    const source = await this.copies.take(order);
    if (!source) return null;
    this.tell({ type: 'changed' });
    await this.shelving.came(source);
    return source;
  }
  async pauseCopy(): Promise<void> {
    this.copies.pause();
  }
  async resumeCopy(): Promise<void> {
    this.copies.resume();
  }
  async stopCopy(): Promise<void> {
    this.copies.stop();
  }
  async brokenCopies(): Promise<CopyRecord[]> {
    return this.copies.broken();
  }
  async throwAwayCopy(key: string): Promise<void> {
    this.owner.demand();
    await this.copies.throwAway(key);
  }
  async saveCopy(sourceId: string): Promise<Blob> {
    return this.copies.archive(sourceId);
  }
  async rebuiltStore(sourceId: string): Promise<Blob> {
    return new Blob([Uint8Array.from(await this.production.rebuilt(sourceId))]);
  }
  async pausePass(): Promise<void> {
    this.jobs.pause();
  }
  async resumePass(): Promise<void> {
    this.jobs.resume();
  }
  async stopPass(): Promise<void> {
    this.jobs.stop();
  }

  async setName(personId: string, name: string): Promise<void> {
    await this.change(({ names: kept }) => {
      const names = { ...kept };
      // A person has one name, whichever address it was given to.
      for (const member of this.naming().members(personId)) delete names[member];
      if (name.trim() !== '') names[personId] = name.trim();
      return { names };
    });
    await logAct(this.record.id, 'name given', { person: personId, name: name.trim() });
  }

  async joinFile(
    attachment: string,
    file: { sourceId: string; path: string } | null
  ): Promise<void> {
    const row = file && (await this.facetsOf()).rowAt(file.sourceId, file.path);
    if (file && !row?.sha256) throw new Error('The file is not listed in this case.');
    const joined = row && {
      source: row.sourceId,
      path: row.path,
      sha256: row.sha256!,
      mime: row.mime,
      bytes: row.bytes
    };
    this.facetsCache = null;
    await this.change(({ fileJoins = {} }) => {
      const { [attachment]: _, ...others } = fileJoins;
      return { fileJoins: joined ? { ...others, [attachment]: joined } : others };
    });
    const sha256 = joined ? joined.sha256 : null;
    await logAct(this.record.id, joined ? 'file joined' : 'file join removed', {
      attachment,
      sha256
    });
  }

  async updateCase(
    change: Partial<Pick<CaseRecord, 'name' | 'client' | 'zone' | 'region'>>
  ): Promise<void> {
    await this.change(() => change);
    await logAct(this.record.id, 'case changed', change);
  }

  /** Changes the case as it is kept, which another tab or a pass may have changed too. */
  private async change(
    change: (kept: CaseRecord) => Partial<CaseRecord>,
    then: () => Promise<void> = async () => undefined
  ): Promise<void> {
    const tx = (await openStorage()).transaction('cases', 'readwrite');
    const kept = (await tx.store.get(this.record.id)) ?? this.record;
    this.record = { ...kept, ...change(kept) };
    await tx.store.put(this.record);
    await tx.done;
    await then();
    this.tabs.postMessage(this.record.id);
    this.refresh();
    this.tell({ type: 'changed' });
  }

  /** Takes up what another tab changed in this case. */
  private async heard(caseId: string): Promise<void> {
    if (caseId !== this.record?.id) return;
    const db = await openStorage();
    const before = this.record;
    this.record = (await db.get('cases', caseId)) ?? before;
    const told = ({ decisions, book }: CaseRecord): string => JSON.stringify([decisions, book]);
    if (told(before) !== told(this.record)) await this.keeper.join(false);
    await this.exhibitLists.load();
    await this.notes.load();
    this.refresh();
    this.tell({ type: 'changed' });
  }

  async exportCase(): Promise<Blob> {
    const shelved = await this.shelf.sources();
    // The name that was given stands before the one that was found.
    const sources = shelved.flatMap(({ source, name, files, sum }) =>
      source ? [{ ...source, name, parts: partsOf(files), sha256: sum || source.sha256 }] : []
    );
    const files = await this.shelf.files();
    const carried = await carriedOf(this.record, shelved);
    const { index, record, notes } = this;
    const file = await caseFileBlob(index, record, sources, files, notes.all, carried);
    await logAct(this.record.id, 'case file saved', { sha256: await blobSha256(file) });
    return file;
  }
}

/** Files of a source as a case file lists them. */
function partsOf(files: SourceRecord['files']): SourcePart[] {
  return files.map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }));
}
