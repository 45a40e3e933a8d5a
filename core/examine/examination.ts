import type { ByteSource } from '../host';
import {
  unlockedOnce,
  type ListedFile,
  type PackageStep,
  type Tree,
  type TreeFile
} from '../formats';
import {
  emptyDevice,
  emptyInside,
  storeId,
  type Device,
  type Findings,
  type Note,
  type Source
} from '../records';
import type { TableSchema } from '../sqlite';
import { listedStream, type StoreReading } from '../profiles';
import type { StoreFacts } from '../messages';
import { digestFile, FileFinder, mimeOf, openNow, resolved, type FileDigest } from './attachments';
import { doubtBatch, doubtFindings, Doubts } from './doubts';
import { failureNote } from './failures';
import { SourceHashes, type HashFailure } from './hashes';
import { Meanings } from './meanings';
import { narrowed } from './narrow';
import { Pace } from './pace';
import { Progress } from './progress';
import { isCompanion, type Candidate } from './recognise';
import { examineStore, giveStore, type StoreEvent, type StoreRequest } from './store';
import type { CarvedFiles, InputFile, PassEvent, PassRequest } from './types';

/**
 * What an examination of one source knows, and what its readers share: opening
 * files, giving what was read, resolving attachments, hashing, notes. Each
 * reader asks for what it needs; the order is the pass's.
 */
export class Examination {
  readonly source: Source;
  readonly pace: Pace;
  readonly progress: Progress;
  readonly doubts = new Doubts();
  readonly hashes: SourceHashes;
  tree: Tree = { files: [], packages: [], device: {}, notes: [] };
  /** Databases with what lies beside them. */
  readonly databases: Candidate[] = [];
  /** Files that were read as something other than a database. */
  readonly read = new Set<TreeFile>();
  /** Tables of the databases that were read, to name those that lost their declaration. */
  readonly known: TableSchema[] = [];
  /** Files in whose raw bytes stores were found. */
  readonly carved = new Set<ListedFile>();
  /** Files that were told by their content in raw bytes. */
  readonly carvedFiles: CarvedFiles[] = [];
  /** What the files are that messages came with, by their paths. */
  readonly digests = new Map<string, FileDigest>();
  /** Files of the source that something was read from, by their names. */
  readonly used = new Set<string>();
  private readonly meanings = new Meanings();
  private readonly storeIds = new Set<string>();
  private finder = new FileFinder([]);
  /** It is one file, so that what fails of it fails as a whole. */
  private isOne = true;

  constructor(readonly request: PassRequest) {
    const { input, depth } = request;
    this.pace = new Pace(request.signal, request.gate, request.turn);
    const bytes = input.files.reduce((sum, file) => sum + file.size, 0);
    this.progress = new Progress(bytes);
    this.source = {
      id: input.id,
      name: input.name,
      kind: 'unrecognised',
      bytes,
      sha256: '',
      parts: [],
      depth,
      device: emptyDevice(),
      notes: [...(input.notes ?? [])],
      inside: emptyInside()
    };
    this.hashes = new SourceHashes(this.source, request.hasher, this.pace, this.progress);
  }

  /** Takes up what the source holds. */
  opened(tree: Tree): void {
    this.tree = tree;
    this.isOne = tree.files.filter((file) => !isCompanion(file)).length <= 1;
    this.finder = new FileFinder(
      tree.files.flatMap(({ file }) => (file.isUnallocated ? [] : [file]))
    );
  }

  /** What the source is, where nothing said so before. */
  isA(kind: string): void {
    if (this.source.kind === 'unrecognised') this.source.kind = kind;
  }

  /** Facts of the device that it comes from; what is known already stays. */
  isFrom(device: Partial<Device>): void {
    const told = Object.entries(device).filter(([, value]) => value !== null);
    Object.assign(this.source.device, Object.fromEntries(told));
  }

  /** Whether the source holds a file of a name. */
  has(name: string): boolean {
    return this.finder.has(name);
  }

  /** Something was read of a file that is no database. */
  took(file: TreeFile): void {
    this.read.add(file);
    this.used.add(file.file.origin);
  }

  /** Texts that nothing was read of so far. */
  texts(): TreeFile[] {
    return this.tree.files.filter(
      (file) => file.mark === 'text' && !file.file.locked && !this.read.has(file)
    );
  }

  note(note: Note): PassEvent {
    if (!this.source.notes.includes(note)) this.source.notes.push(note);
    return { type: 'note', note };
  }

  /** What failed of a file, as a note. @throws what is neither damage nor the system's */
  failed(error: unknown, path: string): PassEvent {
    return this.note(failureNote(error, path, this.isOne));
  }

  /** Does a part of the examination; if it fails, that is noted and the rest goes on. */
  async *guard<T>(
    part: AsyncGenerator<PassEvent, T>,
    otherwise: T,
    path = this.source.name
  ): AsyncGenerator<PassEvent, T> {
    try {
      return yield* part;
    } catch (error) {
      yield this.failed(error, path);
      return otherwise;
    }
  }

  /** Runs the steps of a package's opening at the pace of the examination. */
  async *steps<T>(work: Generator<PackageStep, T>): AsyncGenerator<PassEvent, T> {
    for (;;) {
      const step = work.next();
      for (const note of this.doubts.take()) yield this.note(note);
      if (step.done) return step.value;
      const { stage, done, total, until } = step.value;
      if (this.pace.mayReport()) yield this.progress.event(stage, done, total);
      if (until) await this.pace.wait(until);
      else if (this.pace.due) await this.pace.rest();
    }
  }

  async *openFile({ file }: TreeFile): AsyncGenerator<PassEvent, ByteSource> {
    const source = yield* this.steps(file.open());
    return yield* this.steps(unlockedOnce(source, this.request.scratch));
  }

