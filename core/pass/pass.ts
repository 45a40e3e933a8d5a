import { append, type ByteSource } from '../bytes';
import {
  listSource,
  openListed,
  plainFile,
  unlockedOnce,
  type ListedFile,
  type PackageStep,
  type SourceListing,
  type Tree,
  type TreeFile
} from '../packages';
import {
  emptyDevice,
  emptyInside,
  storeId,
  type FileRecord,
  type Findings,
  type Note,
  type Source
} from '../records';
import type { DatabaseFiles, TableSchema } from '../sqlite';
import { listedStream, type StoreReading } from '../stores';
import type { StoreFacts } from '../threads';
import { digestFile, FileFinder, mimeOf, openNow, resolved, type FileDigest } from './attachments';
import { cardDevice, cardReading, findCard } from './card';
import { doubtBatch, doubtFindings, Doubts } from './doubts';
import { failureNote } from './failures';
import type { LogTable } from '../logs';
import { grouped, readTables, tablesOfFile, type LogTables } from './log-tables';
import { carvedRecord, fileRecord, isMedia, isMediaName } from './file-list';
import { SourceHashes, type HashFailure } from './hashes';
import { findLogs, logLimits, logReading } from './logs';
import { carveFiles, damagedDatabases, type CarvedFiles } from './medium';
import { Meanings } from './meanings';
import { narrowed } from './narrow';
import { carvedNote, lockNote, noMessages, noStores, nothing, otherFiles } from './notes';
import { Pace, StoppedError } from './pace';
import { Progress } from './progress';
import { databasesOf, isCompanion, describeOther, kindOf, type Candidate } from './recognise';
import { examineStore, giveStore, type StoreEvent, type StoreRequest } from './store';
import type { InputFile, PassEvent, PassRequest } from './types';

/**
 * One examination of one source, from its bytes to records, as a stream of
 * events. Damage in one place never ends it; an aborted signal does, and what
 * was found until then stays reported.
 */
export async function* runPass(request: PassRequest): AsyncGenerator<PassEvent> {
  const pass = new Pass(request);
  try {
    yield* pass.run();
  } catch (error) {
    if (!(error instanceof StoppedError)) throw error;
    yield { type: 'done', source: pass.source, stopped: true };
  }
}

class Pass {
  readonly source: Source;
  private readonly pace: Pace;
  private readonly progress: Progress;
  private readonly storeIds = new Set<string>();
  private readonly hashes: SourceHashes;
  private readonly known: TableSchema[] = [];
  private readonly meanings = new Meanings();
  /** Files in whose raw bytes stores were found. */
  private readonly carved = new Set<ListedFile>();
  /** Files that were told by their content in raw bytes. */
  private readonly carvedFiles: CarvedFiles[] = [];
  private finder = new FileFinder([]);
  private readonly digests = new Map<string, FileDigest>();
  /** Files of the source that something was read from. */
  private readonly used = new Set<string>();
  /** It is one file, so that what fails of it fails as a whole. */
  private isOne = true;
  private readonly doubts = new Doubts();

