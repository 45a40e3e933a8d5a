import type { ByteSource } from '../../host';
import { assemble, carveByContent, fileAt, scanMedium } from '../../formats/rawimage';
import type { ListedFile, Tree, TreeFile } from '../../formats';
import { holdsPages, linksAgree, type OpenedDatabase, type TableSchema } from '../../sqlite';
import { openNow } from '../attachments';
import { carvedNote } from '../notes';
import { isCompanion, withCompanions, type Candidate } from '../recognise';
import type { CarvedFiles } from '../types';
import type { StoreReader } from './reader';

/** Where pages are looked for in a file of unknown kind. */
const HEAD_SEARCHED = 256 * 1024;

/** A database that was put together from a file of unknown kind. */
interface CarvedStore {
  file: ListedFile;
  source: ByteSource;
  /** What the store is called: the file and the offset of its first page. */
  path: string;
  opened: OpenedDatabase;
}

/** What is searched in raw bytes: everything of unknown kind, or only what no file of a medium claims. */
type Searched = 'all' | 'media';

function isUnallocated({ file }: TreeFile): boolean {
  return file.isUnallocated === true;
}

/** Files of unknown kind, which may hold pages of databases. */
function unknownFiles({ files }: Tree, candidates: readonly Candidate[]): TreeFile[] {
  const taken = new Set(candidates.map(({ main }) => main));
  return files.filter(
    (file) => file.mark === 'other' && !isCompanion(file) && !file.file.locked && !taken.has(file)
  );
}

/**
 * Files that are databases although their first page is damaged. With
 * `strict` their page numbers must be borne out, or they are a medium to be
 * carved. Yields after each file looked at.
 */
export function* damagedDatabases(
  tree: Tree,
  candidates: readonly Candidate[],
  strict: boolean
): Generator<void, Candidate[]> {
  const found: Candidate[] = [];
  for (const main of unknownFiles(tree, candidates)) {
    yield;
    const source = isUnallocated(main) ? null : openNow(main.file);
    if (!source || !holdsPages(source.read(0, HEAD_SEARCHED))) continue;
    if (!strict || linksAgree(source)) found.push(withCompanions(main, tree.files));
  }
  return found;
}

/** Searches the raw bytes of files of unknown kind; yields bytes done and total, then stores as they are put together. */
function* carveFiles(
  tree: Tree,
  candidates: readonly Candidate[],
  known: TableSchema[],
  searched: Searched
): Generator<{ done: number; total: number } | CarvedStore | CarvedFiles> {
  for (const main of unknownFiles(tree, candidates)) {
    const { file } = main;
    const source = searched === 'all' || isUnallocated(main) ? openNow(file) : null;
    if (!source) continue;
    const own = fileAt(source, 0);
    // A picture or recording to its last byte: what looks like a page in it is chance.
    if (own?.size === source.size) continue;
    const scan = scanMedium(source);
    let step = scan.next();
    for (; !step.done; step = scan.next()) yield { done: step.value, total: source.size };
    for (const { database, offset, told } of assemble(source, step.value, known)) {
      const path = offset === null ? file.path : `${file.path} at ${offset}`;
      yield { file, source, path, opened: { database, told } };
    }
    // Behind a picture there may be anything, but what begins as one is no medium.
    if (own) continue;
    const files = carveByContent(source);
    let found = files.next();
    for (; !found.done; found = files.next()) yield { done: found.value, total: source.size };
    const carved = found.value;
    if (carved.files.length > 0 || carved.leftAt !== null) yield { file, source, carved };
  }
}

/** What lies in raw bytes: databases put together from their pages, and files told by their content. */
export const RAW_DATA: StoreReader = {
  id: 'raw-data',

  async *read(exam) {
    const { depth } = exam.request;
    if (depth === 'indexed') return;
    const searched = depth === 'whole' ? 'all' : 'media';
    for (const step of carveFiles(exam.tree, exam.databases, exam.known, searched)) {
      if (exam.pace.due) await exam.pace.rest();
      if ('done' in step) {
        const { done, total } = step;
        if (exam.pace.mayReport()) yield exam.progress.event('carve', done, total);
        continue;
      }
      exam.used.add(step.file.origin);
      exam.carved.add(step.file);
      exam.isA('medium');
      if ('carved' in step) {
        exam.carvedFiles.push(step);
        yield exam.note(carvedNote(step));
      } else {
        const { path, opened, file } = step;
        const store = { files: { main: step.source }, path, opened, modifiedAt: file.modifiedAt };
        yield* exam.database({ ...store, mayWait: false });
      }
    }
  }
};
