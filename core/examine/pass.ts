import {
  listSource,
  openListed,
  plainFile,
  type ListedFile,
  type SourceListing,
  type Tree
} from '../formats';
import type { FileRecord, Note } from '../records';
import { mimeOf } from './attachments';
import { Examination } from './examination';
import { carvedRecord, fileRecord, isMedia, isMediaName } from './file-list';
import { lockNote, noMessages, noStores, nothing, otherFiles } from './notes';
import { StoppedError } from './pace';
import { READERS } from './readers';
import { describeOther, isCompanion, kindOf } from './recognise';
import type { PassEvent, PassRequest } from './types';

/**
 * One examination of one source, from its bytes to records, as a stream of
 * events. Damage in one place never ends it; an aborted signal does, and what
 * was found until then stays reported.
 */
export async function* runPass(request: PassRequest): AsyncGenerator<PassEvent> {
  const pass = new Pass(new Examination(request));
  try {
    yield* pass.run();
  } catch (error) {
    if (!(error instanceof StoppedError)) throw error;
    yield { type: 'done', source: pass.exam.source, stopped: true };
  }
}

/** The order of an examination: open, recognise, hash, read, say what was left, list. */
class Pass {
  constructor(readonly exam: Examination) {}

  async *run(): AsyncGenerator<PassEvent> {
    const { exam } = this;
    const { source } = exam;
    const { input, depth, want } = exam.request;
    for (const note of source.notes) yield { type: 'note', note };
    exam.opened(yield* this.open());
    for (const { find } of READERS) if (find) yield* exam.guard(find(exam), undefined);
    source.kind = kindOf(exam.tree, exam.databases, input.files.length);
    yield { type: 'source', source };
    if (depth !== 'indexed') yield* exam.hash(input.files);
    for (const { read } of READERS) yield* exam.guard(read(exam), undefined);
    yield* this.mentionOthers();
    if (want.kinds.has('files') || want.kinds.has('media')) yield* this.list();
    if (depth === 'indexed')
      yield* exam.hash(
        input.files.filter(({ name, sha256 }) => sha256 !== undefined || exam.used.has(name))
      );
    for (const note of exam.doubts.take()) yield exam.note(note);
    for (const failure of await exam.hashes.settled()) yield* exam.unhashed(failure);
    source.sha256 = await exam.hashes.joined(input.files);
    yield { type: 'done', source, stopped: false };
  }

  /** Opens packages to any depth. */
  private async *open(): AsyncGenerator<PassEvent, Tree> {
    const { exam } = this;
    const { input, keys, scratch, depth } = exam.request;
    const files = input.files.map((file) => plainFile(file.name, file));
    const opening = { keys, scratch, doubt: (note: Note) => exam.doubts.add(note) };
    const listing = yield* exam.steps(listSource(input.name, files, opening));
    yield* this.listed(listing);
    // A quick look goes by what the store itself lists; names of pictures are believed then.
    const skips = depth === 'indexed' ? isMediaName : () => false;
    const tree = yield* exam.steps(openListed(listing, opening, skips));
    exam.isFrom(tree.device);
    exam.source.inside.files = tree.files.length;
    exam.source.inside.packages = tree.packages;
    for (const note of tree.notes) yield exam.note(note);
    for (const { path, lock } of tree.packages)
      if (lock) yield exam.note(lockNote(path, lock.reason));
    return tree;
  }

  /** Tells what was recognised before anything is looked into. */
  private async *listed({ files, tree }: SourceListing): AsyncGenerator<PassEvent> {
    const { exam } = this;
    const { source } = exam;
    const [first] = tree.packages;
    if (first) source.kind = first.kind;
    source.inside.files = files.length;
    source.inside.packages = [...tree.packages];
    exam.isFrom(tree.device);
    yield { type: 'source', source };
  }

  private async *mentionOthers(): AsyncGenerator<PassEvent> {
    const { tree, databases, read, source } = this.exam;
    const anyRead = read.size > 0 || source.inside.candidates.some((candidate) => candidate.read);
    for (const { path, read: wasRead, readings } of source.inside.candidates) {
      // Where tables are offered to be read, that has been said.
      if (!wasRead && !readings && databases.length === 1) yield this.exam.note(noMessages(path));
    }
    if (tree.files.length === 0) yield this.exam.note(nothing(source.name));
    const used = new Set(databases.flatMap(({ main, wal, journal }) => [main, wal, journal]));
    const plain = tree.files.filter(
      (file) =>
        !used.has(file) &&
        !read.has(file) &&
        !isCompanion(file) &&
        !file.file.isUnallocated &&
        !this.exam.carved.has(file.file) &&
        // A file that a message came with is no stray.
        !this.exam.digests.has(file.file.path)
    );
    const alone = tree.files.length === 1 && plain.length === 1 && tree.packages.length === 0;
    if (alone) yield this.exam.note((await describeOther(plain[0]!.file)).note);
    else if (anyRead && plain.length > 0 && tree.packages.length === 0)
      yield this.exam.note(otherFiles(plain));
    else if (!anyRead && databases.length === 0 && tree.files.length > 0 && !hasLock(tree))
      yield this.exam.note(noStores(source.name, tree.files));
  }

  /** Lists the files of the source, with checksums unless only the stores were to be read. */
  private async *list(): AsyncGenerator<PassEvent> {
    yield* this.listCarved();
    const { exam } = this;
    const { depth, want } = exam.request;
    const { tree } = exam;
    if (tree.files.length <= 1 && tree.packages.length === 0) return;
    const batch: FileRecord[] = [];
    for (const [i, { file, mark }] of tree.files.entries()) {
      if (file.isUnallocated) continue;
      // Documents of a known kind can begin with nothing but text.
      const own = await mimeOf(file.locked ? NO_BYTES : file.head());
      const mime = own ?? (mark === 'text' ? 'text/plain' : null);
      if (!want.kinds.has('files') && !isMedia(mime)) continue;
      const sha256 =
        depth === 'indexed' ? null : (exam.hashes.of(file) ?? (yield* this.sha256Of(file)));
      batch.push(fileRecord(exam.source.id, file, mime, sha256));
      if (exam.pace.due) await exam.pace.rest();
      if (exam.pace.mayReport()) yield exam.progress.event('files', i, tree.files.length);
      if (batch.length >= BATCH) yield { type: 'files', files: batch.splice(0) };
    }
    if (batch.length > 0) yield { type: 'files', files: batch };
  }

  private async *listCarved(): AsyncGenerator<PassEvent> {
    const { exam } = this;
    const { want, hasher } = exam.request;
    for (const { file, source, carved } of exam.carvedFiles) {
      const files: FileRecord[] = [];
      for (const one of carved.files) {
        if (!want.kinds.has('files') && !isMedia(one.mime)) continue;
        const hash = await hasher();
        for (let at = 0; at < one.size; at += HASH_STEP)
          hash.update(source.read(one.offset + at, Math.min(HASH_STEP, one.size - at)));
        files.push(carvedRecord(exam.source.id, file, one, hash.digest()));
        if (exam.pace.due) await exam.pace.rest();
      }
      if (files.length > 0) yield { type: 'files', files };
    }
  }

  private async *sha256Of(file: ListedFile): AsyncGenerator<PassEvent, string | null> {
    if (file.locked) return null;
    return (yield* this.exam.digest(file))?.sha256 ?? null;
  }
}

const BATCH = 1000;
const HASH_STEP = 1 << 20;
const NO_BYTES = new Uint8Array(0);

function hasLock(tree: Tree): boolean {
  return tree.packages.some(({ lock }) => lock !== null);
}
