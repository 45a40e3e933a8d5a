import { EVERYTHING, failedGlance, glanceAt, SourceFiles, type Want } from '$core/pass';
import type { ProfileDesk, ReadingProfile } from '$core/stores';
import { deleteProfile, savedProfiles } from '../storage/profiles';
import { Facets } from './facets';
import { deskOver, importProfile, keepProfile, trial } from './profiles';
import { OWNER, type Depth, type FileRecord, type Message, type SourceGlance } from '$core/records';
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
import { placeOf } from '../storage/evidence';
import { openStorage } from '../storage/open';
import type {
  CaseRecord,
  CopiedFrom,
  CopyRecord,
  EvidencePlace,
  SourceRecord
} from '../storage/schema';
import { append, type ByteSource } from '$core/bytes';
import { BlobScratch } from './blob-scratch';
import { BlobSource } from './blob-source';
import { handlesOf, isAllowed } from './in-place';
import { inputOf } from './input';
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
import { InsideDatabase } from './inside';
import { Jobs } from './jobs';
import { caseFileBlob } from './case-file';
import { blobSha256, newHash, sha256 } from './hash';
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
import { SummaryRoom } from './summary-room';
import type { RecoveredProof } from './store-lines';
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
  /** Sources whose packages were opened to show what is inside. */
  private readonly opened = new Map<string, Promise<SourceFiles>>();
  private looked: { key: string; inside: InsideDatabase } | null = null;
  private facetsCache: Facets | null = null;
  /** A case can list a hundred thousand files: they are read once. */
  private filesCache: Promise<FileRecord[]> | null = null;
  /** Passwords and keys given for sources; kept only as long as this worker lives. */
  private readonly keys = new Map<string, string[]>();
  private readonly room = new ProductionRoom({
    parts: () => this.parts(),
    exhibits: () => this.exhibitLists,
    file: (source, path) => this.sourceFile(source, path),
    tell: (event) => this.tell(event)
  });

  readonly notes = new NotesRoom({
    caseId: () => this.record.id,
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
    file: (source, path) => this.sourceFile(source, path),
    tell: (event) => this.tell(event)
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
      (sourceId) => this.keys.get(sourceId) ?? []
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
      const text = `What another tab left could not be taken up: ${String(error)}`;
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
    return (this.facetsCache = new Facets(this.index, this.naming(), time, sources, files, kept));
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
    const file = await this.sourceFile(sourceId, path);
    return file && new Blob([Uint8Array.from(file.read(0, file.size))]);
  }

  async pictureBlob(sourceId: string, path: string): Promise<Blob | null> {
    const file = await this.sourceFile(sourceId, path);
    return file && shownBlob(Uint8Array.from(file.read(0, file.size)));
  }

  private async sourceFile(sourceId: string, path: string): Promise<ByteSource | null> {
    const source = await this.shelf.get(sourceId);
    return source ? this.fileOf(source, path) : null;
  }

  async profileDesk(sourceId: string, path: string): Promise<ProfileDesk | null> {
    const file = await this.sourceFile(sourceId, path);
    return file && deskOver(file);
  }

  async tryProfile(sourceId: string, path: string, profile: ReadingProfile): Promise<ProfileTrial> {
    const file = await this.sourceFile(sourceId, path);
    const error = 'The database is not kept in this browser any more.';
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
    this.opened.delete(sourceId);
    this.keys.set(sourceId, [key, ...(this.keys.get(sourceId) ?? []).slice(0, 4)]);
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

  private async *recoveredOf(sourceId: string): AsyncGenerator<RecoveredProof> {
    for (const store of this.index.stores)
      if (store.record.sourceId === sourceId) yield* store.recoveredProofs();
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
    const report = (fraction: number): void => this.tell({ type: 'adding', name, fraction });
    const result = await this.shelf.add(name, files, report, copied);
    this.tell({ type: 'changed' });
    if (result.ok) {
      await this.logSource(result.source);
      await this.glance(result.source);
    }
    return result;
  }

  async addInPlace(name: string, place: EvidencePlace): Promise<AddResult> {
    if (!this.owner.isOwner) return { ok: false, reason: this.owner.reason };
    const report = (fraction: number): void => this.tell({ type: 'adding', name, fraction });
    const result = await this.shelf.addInPlace(name, place, report);
    this.tell({ type: 'changed' });
    if (result.ok) {
      await this.logSource(result.source);
      await this.glance(result.source);
    }
    return result;
  }

  /** What the browser has to be asked about before a source on the disk can be read; nothing where it can. */
  async closedHandles(sourceId: string): Promise<EvidenceHandle[]> {
    const place = await placeOf(`${this.record.id}/${sourceId}`);
    return !place || (await isAllowed(place)) ? [] : handlesOf(place);
  }

  private async logSource({ id, name, files }: SourceRecord): Promise<void> {
    const bytes = files.reduce((sum, file) => sum + file.bytes, 0);
    // Of a folder the log names the checksum of its list; the list itself is the source's.
    const list = files.map(({ path, sha256 }) => `${sha256}  ${path}\n`).join('');
    const sum =
      files.length === 1 ? files[0]!.sha256 : await sha256(new TextEncoder().encode(list));
    await logAct(this.record.id, 'source added', {
      source: name,
      id,
      files: files.length,
      bytes,
      sha256: sum
    });
  }

  /** Looks at a source that was added, so that it says at once what it is. */
  private async glance(source: SourceRecord): Promise<void> {
    let seen: SourceGlance;
    // To look into a large folder its files would have to be opened.
    const isListed = source.files.some(({ sha256 }) => sha256 === '');
    if (isListed) {
      await this.shelf.setGlance(source.id, listedGlance(source.files.length));
      this.tell({ type: 'changed' });
      return;
    }
    try {
      const input = await inputOf(this.shelf, source);
      const opening = { keys: [], scratch: () => new BlobScratch() };
      const rest = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));
      seen = await glanceAt(input, opening, this.record.zone, await savedProfiles(), rest);
    } catch (error) {
      seen = failedGlance(error, source.name);
    }
    await this.shelf.setGlance(source.id, seen);
    this.tell({ type: 'changed' });
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
    this.opened.delete(sourceId);
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
    await this.logSource(source);
    await this.glance(source);
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
    const file = source && (await this.fileOf(source, proof.path));
    // What is handed over takes the memory around it along.
    const bytes = file ? file.read(proof.offset, length).slice() : null;
    return { proof, text: proofText(proof), bytes };
  }

  /** A file of a source at any nesting; null when its bytes are not in this browser, or its key is not known any more. */
  private async fileOf(source: SourceRecord, path: string): Promise<ByteSource | null> {
    const plain = source.files.find((f) => f.path === path);
    if (plain) {
      const [blob] = await this.shelf.filesOf({ ...source, files: [plain] });
      return blob ? new BlobSource(blob, path) : null;
    }
    // Many may ask at once: the packages are opened for the first alone.
    let files = this.opened.get(source.id);
    if (!files) {
      const opening = { keys: this.keys.get(source.id) ?? [], scratch: () => new BlobScratch() };
      const { pass, source: found } = source;
      const isKnown = pass.state === 'done' && found !== null;
      const packages = isKnown ? new Set(found.inside.packages.map(({ path }) => path)) : null;
      files = inputOf(this.shelf, source).then(
        (input) => new SourceFiles(input, opening, packages)
      );
      files.catch(() => this.opened.delete(source.id));
      this.opened.set(source.id, files);
    }
    return (await files).open(path);
  }

  async inside(sourceId: string, path: string): Promise<InsideView | null> {
    const inside = await this.insideOf(sourceId, path);
    return inside && inside.view(this.recoveredOf(sourceId));
  }

  async insidePage(sourceId: string, path: string, page: number): Promise<InsidePage | null> {
    const inside = await this.insideOf(sourceId, path);
    return inside && inside.page(page);
  }

  async insideRecord(
    sourceId: string,
    path: string,
    messageId: string,
    proof: number
  ): Promise<InsideRecord | null> {
    const inside = await this.insideOf(sourceId, path);
    const at = await this.index.locateOne(messageId);
    const message = at && (await this.index.held(at)).message;
    const place = message?.proofs[proof];
    if (!inside || !message || !place) return null;
    // All columns of the store are there since the message was looked for.
    const store = this.index.stores[at.store]!;
    const sentAt = (id: string): number | null => store.momentOf(id);
    return inside.record(message, place, new ZonedTime(this.record.zone), sentAt);
  }

  /** The database that was looked into last stays open. */
  private async insideOf(sourceId: string, path: string): Promise<InsideDatabase | null> {
    const key = `${sourceId}/${path}`;
    if (this.looked?.key === key) return this.looked.inside;
    const source = await this.shelf.get(sourceId);
    if (!source) return null;
    const fileOf = (name: string): Promise<ByteSource | null> => this.fileOf(source, name);
    const listed = (name: string): string | null =>
      source.files.find((file) => file.path === name)?.sha256 ?? null;
    const inside = await InsideDatabase.open(path, fileOf, listed);
    this.looked = inside && { key, inside };
    return inside;
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
    const ids: string[] = [];
    for (const { id } of this.index.conversations)
      append(ids, await this.reader.idsOf(await this.reader.matching(id, filter)));
    return this.choose(ids, true);
  }

  async chosenRecords(): Promise<Set<string>> {
    return this.exhibitLists.chosen;
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

function listedGlance(files: number): SourceGlance {
  const says = `${files.toLocaleString('en')} files were listed. They are opened and hashed when the folder is examined.`;
  return { kind: 'folder', files, packages: [], parts: [], says, worth: true };
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