  constructor(private readonly request: PassRequest) {
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

  async *run(): AsyncGenerator<PassEvent> {
    const { input, depth, want } = this.request;
    for (const note of this.source.notes) yield { type: 'note', note };
    const tree = yield* this.open();
    this.isOne = tree.files.filter((file) => !isCompanion(file)).length <= 1;
    const candidates = databasesOf(tree.files);
    if (depth !== 'indexed')
      append(candidates, yield* this.guard(this.damaged(tree, candidates), []));
    this.source.kind = kindOf(tree, candidates, input.files.length);
    yield { type: 'source', source: this.source };
    if (depth !== 'indexed') yield* this.hash(input.files);
    this.finder = new FileFinder(tree.files.map(({ file }) => file));
    yield* this.examineAll(candidates);
    if (depth !== 'indexed') yield* this.guard(this.carve(tree, candidates), undefined);
    const read = new Set(yield* this.guard(this.examineCard(tree), []));
    for (const file of yield* this.guard(this.examineLogs(tree, read), [])) read.add(file);
    yield* this.mentionOthers(tree, candidates, read);
    if (want.kinds.has('files') || want.kinds.has('media')) yield* this.list(tree);
    if (depth === 'indexed')
      yield* this.hash(
        input.files.filter(({ name, sha256 }) => sha256 !== undefined || this.used.has(name))
      );
    for (const note of this.doubts.take()) yield this.note(note);
    for (const failure of await this.hashes.settled()) yield* this.unhashed(failure);
    this.source.sha256 = await this.hashes.joined(input.files);
    yield { type: 'done', source: this.source, stopped: false };
  }

  /** Does a part of the examination; if it fails, that is noted and the rest goes on. */
  private async *guard<T>(
    part: AsyncGenerator<PassEvent, T>,
    otherwise: T
  ): AsyncGenerator<PassEvent, T> {
    try {
      return yield* part;
    } catch (error) {
      yield this.note(failureNote(error, this.source.name, this.isOne));
      return otherwise;
    }
  }

  /** Opens packages to any depth. */
  private async *open(): AsyncGenerator<PassEvent, Tree> {
    const { input, keys, scratch } = this.request;
    const files = input.files.map((file) => plainFile(file.name, file));
    const opening = { keys, scratch, doubt: (note: Note) => this.doubts.add(note) };
    const listing = yield* this.steps(listSource(input.name, files, opening));
    yield* this.listed(listing);
    // A quick look goes by what the store itself lists; names of pictures are believed then.
    const skips = this.request.depth === 'indexed' ? isMediaName : () => false;
    const tree = yield* this.steps(openListed(listing, opening, skips));
    const { inside, device } = this.source;
    Object.assign(device, withoutNulls(tree.device));
    inside.files = tree.files.length;
    inside.packages = tree.packages;
    for (const note of tree.notes) yield this.note(note);
    for (const { path, lock } of tree.packages)
      if (lock) yield this.note(lockNote(path, lock.reason));
    return tree;
  }

  /** Tells what was recognised before anything is looked into. */
  private async *listed({ files, tree }: SourceListing): AsyncGenerator<PassEvent> {
    const { source } = this;
    const [first] = tree.packages;
    if (first) source.kind = first.kind;
    source.inside.files = files.length;
    source.inside.packages = [...tree.packages];
    Object.assign(source.device, withoutNulls(tree.device));
    yield { type: 'source', source };
  }

  /** Runs the steps of a package's opening at the pace of the pass. */
  private async *steps<T>(work: Generator<PackageStep, T>): AsyncGenerator<PassEvent, T> {
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

  private async *hash(files: readonly InputFile[]): AsyncGenerator<PassEvent> {
    for await (const step of this.hashes.hash(files)) {
      if (step.type === 'progress') yield step;
      else yield* this.unhashed(step);
    }
  }

  /** A file that the system refuses has no checksum, and a note says why. */
  private *unhashed({ error, path }: HashFailure): Generator<PassEvent> {
    const note = failureNote(error, path, this.isOne);
    const isSaid = this.source.notes.some((said) => said.path === path && said.code === note.code);
    if (!isSaid) yield this.note(note);
  }

  /** Files without a database header that hold database pages all the same. */
  private async *damaged(
    tree: Tree,
    candidates: Candidate[]
  ): AsyncGenerator<PassEvent, Candidate[]> {
    const work = damagedDatabases(tree, candidates, this.request.depth === 'whole');
    let step = work.next();
    for (; !step.done; step = work.next()) if (this.pace.due) await this.pace.rest();
    return step.value;
  }

  /** What lies in raw bytes: databases put together from their pages, and files told by their content. */
  private async *carve(tree: Tree, candidates: Candidate[]): AsyncGenerator<PassEvent> {
    const searched = this.request.depth === 'whole' ? 'all' : 'media';
    for (const step of carveFiles(tree, candidates, this.known, searched)) {
      if (this.pace.due) await this.pace.rest();
      if ('done' in step) {
        const { done, total } = step;
        if (this.pace.mayReport()) yield this.progress.event('carve', done, total);
        continue;
      }
      this.used.add(step.file.origin);
      this.carved.add(step.file);
      if (this.source.kind === 'unrecognised') this.source.kind = 'medium';
      if ('carved' in step) {
        this.carvedFiles.push(step);
        yield this.note(carvedNote(step));
        continue;
      }
      yield* this.storeEvents({
        files: { main: step.source },
        path: step.path,
        opened: step.opened,
        mayWait: false,
        modifiedAt: step.file.modifiedAt
      });
    }
  }

  private async *examineAll(candidates: Candidate[]): AsyncGenerator<PassEvent> {
    this.progress.beginStores(candidates.map(({ main }) => main.file.size ?? 0));
    // Those that a known profile reads say what tables mean in the others.
    const waiting: Candidate[] = [];
    const isAlone = candidates.length === 1;
    for (const candidate of candidates)
      if (yield* this.examineOr(candidate, !isAlone)) waiting.push(candidate);
    for (const candidate of waiting) yield* this.examineOr(candidate, false);
  }

  /** Whether the candidate waits for the others. */
  private async *examineOr(
    candidate: Candidate,
    mayWait: boolean
  ): AsyncGenerator<PassEvent, boolean> {
    this.progress.beginStore(candidate.main.file.size ?? 0);
    let waits = false;
    try {
      waits = yield* this.examine(candidate, mayWait);
    } catch (error) {
      yield this.note(failureNote(error, candidate.main.file.path, this.isOne));
    }
    if (waits) this.progress.postponeStore();
    if (this.pace.due) await this.pace.rest();
    return waits;
  }

  private async *examine(
    { main, wal, journal }: Candidate,
    mayWait: boolean
  ): AsyncGenerator<PassEvent, boolean> {
    for (const part of [main, wal, journal]) if (part) this.used.add(part.file.origin);
    const files: DatabaseFiles = { main: yield* this.opened(main) };
    if (wal) files.wal = yield* this.opened(wal);
    if (journal) files.journal = yield* this.opened(journal);
    const path = main.file.path;
    return yield* this.storeEvents({ files, path, mayWait, modifiedAt: main.file.modifiedAt });
  }

  private async *opened({ file }: TreeFile): AsyncGenerator<PassEvent, ByteSource> {
    const source = yield* this.steps(file.open());
    return yield* this.steps(unlockedOnce(source, this.request.scratch));
  }

  private async *storeEvents(
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

  private async *digest(file: ListedFile): AsyncGenerator<PassEvent, FileDigest | null> {
    const known = this.digests.get(file.path) ?? (await this.digestOfPart(file));
    if (known) {
      this.digests.set(file.path, known);
      return known;
    }
    try {
      return yield* this.digestWhole(file);
    } catch (error) {
      yield this.note(failureNote(error, file.path, this.isOne));
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

  private note(note: Note): PassEvent {
    if (!this.source.notes.includes(note)) this.source.notes.push(note);
    return { type: 'note', note };
  }

  /** Reads the card that the files make up, if they do; returns its files. */
  private async *examineCard(tree: Tree): AsyncGenerator<PassEvent, TreeFile[]> {
    const card = findCard(tree.files);
    if (!card) return [];
    const { source, request } = this;
    if (source.kind === 'unrecognised' || source.kind === 'folder') source.kind = 'card';
    Object.assign(source.device, withoutNulls(cardDevice(card.reading)));
    for (const { file } of card.files) this.used.add(file.origin);
    const reading = narrowed(request.want, cardReading(card.reading));
    const facts = { path: card.path, profile: 'card', fit: 100, limits: CARD_LIMITS };
    yield* this.give(facts, reading);
    return card.files;
  }

  /** Reads the chat logs among the texts; returns their files. */
  private async *examineLogs(
    tree: Tree,
    read: ReadonlySet<TreeFile>
  ): AsyncGenerator<PassEvent, TreeFile[]> {
    const { source, request } = this;
    if (!request.want.kinds.has('messages')) return [];
    const texts = tree.files.filter((file) => !read.has(file));
    const work = findLogs(texts, request.zone);
    let step = work.next();
    for (; !step.done; step = work.next()) {
      if (step.value) yield this.note(failureNote(step.value.error, step.value.path, this.isOne));
      if (this.pace.due) await this.pace.rest();
    }
    for (const group of step.value) {
      if (source.kind === 'unrecognised') source.kind = 'log';
      for (const { file } of group.files) this.used.add(file.origin);
      const reading = logReading(group, (name) => this.finder.has(name));
      const zoned = group.logs.some(({ log }) => log.zoneless) ? [zoneSentence(request.zone)] : [];
      const limits = [...logLimits(group), ...zoned];
      const facts = { path: group.path, profile: 'text-log', fit: 100, limits };
      yield* this.give(facts, narrowed(request.want, reading));
    }
    const lined = step.value.flatMap(({ files }) => files);
    const rest = texts.filter((file) => !lined.includes(file));
    return [...lined, ...(yield* this.examineTables(rest))];
  }

  /** Reads structured logs; returns their files. */
  private async *examineTables(texts: TreeFile[]): AsyncGenerator<PassEvent, TreeFile[]> {
    const found: { table: LogTable; file: TreeFile }[] = [];
    for (const file of texts) {
      if (this.pace.due) await this.pace.rest();
      try {
        for (const table of tablesOfFile(file)) found.push({ table, file });
      } catch (error) {
        yield this.note(failureNote(error, file.file.path, this.isOne));
      }
    }
    const read: TreeFile[] = [];
    for (const group of grouped(found)) {
      if (this.pace.due) await this.pace.rest();
      try {
        append(read, yield* this.examineTable(group));
      } catch (error) {
        yield this.note(failureNote(error, group.path, this.isOne));
      }
    }
    return read;
  }

  /** Reads tables that are alike; returns the files of which something was read. */
  private async *examineTable(group: LogTables): AsyncGenerator<PassEvent, TreeFile[]> {
    const { zone, want } = this.request;
    const log = readTables(group, zone);
    if (!log) return [];
    if (this.source.kind === 'unrecognised') this.source.kind = 'log';
    for (const { file } of log.files) this.used.add(file.origin);
    const { profile, fit, reasons } = log.choice;
    const zoned = log.isZoneless ? [zoneSentence(zone)] : [];
    const limits = [LOG_LIMIT, ...reasons, ...zoned];
    yield* this.give(
      { path: log.path, profile: profile.id, fit, limits },
      narrowed(want, log.reading)
    );
    return log.files;
  }

  /** Gives what was read of something that is no database. */
  private async *give(
    facts: Pick<StoreFacts, 'path' | 'profile' | 'fit' | 'limits'>,
    reading: StoreReading
  ): AsyncGenerator<PassEvent> {
    const { source, request } = this;
    const id = this.storeId(facts.path, facts.profile);
    const full = { ...facts, id, source: source.id };
    const isDoubtful = this.doubts.concern(facts.path);
    const pass = isDoubtful ? withoutFrame(request) : request;
    const given = { pass, final: true, crew: null };
    for (const note of this.doubts.take()) yield this.note(note);
    yield* this.told(giveStore(full, listedStream(reading), reading, given), isDoubtful);
  }

  private async *mentionOthers(
    tree: Tree,
    candidates: Candidate[],
    read: ReadonlySet<TreeFile>
  ): AsyncGenerator<PassEvent> {
    const anyRead =
      read.size > 0 || this.source.inside.candidates.some((candidate) => candidate.read);
    for (const { path, read: wasRead, readings } of this.source.inside.candidates) {
      // Where tables are offered to be read, that has been said.
      if (!wasRead && !readings && candidates.length === 1) yield this.note(noMessages(path));
    }
    if (tree.files.length === 0) yield this.note(nothing(this.source.name));
    const used = new Set(candidates.flatMap(({ main, wal, journal }) => [main, wal, journal]));
    const plain = tree.files.filter(
      (file) =>
        !used.has(file) &&
        !read.has(file) &&
        !isCompanion(file) &&
        !this.carved.has(file.file) &&
        // A file that a message came with is no stray.
        !this.digests.has(file.file.path)
    );
    const alone = tree.files.length === 1 && plain.length === 1 && tree.packages.length === 0;
    if (alone) yield this.note((await describeOther(plain[0]!.file)).note);
    else if (anyRead && plain.length > 0 && tree.packages.length === 0)
      yield this.note(otherFiles(plain));
    else if (!anyRead && candidates.length === 0 && tree.files.length > 0 && !hasLock(tree))
      yield this.note(noStores(this.source.name, tree.files));
  }

  /** Lists the files of the source, with checksums unless only the stores were to be read. */
  private async *list(tree: Tree): AsyncGenerator<PassEvent> {
    yield* this.listCarved();
    const { depth, want } = this.request;
    if (tree.files.length <= 1 && tree.packages.length === 0) return;
    const batch: FileRecord[] = [];
    for (const [i, { file, mark }] of tree.files.entries()) {
      // Documents of a known kind can begin with nothing but text.
      const own = await mimeOf(file.locked ? NO_BYTES : file.head());
      const mime = own ?? (mark === 'text' ? 'text/plain' : null);
      if (!want.kinds.has('files') && !isMedia(mime)) continue;
      const sha256 =
        depth === 'indexed' ? null : (this.hashes.of(file) ?? (yield* this.sha256Of(file)));
      batch.push(fileRecord(this.source.id, file, mime, sha256));
      if (this.pace.due) await this.pace.rest();
      if (this.pace.mayReport()) yield this.progress.event('files', i, tree.files.length);
      if (batch.length >= BATCH) yield { type: 'files', files: batch.splice(0) };
    }
    if (batch.length > 0) yield { type: 'files', files: batch };
  }

  private async *listCarved(): AsyncGenerator<PassEvent> {
    const { want, hasher } = this.request;
    for (const { file, source, carved } of this.carvedFiles) {
      const files: FileRecord[] = [];
      for (const one of carved.files) {
        if (!want.kinds.has('files') && !isMedia(one.mime)) continue;
        const hash = await hasher();
        for (let at = 0; at < one.size; at += HASH_STEP)
          hash.update(source.read(one.offset + at, Math.min(HASH_STEP, one.size - at)));
        files.push(carvedRecord(this.source.id, file, one, hash.digest()));
        if (this.pace.due) await this.pace.rest();
      }
      if (files.length > 0) yield { type: 'files', files };
    }
  }

  private async *sha256Of(file: ListedFile): AsyncGenerator<PassEvent, string | null> {
    if (file.locked) return null;
    return (yield* this.digest(file))?.sha256 ?? null;
  }
}

const CARD_LIMITS = [
  'All records of the card were read, including free ones. An overwritten record keeps nothing of its old content.'
];

function zoneSentence(zone: string): string {
  return `Its times are written without a zone; they were read as times in ${zone}.`;
}

const LOG_LIMIT =
  'A text log keeps no deleted lines: what was removed from it cannot be recovered from it.';

function withoutFrame({ frame: _, ...request }: PassRequest): PassRequest {
  return request;
}

const BATCH = 1000;
const HASH_STEP = 1 << 20;
const NO_BYTES = new Uint8Array(0);

function hasLock(tree: Tree): boolean {
  return tree.packages.some(({ lock }) => lock !== null);
}

function withoutNulls<T extends object>(facts: T): Partial<T> {
  return Object.fromEntries(
    Object.entries(facts).filter(([, value]) => value !== null)
  ) as Partial<T>;
}