  async *hash(files: readonly InputFile[]): AsyncGenerator<PassEvent> {
    for await (const step of this.hashes.hash(files)) {
      if (step.type === 'progress') yield step;
      else yield* this.unhashed(step);
    }
  }

  /** A file that the system refuses has no checksum, and a note says why. */
  *unhashed({ error, path }: HashFailure): Generator<PassEvent> {
    const note = failureNote(error, path, this.isOne);
    const isSaid = this.source.notes.some((said) => said.path === path && said.code === note.code);
    if (!isSaid) yield this.note(note);
  }

  /** Reads a database; true where it waits until others were read. */
  async *database(
    store: Pick<StoreRequest, 'files' | 'path' | 'opened' | 'mayWait' | 'modifiedAt'>
  ): AsyncGenerator<PassEvent, boolean> {
    const isDoubtful = this.doubts.concern(store.path);
    const events = examineStore({
      ...store,
      known: this.known,
      meanings: this.meanings,
      source: this.source.id,
      idOf: (path, profile) => this.storeId(path, profile),
      // Records that left as JSON could not be made to say that they are in doubt.
      pass: isDoubtful ? withoutFrame(this.request) : this.request
    });
    return (yield* this.told(events, isDoubtful)) === 'waits';
  }

  /** Two profiles of one name may read a file: the later is told from the first by its number. */
  private storeId(path: string, profile: string): string {
    let id = storeId(this.source.id, path, profile);
    for (let n = 2; this.storeIds.has(id); n++)
      id = storeId(this.source.id, path, `${profile} ${n}`);
    this.storeIds.add(id);
    return id;
  }

  /** Gives what was read of something that is no database. */
  async *give(
    facts: Pick<StoreFacts, 'path' | 'profile' | 'fit' | 'limits'>,
    reading: StoreReading
  ): AsyncGenerator<PassEvent> {
    const { source, request } = this;
    const id = this.storeId(facts.path, facts.profile);
    const full = { ...facts, id, source: source.id };
    const isDoubtful = this.doubts.concern(facts.path);
    const pass = isDoubtful ? withoutFrame(request) : request;
    const kept = narrowed(request.want, reading);
    const given = { pass, final: true, crew: null };
    for (const note of this.doubts.take()) yield this.note(note);
    yield* this.told(giveStore(full, listedStream(kept), kept, given), isDoubtful);
  }

  /** Passes on what is read of a store. */
  private async *told<T>(
    events: Generator<StoreEvent, T>,
    isDoubtful: boolean
  ): AsyncGenerator<PassEvent, T> {
    for (;;) {
      const { done, value: event } = events.next();
      if (done) return event;
      if (isDoubtful && event.type === 'batch') doubtBatch(event.batch);
      if (isDoubtful && event.type === 'found') doubtFindings(event.findings);
      yield* this.translate(event);
      if (this.pace.due) await this.pace.rest();
    }
  }

  private async *translate(event: StoreEvent): AsyncGenerator<PassEvent> {
    switch (event.type) {
      case 'step':
        if (this.pace.mayReport()) yield this.progress.event(event.stage, event.done, event.total);
        return;
      case 'wait':
        await event.until;
        // What it waited for came from outside; more may have come since.
        await this.pace.rest();
        return;
      case 'found':
        if (!event.final) this.progress.endFirstLook();
        if (event.final) yield* this.resolveAttachments(event.findings);
        yield event;
        return;
      case 'batch':
        this.progress.addFound(event.batch.count);
        yield event;
        return;
      case 'json':
        this.progress.addFound(event.count);
        yield event;
        return;
      case 'candidate':
        this.source.inside.candidates.push(event.candidate);
        yield event;
        return;
      case 'note':
        yield this.note(event.note);
    }
  }

  /** Finds the files that attachments name; what is missing stays named. */
  private async *resolveAttachments(findings: Findings): AsyncGenerator<PassEvent> {
    const near = findings.stores[0]?.path ?? '';
    for (const [i, attachment] of findings.attachments.entries()) {
      const { path, name, bytes } = attachment;
      const file = this.finder.find(path, name, bytes, near);
      if (!file) continue;
      const digest = yield* this.digest(file);
      if (digest) findings.attachments[i] = resolved(attachment, file, digest);
    }
  }

  /** What a file is; null where it cannot be read, which is noted. */
  async *digest(file: ListedFile): AsyncGenerator<PassEvent, FileDigest | null> {
    const known = this.digests.get(file.path) ?? (await this.digestOfPart(file));
    if (known) {
      this.digests.set(file.path, known);
      return known;
    }
    try {
      return yield* this.digestWhole(file);
    } catch (error) {
      yield this.failed(error, file.path);
      return null;
    }
  }

  private async *digestWhole(file: ListedFile): AsyncGenerator<PassEvent, FileDigest | null> {
    const source = openNow(file);
    if (!source) return null;
    const work = digestFile(source, this.request.hasher);
    for (let done = 0; ;) {
      const step = await work.next();
      if (step.done) {
        this.digests.set(file.path, step.value);
        return step.value;
      }
      done += step.value;
      if (this.pace.due) await this.pace.rest();
      if (this.pace.mayReport()) yield this.progress.event('files', done, source.size);
    }
  }

  /** What is known already of a file that lies in the source as it is, and was hashed with it. */
  private async digestOfPart(file: ListedFile): Promise<FileDigest | null> {
    const sha256 = this.hashes.of(file);
    if (sha256 === null || file.size === null) return null;
    return { sha256, bytes: file.size, mime: await mimeOf(file.head()) };
  }
}

function withoutFrame({ frame: _, ...request }: PassRequest): PassRequest {
  return request;
}
