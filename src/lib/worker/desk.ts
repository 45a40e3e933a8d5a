import { EVERYTHING, failedGlance, glanceAt, SourceFiles, type Want } from '$core/pass';
import type { ProfileDesk, ReadingProfile } from '$core/stores';
import { deleteProfile, savedProfiles } from '../storage/profiles';
import { Facets } from './facets';
import { deskOver, importProfile, keepProfile, trial } from './profiles';
import { toCaseFile, type Depth, type SourceGlance } from '$core/records';
import {
  packedPackage,
  proofText,
  verifyPackage,
  type ProductionInput,
  type Settings,
  type Verification
} from '$core/produce';
import { ZonedTime } from '$core/shown';
import { openStorage } from '../storage/open';
import type { CaseRecord, SourceRecord } from '../storage/schema';
import type { ByteSource } from '$core/bytes';
import { BlobScratch } from './blob-scratch';
import { BlobSource } from './blob-source';
import { inputOf } from './input';
import { Holdings, Naming } from './holdings';
import { InsideDatabase } from './inside';
import { Jobs } from './jobs';
import { newHash } from './hash';
import { previewPages, produceArchive, productionInput } from './producing';
import type {
  AddResult,
  CallRow,
  CaseDeskApi,
  CaseSummary,
  ContactRow,
  CorrespondentRow,
  DeskEvent,
  ExhibitRow,
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

/** Most bytes of one proof that are shown beside a line. */
const PROOF_BYTES = 96;

/** Lines past which a preview shows one conversation alone. */
const MOST_PREVIEWED = 2000;

/** A later question took the place of an earlier one. */
class Superseded extends Error {}

/** Holds one case in the worker: storage, passes, and the answers to what the page asks. */
export class CaseDesk implements CaseDeskApi {
  private record!: CaseRecord;
  private shelf!: Shelf;
  private jobs!: Jobs;
  private holdings = new Holdings([]);
  private chosen = new Set<string>();
  private reader!: Reader;
  /** Sources whose packages were opened to show what is inside. */
  private readonly opened = new Map<string, SourceFiles>();
  private looked: { key: string; inside: InsideDatabase } | null = null;
  private facetsCache: Facets | null = null;
  /** Passwords and keys given for sources; kept only as long as this worker lives. */
  private readonly keys = new Map<string, string[]>();
  private producing: AbortController | null = null;
  private previewing: AbortController | null = null;

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
    this.jobs = new Jobs(
      this.shelf,
      () => this.record,
      (r) => this.reload(r),
      this.tell,
      (sourceId) => this.keys.get(sourceId) ?? []
    );
    this.chosen = new Set((await db.get('exhibits', caseId))?.messages ?? []);
    await this.load();
    const summary = await this.summary();
    await this.jobs.takeUp(summary.sources);
    return summary;
  }

  private async load(): Promise<void> {
    this.holdings = new Holdings(await this.shelf.chunks());
    this.facetsCache = null;
    this.refresh();
  }

  /** Built when first asked for: a case can list a hundred thousand files. */
  private async facetsOf(): Promise<Facets> {
    if (this.facetsCache) return this.facetsCache;
    const time = new ZonedTime(this.record.zone);
    const [sources, files] = await Promise.all([this.shelf.sources(), this.shelf.files()]);
    return (this.facetsCache = new Facets(this.holdings, this.naming(), time, sources, files));
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
  }
  async removeProfile(id: string): Promise<void> {
    await deleteProfile(id);
  }
  async importProfile(json: string): Promise<ProfileImport> {
    return importProfile(json);
  }

  async unlock(sourceId: string, key: string): Promise<void> {
    const source = await this.shelf.get(sourceId);
    if (!source) throw new Error('This source is no longer on the shelf.');
    // The newest is tried first: deriving a key takes long.
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
    this.reader = new Reader(this.holdings, this.naming(), time, this.chosen);
  }

  private naming(): Naming {
    return new Naming(this.holdings.people, this.record.names, this.record.client);
  }

  async summary(): Promise<CaseSummary> {
    const db = await openStorage();
    const productions = await db.getAllFromIndex('productions', 'case', this.record.id);
    return {
      record: this.record,
      sources: await this.shelf.sources(),
      totals: this.holdings.counts(),
      exhibits: this.chosen.size,
      productions: productions.sort((a, b) => b.made - a.made)
    };
  }

  async addSource(name: string, files: NamedBlob[]): Promise<AddResult> {
    const result = await this.shelf.add(name, files, (fraction) =>
      this.tell({ type: 'adding', name, fraction })
    );
    this.tell({ type: 'changed' });
    if (result.ok) await this.glance(result.source);
    return result;
  }

  /** Looks at a source that was added, so that it says at once what it is. */
  private async glance(source: SourceRecord): Promise<void> {
    let seen: SourceGlance;
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
    for (const { id, pass, glance } of await this.shelf.sources())
      if (pass.state === 'none' && glance?.worth !== false) await this.beginPass(id, 'freed');
  }

  async removeSource(sourceId: string): Promise<void> {
    await this.shelf.remove(sourceId);
    this.opened.delete(sourceId);
    await this.reload();
  }

  async beginPass(sourceId: string, depth: Depth, want?: WantSpec): Promise<void> {
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
    return this.reader.matching(id, filter).findIndex(({ message }) => message.id === messageId);
  }
  async river(filter: ReadFilter, correspondent: string | null): Promise<River> {
    return this.reader.river(filter, correspondent);
  }

  async detail(messageId: string): Promise<LineDetail | null> {
    const held = this.holdings.get(messageId);
    if (!held) return null;
    const { message, line } = held;
    const time = new ZonedTime(this.record.zone);
    const sources = await this.shelf.sources();
    const source = sources.find((s) => s.stores.some((store) => store.id === message.store));
    const store = source?.stores.find((s) => s.id === message.store);
    const full = (at: number | null): string | null => (at === null ? null : time.full(at));
    return {
      line,
      message,
      sender: this.naming().person(message.sender),
      sent: full(message.sentAt) ?? 'unknown',
      delivered: full(message.deliveredAt),
      read: full(message.readAt),
      source: source?.name ?? 'a source that was removed',
      sourceId: source?.id ?? '',
      store: store?.path ?? message.store,
      also: sources.flatMap((s) =>
        s.stores.flatMap(({ id, path }) => (held.also.includes(id) ? [`${s.name}: ${path}`] : []))
      ),
      proofs: await Promise.all(message.proofs.map((proof) => this.proofView(proof, source)))
    };
  }

  private async proofView(
    proof: ProofView['proof'],
    source: SourceRecord | undefined
  ): Promise<ProofView> {
    const length = Math.min(proof.length, PROOF_BYTES);
    const file = source && (await this.fileOf(source, proof.path));
    const bytes = file ? file.read(proof.offset, length) : null;
    return { proof, text: proofText(proof), bytes };
  }

  /** A file of a source at any nesting; null when its bytes are not in this browser, or its key is not known any more. */
  private async fileOf(source: SourceRecord, path: string): Promise<ByteSource | null> {
    const plain = source.files.find((f) => f.path === path);
    const blob = plain ? await this.shelf.blob(plain.sha256) : null;
    if (plain) return blob && new BlobSource(blob, path);
    let files = this.opened.get(source.id);
    if (!files) {
      const opening = { keys: this.keys.get(source.id) ?? [], scratch: () => new BlobScratch() };
      files = new SourceFiles(await inputOf(this.shelf, source), opening);
      this.opened.set(source.id, files);
    }
    return files.open(path);
  }

  async inside(sourceId: string, path: string): Promise<InsideView | null> {
    const inside = await this.insideOf(sourceId, path);
    const own = [...this.holdings.all()].map(({ message }) => message);
    return inside && inside.view(own.filter(({ store }) => store.split('.')[0] === sourceId));
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
    const message = this.holdings.get(messageId)?.message;
    const place = message?.proofs[proof];
    if (!inside || !message || !place) return null;
    const sentAt = (id: string): number | null => this.holdings.get(id)?.message.sentAt ?? null;
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
    const caseId = this.record.id;
    // Another tab may have chosen in the meantime: what is kept is changed, not replaced.
    const tx = (await openStorage()).transaction('exhibits', 'readwrite');
    const known = await tx.store.get(caseId);
    const kept = new Set(known?.messages ?? []);
    for (const id of messageIds) {
      if (chosen) kept.add(id);
      else kept.delete(id);
    }
    await tx.store.put({ ...known, caseId, messages: [...kept] });
    await tx.done;
    this.takeChosen(kept);
    this.tabs.postMessage(caseId);
    return this.chosen.size;
  }

  async chooseRange(id: string, filter: ReadFilter, from: number, to: number): Promise<number> {
    const list = this.reader.matching(id, filter).slice(from, to);
    return this.choose(
      list.map(({ message }) => message.id),
      true
    );
  }

  async chooseThread(id: string, filter: ReadFilter, chosen: boolean): Promise<number> {
    const list = this.reader.matching(id, filter);
    return this.choose(
      list.map(({ message }) => message.id),
      chosen
    );
  }

  async exhibits(): Promise<ExhibitRow[]> {
    return this.reader.exhibits();
  }

  private takeChosen(kept: ReadonlySet<string>): void {
    this.chosen.clear();
    for (const id of kept) this.chosen.add(id);
  }

  async clearExhibits(): Promise<void> {
    await this.choose([...this.chosen], false);
  }

  async setName(personId: string, name: string): Promise<void> {
    await this.change(({ names: kept }) => {
      const names = { ...kept };
      if (name.trim() === '') delete names[personId];
      else names[personId] = name.trim();
      return { names };
    });
  }

  async updateCase(
    change: Partial<Pick<CaseRecord, 'name' | 'client' | 'zone' | 'region'>>
  ): Promise<void> {
    await this.change(() => change);
  }

  /** Changes the case as it is kept, which another tab or a pass may have changed too. */
  private async change(change: (kept: CaseRecord) => Partial<CaseRecord>): Promise<void> {
    const tx = (await openStorage()).transaction('cases', 'readwrite');
    const kept = (await tx.store.get(this.record.id)) ?? this.record;
    this.record = { ...kept, ...change(kept) };
    await tx.store.put(this.record);
    await tx.done;
    this.tabs.postMessage(this.record.id);
    this.refresh();
    this.tell({ type: 'changed' });
  }

  /** Takes up what another tab changed in this case. */
  private async heard(caseId: string): Promise<void> {
    if (caseId !== this.record?.id) return;
    const db = await openStorage();
    this.record = (await db.get('cases', caseId)) ?? this.record;
    this.takeChosen(new Set((await db.get('exhibits', caseId))?.messages ?? []));
    this.refresh();
    this.tell({ type: 'changed' });
  }

  async preview(settings: Settings, correspondent: string): Promise<PagePreview | null> {
    this.previewing?.abort(new Superseded());
    const { signal } = (this.previewing = new AbortController());
    try {
      // A long record is shown from the conversation that is looked at.
      const only = this.chosen.size > MOST_PREVIEWED ? correspondent : null;
      const input = await this.productionInput(only);
      const open = this.attachmentBytes.bind(this);
      return await previewPages(input, this.chosenOf(settings, input), open, signal);
    } catch (error) {
      if (error instanceof Superseded) return null;
      throw error;
    }
  }

  async produce(settings: Settings): Promise<ProductionResult> {
    const { signal } = (this.producing = new AbortController());
    try {
      const input = await this.productionInput(null);
      const result = await produceArchive(
        input,
        this.chosenOf(settings, input),
        this.record.id,
        this.attachmentBytes.bind(this),
        signal,
        (what, done, total) => this.tell({ type: 'producing', what, done, total })
      );
      await this.change(() => ({ lastProduction: result.record.made }));
      return result;
    } finally {
      this.producing = null;
    }
  }

  async keptSettings(): Promise<Settings | null> {
    return (await (await openStorage()).get('exhibits', this.record.id))?.settings ?? null;
  }

  async keepSettings(settings: Settings): Promise<void> {
    const tx = (await openStorage()).transaction('exhibits', 'readwrite');
    const kept = await tx.store.get(this.record.id);
    const messages = kept?.messages ?? [...this.chosen];
    const pdf = { ...settings.pdf, password: null };
    await tx.store.put({ caseId: this.record.id, messages, settings: { ...settings, pdf } });
    await tx.done;
  }

  async chosenLine(line: number): Promise<{ id: string; body: string } | null> {
    for (const held of this.holdings.all())
      if (held.line === line && this.chosen.has(held.message.id))
        return { id: held.message.id, body: held.message.body };
    return null;
  }

  async verifyArchive(archive: Blob): Promise<Verification> {
    return verifyPackage(await packedPackage(archive, newHash));
  }

  async stopProducing(): Promise<void> {
    this.producing?.abort(new Error('Producing was stopped.'));
  }

  /** The lines on the exhibit list. */
  private chosenOf(settings: Settings, { sections }: ProductionInput): Settings {
    const messages = sections.flatMap((section) =>
      section.messages.flatMap(({ message: { id } }) => (this.chosen.has(id) ? [id] : []))
    );
    // What is redacted in a conversation that was dropped is not there to be covered.
    const there = new Set(
      sections.flatMap((section) => section.messages.map(({ message }) => message.id))
    );
    const redactions = settings.redactions.filter(
      (redaction) => !('message' in redaction) || there.has(redaction.message)
    );
    return { ...settings, redactions, choose: { ...settings.choose, messages } };
  }

  private async productionInput(only: string | null): Promise<ProductionInput> {
    const sources = await this.shelf.sources();
    return productionInput(this.record, sources, this.holdings, this.naming(), only, this.chosen);
  }

  /** The bytes of an attachment by their checksum; null where they are not in this browser. */
  private async attachmentBytes(sha256: string): Promise<Uint8Array | null> {
    const found = [...this.holdings.attachments.values()].find((a) => a.sha256 === sha256);
    if (!found || found.path === null) return null;
    const file = await this.sourceFile(found.id.split('.')[0]!, found.path);
    return file && Uint8Array.from(file.read(0, file.size));
  }

  async exportCase(): Promise<Blob> {
    const sources = (await this.shelf.sources()).flatMap((s) => (s.source ? [s.source] : []));
    const chunks = await this.shelf.chunks();
    const stores = (await this.shelf.sources()).flatMap((s) => s.stores);
    const findings = {
      stores,
      people: [...this.holdings.people.values()].map((person) => ({
        ...person,
        name: this.record.names[person.id] ?? person.name
      })),
      threads: chunks.flatMap((chunk) => chunk.threads),
      messages: chunks.flatMap((chunk) => chunk.messages),
      attachments: chunks.flatMap((chunk) => chunk.attachments),
      calls: chunks.flatMap((chunk) => chunk.calls ?? []),
      contacts: chunks.flatMap((chunk) => chunk.contacts ?? []),
      gaps: chunks.flatMap((chunk) => chunk.gaps ?? [])
    };
    const files = await this.shelf.files();
    const file = toCaseFile(sources, findings, files, new Date(), this.record.zone);
    return new Blob([JSON.stringify(file)], { type: 'application/json' });
  }
}

function wantOf({ kinds, from, to, addresses }: WantSpec): Want {
  return { kinds: new Set(kinds), from, to, addresses };
}
