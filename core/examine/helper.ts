import type { ByteSource } from '../host';
import { reopen } from '../formats';
import {
  columnsTransfer,
  openDatabase,
  PageUses,
  readColumns,
  searchShare,
  transferOf,
  type Damaged,
  type Database,
  type DatabaseFiles,
  type LeafColumns,
  type PageRange,
  type SearchCrew,
  type ShareFound,
  type SharePlan
} from '../sqlite';
import { leavesOf } from '../profiles';
import {
  linesTransfer,
  LineThread,
  type LinesCrew,
  type LinesFound,
  type LinesPlan,
  type LinesTask
} from '../messages';

/** What a host can open a file's bytes by in another thread; must be cloneable. */
export type FileHandle = unknown;

/** What another thread is asked to do. */
export type HelperTask =
  | { type: 'open'; main: FileHandle; wal: FileHandle | null; journal: FileHandle | null }
  | { type: 'leaves'; leaves: Uint32Array }
  | { type: 'plan'; plan: SharePlan }
  | { type: 'search'; range: PageRange }
  | { type: 'table'; plan: LinesPlan }
  | { type: 'write'; task: LinesTask };

export type HelperAnswer =
  | { type: 'ready' }
  | { type: 'rows'; rows: LeafColumns | Damaged }
  | { type: 'found'; found: ShareFound }
  | { type: 'written'; written: LinesFound };

/** Another thread that does tasks one after the other. */
export interface Helper {
  /** Rejects when the task failed or the thread died. */
  ask(task: HelperTask): Promise<HelperAnswer>;
}

/** Starts a thread for a pass, or more of them. */
export interface HelperPool {
  readonly size: number;
  get(index: number): Helper;
}

/** The thread's side: answers tasks, with the memory that can be handed over. */
export class HelperThread {
  private database: Database | null = null;
  private share: { plan: SharePlan; uses: PageUses } | null = null;
  private lines: LineThread | null = null;

  /** @param host opens a file by the host's own handle */
  constructor(private readonly host: (handle: FileHandle) => ByteSource) {}

  /** @throws SqliteFormatError, or what reading the files throws; the asking thread then does the task itself. */
  answer(task: HelperTask): { answer: HelperAnswer; transfer: ArrayBuffer[] } {
    switch (task.type) {
      case 'open':
        this.database = openDatabase(this.filesOf(task), []).database;
        return READY;
      case 'leaves': {
        const rows = readColumns(known(this.database), task.leaves);
        return { answer: { type: 'rows', rows }, transfer: columnsTransfer(rows) };
      }
      case 'plan':
        this.share = { plan: task.plan, uses: PageUses.unpack(task.plan.uses) };
        return READY;
      case 'search': {
        const found = this.search(task.range);
        return { answer: { type: 'found', found }, transfer: transferOf(found) };
      }
      case 'table':
        this.lines = new LineThread(leavesOf(known(this.database)), task.plan);
        return READY;
      case 'write': {
        const written = known(this.lines).write(task.task);
        return { answer: { type: 'written', written }, transfer: linesTransfer(written) };
      }
    }
  }

  private filesOf({ main, wal, journal }: Extract<HelperTask, { type: 'open' }>): DatabaseFiles {
    const files: DatabaseFiles = { main: reopen(main, this.host) };
    if (wal !== null) files.wal = reopen(wal, this.host);
    if (journal !== null) files.journal = reopen(journal, this.host);
    return files;
  }

  private search(range: PageRange): ShareFound {
    const { plan, uses } = known(this.share);
    const work = searchShare(known(this.database), plan.layouts, uses, range);
    let step = work.next();
    while (!step.done) step = work.next();
    return step.value;
  }
}

const READY: { answer: HelperAnswer; transfer: ArrayBuffer[] } = {
  answer: { type: 'ready' },
  transfer: []
};

function known<T>(value: T | null): T {
  if (value === null) throw new Error('a task came before what it needs');
  return value;
}

/** The threads that help with one database. */
export interface Crew {
  /** Lets the threads start while there is nothing for them to do yet. */
  start(): void;
  search: SearchCrew;
  lines: LinesCrew;
  /** Why helpers failed; what they left the pass does itself. */
  readonly failures: ReadonlySet<string>;
}

/** The crew for a database's files; null when they can be read in this thread alone. */
export function crewFor(pool: HelperPool | undefined, files: DatabaseFiles): Crew | null {
  if (!pool || pool.size === 0) return null;
  const handles = [files.main, files.wal, files.journal].map((file) => (file ? file.handle : null));
  if (handles.includes(undefined)) return null;
  const [main, wal, journal] = handles;
  let helpers: Promise<Helper>[] | null = null;
  const failures = new Set<string>();
  const watched = <T>(work: Promise<T>): Promise<T> => {
    work.catch((error: Error) => failures.add(error.message));
    return work;
  };
  const opened = (): Promise<Helper>[] =>
    (helpers ??= Array.from({ length: pool.size }, (_, i) =>
      then(Promise.resolve(pool.get(i)), { type: 'open', main, wal, journal })
    ));
  return {
    start: () => void opened(),
    search: {
      readers: () =>
        opened().map((ready) => ({
          read: (leaves) => watched(ready.then((helper) => readIn(helper, leaves)))
        })),
      begin: (plan) =>
        opened().map((helper) => {
          const ready = then(helper, { type: 'plan', plan });
          return { search: (range) => watched(ready.then((helper) => searchIn(helper, range))) };
        })
    },
    lines: (plan) =>
      opened().map((helper) => {
        const ready = then(helper, { type: 'table', plan });
        return { write: (task) => watched(ready.then((helper) => writeIn(helper, task))) };
      }),
    failures
  };
}

/** A helper, once it has done one more task. */
function then(helper: Promise<Helper>, task: HelperTask): Promise<Helper> {
  const done = helper.then((helper) => helper.ask(task).then(() => helper));
  // A failure is met by who asks next, if anyone does.
  done.catch(() => undefined);
  return done;
}

async function readIn(helper: Helper, leaves: Uint32Array): Promise<LeafColumns | Damaged> {
  const answer = await helper.ask({ type: 'leaves', leaves });
  if (answer.type !== 'rows') throw new Error(`leaves were answered by ${answer.type}`);
  return answer.rows;
}

async function searchIn(helper: Helper, range: PageRange): Promise<ShareFound> {
  const answer = await helper.ask({ type: 'search', range });
  if (answer.type !== 'found') throw new Error(`a search was answered by ${answer.type}`);
  return answer.found;
}

async function writeIn(helper: Helper, task: LinesTask): Promise<LinesFound> {
  const answer = await helper.ask({ type: 'write', task });
  if (answer.type !== 'written') throw new Error(`writing was answered by ${answer.type}`);
  return answer.written;
}
