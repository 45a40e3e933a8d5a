import { EVERYTHING, type Want } from '$core/pass';
import type { ProfileDesk, ReadingProfile } from '$core/stores';
import { deleteProfile, savedProfiles } from '../storage/profiles';
import { Facets } from './facets';
import { deskOver, importProfile, keepProfile, trial } from './profiles';
import { OWNER, type Depth, type FileRecord, type Message } from '$core/records';
import { brokenEntry } from '$core/custody';
import type { ChosenKind, ExhibitChange } from '$core/exhibits';
import {
  loosePackage,
  packedPackage,
  proofText,
  verifyLog,
  verifyPackage,
  type Reason,
  type Redaction,
  type Settings,
  type Verification
} from '$core/produce';
import { ZonedTime } from '$core/shown';
import { custodyLog, logAct } from '../storage/custody';
import { openStorage } from '../storage/open';
import type {
  CaseRecord,
  CopiedFrom,
  CopyRecord,
  EvidencePlace,
  SourceRecord
} from '../storage/schema';
import { append } from '$core/bytes';
import { shownBlob } from './shown-blob';
import { Copies } from './copies';
import { CaseOwner } from './case-owner';
import { CaseExhibits } from './exhibits';
import type { CaseIndex } from './case-index';
import { Keeper } from './keeping';
import { moveChunks } from './moving';
import { MediaRoom } from './media-room';
import { Naming } from './naming';
import { NotesRoom } from './notes-room';
import { InsideRoom } from './inside-room';
import { Jobs } from './jobs';
import { caseFileBlob } from './case-file';
import { blobSha256, newHash } from './hash';
import type { CaseParts } from './producing';
import { PeopleRoom } from './people-room';
import { ProductionRoom } from './production-room';
import { RedactionRows } from './redaction-rows';
import type {
  AddResult,
  CallRow,
  CaseDeskApi,
  CaseSummary,
  ContactRow,
  CopyOrder,
  CorrespondentRow,
  DeskEvent,
  EvidenceHandle,
  CustodyView,
  ExhibitView,
  FacetCounts,
  FileFacet,
  FilePage,
  GapRow,
  InsidePage,
  InsideRecord,
  InsideView,
  LineDetail,
  LinePage,
  NamedBlob,
  PersonRow,
  RedactionView,
  PagePreview,
  ProductionResult,
  ProfileImport,
  ProfileTrial,
  ProofView,
  ReadFilter,
  River,
  WantSpec
} from './protocol';
import { Reader } from './query';
import { Shelf } from './shelf';
import { Shelving } from './shelving';
import { OpenedSources } from './source-files';
import { SummaryRoom } from './summary-room';
import { TextSearch } from './text-search';

/** How long after the opening of a case its texts are read ahead for searches, in milliseconds. */
const HOLD_AFTER = 800;
/** Most bytes of one proof that are shown beside a line. */
const PROOF_BYTES = 96;

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
  private readonly pages = new InsideRoom({
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
  private readonly room = new ProductionRoom({
    parts: () => this.parts(),
    exhibits: () => this.exhibitLists,
    file: (source, path) => this.sourceFiles.file(source, path),
    tell: (event) => this.tell(event)
  });

  readonly notes = new NotesRoom({
    caseId: () => this.record.id,
    lines: (filter) => this.idsOf(filter),
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
    file: (source, path) => this.sourceFiles.file(source, path),
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

  async open(caseId: string): Promise<CaseSummary> {
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
      (sourceId) => this.sourceFiles.keysOf(sourceId)
    );
    this.copies = new Copies(this.shelf, caseId, this.tell);
    this.owner = new CaseOwner(caseId, () => void this.takeOver());
    await this.owner.claim();
    if (this.owner.isOwner) await this.takeOwnership();
    this.exhibitLists = new CaseExhibits(caseId, (ids) => this.groupsOf(ids));
    await this.exhibitLists.load();
    await this.notes.load();
    this.refresh();
    // What is read first needs no search, and the disk is busy with it.
    setTimeout(() => this.search.hold(this.index.stores), HOLD_AFTER);
    await this.beginLog();
    this.room.warm();
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

  private get index(): CaseIndex {
    return this.keeper.index;
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

  private async parts(): Promise<CaseParts> {
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

  async fileBlob(sourceId: string, path: string): Promise<Blob | null> {
    const file = await this.sourceFiles.file(sourceId, path);
    return file && new Blob([Uint8Array.from(file.read(0, file.size))]);
  }

  async pictureBlob(sourceId: string, path: string): Promise<Blob | null> {
    const file = await this.sourceFiles.file(sourceId, path);
    return file && shownBlob(Uint8Array.from(file.read(0, file.size)));
  }

  async profileDesk(sourceId: string, path: string): Promise<ProfileDesk | null> {
    const file = await this.sourceFiles.file(sourceId, path);
    return file && deskOver(file);
  }

  async tryProfile(sourceId: string, path: string, profile: ReadingProfile): Promise<ProfileTrial> {
    const file = await this.sourceFiles.file(sourceId, path);
    const error = 'The database is no longer kept in this browser.';
    return file ? trial(file, profile, this.record.zone) : { total: 0, lines: [], error };
  }

  async profiles(): Promise<ReadingProfile[]> {
    return savedProfiles();
  }
  async saveProfile(profile: ReadingProfile): Promise<void> {
    await keepProfile(profile);
    await logAct(this.record.id, 'profile saved', { id: profile.id, title: profile.title });
  }
  async removeProfile(id: string): Promise<void> {
    await deleteProfile(id);
    await logAct(this.record.id, 'profile removed', { id });
  }
  async importProfile(json: string): Promise<ProfileImport> {
    return importProfile(json);
  }

  async unlock(sourceId: string, key: string): Promise<void> {
    const source = await this.shelf.get(sourceId);
    if (!source) throw new Error('This source is no longer on the shelf.');
    // The newest is tried first: deriving a key takes long.
    await logAct(this.record.id, 'key given', { source: source.name, id: sourceId });
    this.sourceFiles.giveKey(sourceId, key);
    const depth = 'depth' in source.pass ? source.pass.depth : 'freed';
    await this.beginPass(sourceId, depth);
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

  async addSource(name: string, files: NamedBlob[], copied?: CopiedFrom): Promise<AddResult> {
    if (!this.owner.isOwner) return { ok: false, reason: this.owner.reason };
    return this.shelving.add(name, files, copied);
  }

  async addInPlace(name: string, place: EvidencePlace): Promise<AddResult> {
    if (!this.owner.isOwner) return { ok: false, reason: this.owner.reason };
    return this.shelving.addInPlace(name, place);
  }

  async closedHandles(sourceId: string): Promise<EvidenceHandle[]> {
    return this.shelving.closedHandles(sourceId);
  }

  async examineNew(): Promise<void> {
    this.owner.demand();
    for (const { id, pass, glance } of await this.shelf.sources())
      if (pass.state === 'none' && glance?.worth !== false) await this.beginPass(id, 'freed');
  }

  async removeSource(sourceId: string): Promise<void> {
    this.owner.demand();
    const name = (await this.shelf.get(sourceId))?.name ?? sourceId;
    await this.keeper.remove(sourceId);
    await logAct(this.record.id, 'source removed', { source: name, id: sourceId });
    this.sourceFiles.forget(sourceId);
    await this.reload();
  }

  async beginPass(sourceId: string, depth: Depth, want?: WantSpec): Promise<void> {
    this.owner.demand();
    const source = await this.shelf.get(sourceId);
    if (!source) throw new Error('This source is no longer on the shelf.');
    await this.jobs.begin({
      sourceId,
      name: source.name,
      depth,
      want: want ? wantOf(want) : EVERYTHING,
      resumed: false
    });
    this.tell({ type: 'changed' });
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
    return new Blob([Uint8Array.from(await this.room.rebuilt(sourceId))]);
  }
  async logPutBack(device: string, added: number): Promise<void> {
    const what = added > 0 ? 'messages put back' : 'messages taken out again';
    await logAct(this.record.id, what, added > 0 ? { device, messages: added } : { device });
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

  async correspondents(filter: ReadFilter): Promise<CorrespondentRow[]> {
    return this.reader.correspondents(filter);
  }
  async lines(id: string, filter: ReadFilter, from: number, to: number): Promise<LinePage> {
    return this.reader.lines(id, filter, from, to);
  }
  async lineIndex(id: string, filter: ReadFilter, messageId: string): Promise<number> {
    return this.reader.indexIn(await this.reader.matching(id, filter), messageId);
  }
  async hitsIn(id: string, filter: ReadFilter, query: string): Promise<Uint32Array> {
    return this.reader.hitsIn(id, filter, query);
  }
  async river(filter: ReadFilter, correspondent: string | null): Promise<River> {
    return this.reader.river(filter, correspondent);
  }

  async detail(messageId: string): Promise<LineDetail | null> {
    const place = await this.index.locateOne(messageId);
    if (!place) return null;
    const { message, line } = await this.index.held(place);
    const also = this.index.alsoIn(place);
    const { redactions } = this.exhibitLists;
    const own = redactionsOf(message, redactions);
    const time = new ZonedTime(this.record.zone);
    const sources = await this.shelf.sources();
    const source = sources.find((s) => s.stores.some((store) => store.id === message.store));
    const store = source?.stores.find((s) => s.id === message.store);
    const full = (at: number | null): string | null => (at === null ? null : time.full(at));
    return {
      line,
      message,
      sender: this.naming().person(message.sender),
      address: message.sender === OWNER ? '' : this.naming().shown(message.sender),
      sent: full(message.sentAt) ?? 'unknown',
      delivered: full(message.deliveredAt),
      read: full(message.readAt),
      source: source?.name ?? 'a source that was removed',
      sourceId: source?.id ?? '',
      store: store?.path ?? message.store,
      also: sources.flatMap((s) =>
        s.stores.flatMap(({ id, path }) => (also.includes(id) ? [`${s.name}: ${path}`] : []))
      ),
      proofs: await Promise.all(message.proofs.map((proof) => this.proofView(proof, source))),
      files: await this.reader.filesOf(message.store, message.attachments),
      redactions: (await this.redactionRows(own)).all(own)
    };
  }

  private async proofView(
    proof: ProofView['proof'],
    source: SourceRecord | undefined
  ): Promise<ProofView> {
    const length = Math.min(proof.length, PROOF_BYTES);
    const file = source && (await this.sourceFiles.fileOf(source, proof.path));
    // What is handed over takes the memory around it along.
    const bytes = file ? file.read(proof.offset, length).slice() : null;
    return { proof, text: proofText(proof), bytes };
  }

  async inside(sourceId: string, path: string): Promise<InsideView | null> {
    return this.pages.view(sourceId, path);
  }
  async insidePage(sourceId: string, path: string, page: number): Promise<InsidePage | null> {
    return this.pages.page(sourceId, path, page);
  }
  async insideRecord(
    sourceId: string,
    path: string,
    messageId: string,
    proof: number
  ): Promise<InsideRecord | null> {
    return this.pages.record(sourceId, path, messageId, proof);
  }

  async choose(messageIds: string[], chosen: boolean): Promise<number> {
    return this.chooseRecords('lines', messageIds, chosen);
  }

  async chooseRecords(kind: ChosenKind, ids: string[], chosen: boolean): Promise<number> {
    await this.changeExhibits(chosen ? { type: 'choose', kind, ids } : { type: 'take-back', ids });
    return this.exhibitLists.chosen.size;
  }

  async chooseRange(id: string, filter: ReadFilter, from: number, to: number): Promise<number> {
    const list = await this.reader.matching(id, filter);
    return this.choose(await this.reader.idsOf(list, from, to), true);
  }

  async chooseThread(id: string, filter: ReadFilter, chosen: boolean): Promise<number> {
    return this.choose(await this.reader.idsOf(await this.reader.matching(id, filter)), chosen);
  }

  async chooseDay(id: string, filter: ReadFilter, messageId: string): Promise<number> {
    return this.choose(await this.reader.ofDay(id, filter, messageId), true);
  }

  async chooseHits(filter: ReadFilter): Promise<number> {
    return this.choose(await this.idsOf(filter), true);
  }

  /** The lines that pass a filter, in all conversations. */
  private async idsOf(filter: ReadFilter): Promise<string[]> {
    const ids: string[] = [];
    for (const { id } of this.index.conversations)
      append(ids, await this.reader.idsOf(await this.reader.matching(id, filter)));
    return ids;
  }

  async chosenRecords(kind: ChosenKind): Promise<Set<string>> {
    return new Set(this.exhibitLists.idsOf(kind));
  }

  async exhibits(): Promise<ExhibitView> {
    return this.room.view();
  }

  async changeExhibits(change: ExhibitChange): Promise<void> {
    await this.exhibitLists.change(change);
    this.room.warm();
    this.tabs.postMessage(this.record.id);
  }

  async undoDrop(): Promise<void> {
    await this.exhibitLists.undoDrop();
    this.tabs.postMessage(this.record.id);
  }

  async redactions(): Promise<RedactionView> {
    const { redactions, reasons } = this.exhibitLists;
    return { rows: (await this.redactionRows(redactions)).all(redactions), reasons };
  }

  private redactionRows(redactions: readonly Redaction[]): Promise<RedactionRows> {
    return RedactionRows.of(this.index, this.naming(), redactions);
  }

  async redact(redactions: Redaction[]): Promise<void> {
    const rows = await this.redactionRows(redactions.slice(0, 1));
    const line = rows.lineOf(redactions[0]);
    await this.exhibitLists.redact(redactions, line);
    this.refresh();
    this.tabs.postMessage(this.record.id);
  }

  async takeBackRedaction(redaction: Redaction): Promise<void> {
    await this.exhibitLists.takeBack(redaction);
    this.refresh();
    this.tabs.postMessage(this.record.id);
  }

  async setReasons(reasons: Reason[]): Promise<void> {
    await this.exhibitLists.setReasons(reasons);
    this.tabs.postMessage(this.record.id);
  }

  async redactable(): Promise<PersonRow[]> {
    const naming = this.naming();
    return [...this.index.people.keys()]
      .map((id) => ({ id, name: naming.person(id), address: naming.shown(id) }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  async custody(): Promise<CustodyView> {
    const entries = await custodyLog(this.record.id);
    return { entries, broken: brokenEntry(entries) };
  }

  async saveCustody(): Promise<Blob> {
    const entries = await custodyLog(this.record.id);
    const text = entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');
    await logAct(this.record.id, 'log saved', { entries: entries.length });
    return new Blob([text], { type: 'application/jsonl' });
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

  async preview(settings: Settings, exhibit: string): Promise<PagePreview | null> {
    return this.room.preview(settings, exhibit);
  }

  async produce(
    settings: Settings,
    below: FileSystemDirectoryHandle | null
  ): Promise<ProductionResult> {
    const result = await this.room.produce(settings, below);
    await this.change(() => ({ lastProduction: result.record.made }));
    return result;
  }

  async repeatProduction(id: string): Promise<ProductionResult> {
    return this.room.repeat(id);
  }

  async stopProducing(): Promise<void> {
    this.room.stop();
  }

  async keptSettings(): Promise<Settings | null> {
    return this.exhibitLists.settings();
  }

  async keepSettings(settings: Settings): Promise<void> {
    return this.exhibitLists.keepSettings(settings);
  }

  async chosenLine(line: number): Promise<{ id: string; body: string } | null> {
    for (const place of (await this.index.locate(this.exhibitLists.chosen)).values()) {
      if (this.index.stores[place.store]!.columns.line[place.row] !== line) continue;
      const { message } = await this.index.held(place);
      return { id: message.id, body: message.body };
    }
    return null;
  }

  async verifyArchive(archive: Blob, name: string): Promise<Verification> {
    return this.checked(name, verifyPackage(await packedPackage(archive, newHash)));
  }

  async verifyFolder(files: NamedBlob[], name: string): Promise<Verification> {
    return this.checked(name, verifyPackage(loosePackage(files, newHash)));
  }

  async verifyLog(log: Blob, name: string): Promise<Verification> {
    return this.checked(name, Promise.resolve(verifyLog(name, await log.text())));
  }

  private async checked(name: string, check: Promise<Verification>): Promise<Verification> {
    const told = await check;
    const { ok, files, differences } = told;
    await logAct(this.record.id, 'package checked', {
      package: name,
      ok,
      files,
      differences: differences.length
    });
    return told;
  }

  async exportCase(): Promise<Blob> {
    const sources = (await this.shelf.sources()).flatMap((s) => (s.source ? [s.source] : []));
    const files = await this.shelf.files();
    const file = await caseFileBlob(this.index, this.record, sources, files, this.notes.all);
    await logAct(this.record.id, 'case file saved', { sha256: await blobSha256(file) });
    return file;
  }
}

/** Redactions that are made in a message or its files. */
function redactionsOf({ id, attachments }: Message, all: readonly Redaction[]): Redaction[] {
  return all.filter(
    (one) =>
      ('message' in one && one.message === id) ||
      ('attachment' in one && attachments.includes(one.attachment))
  );
}

function wantOf({ kinds, from, to, addresses }: WantSpec): Want {
  return { kinds: new Set(kinds), from, to, addresses };
}
