import type { ByteSource } from '../bytes';
import {
  openDatabase,
  PageUses,
  searchShare,
  transferOf,
  type Database,
  type DatabaseFiles,
  type PageRange,
  type SearchCrew,
  type ShareFound,
  type SharePlan
} from '../sqlite';

/** What a host can open a file's bytes by in another thread; must be cloneable. */
export type FileHandle = unknown;

/** What another thread is asked to do. */
export type HelperTask =
  | {
      type: 'begin';
      main: FileHandle;
      wal: FileHandle | null;
      journal: FileHandle | null;
      plan: SharePlan;
    }
  | { type: 'search'; range: PageRange };

export type HelperAnswer = { type: 'ready' } | { type: 'found'; found: ShareFound };

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
  private opened: { database: Database; plan: SharePlan; uses: PageUses } | null = null;

  constructor(private readonly reopen: (handle: FileHandle) => ByteSource) {}

  /** @throws SqliteFormatError, or what reading the files throws; the asking thread then does the task itself. */
  answer(task: HelperTask): { answer: HelperAnswer; transfer: ArrayBuffer[] } {
    switch (task.type) {
      case 'begin': {
        const files = this.filesOf(task);
        const { database } = openDatabase(files, []);
        this.opened = { database, plan: task.plan, uses: PageUses.unpack(task.plan.uses) };
        return { answer: { type: 'ready' }, transfer: [] };
      }
      case 'search': {
        const found = this.search(task.range);
        return { answer: { type: 'found', found }, transfer: transferOf(found) };
      }
    }
  }

  private filesOf({ main, wal, journal }: Extract<HelperTask, { type: 'begin' }>): DatabaseFiles {
    const files: DatabaseFiles = { main: this.reopen(main) };
    if (wal !== null) files.wal = this.reopen(wal);
    if (journal !== null) files.journal = this.reopen(journal);
    return files;
  }

  private search(range: PageRange): ShareFound {
    if (!this.opened) throw new Error('no database was opened');
    const { database, plan, uses } = this.opened;
    const work = searchShare(database, plan.layouts, uses, range);
    let step = work.next();
    while (!step.done) step = work.next();
    return step.value;
  }
}

/** The crew that searches a database's files; null when they can be read in this thread alone. */
export function crewFor(pool: HelperPool | undefined, files: DatabaseFiles): SearchCrew | null {
  if (!pool || pool.size === 0) return null;
  const handles = [files.main, files.wal, files.journal].map((file) => (file ? file.handle : null));
  if (handles.includes(undefined)) return null;
  const [main, wal, journal] = handles;
  return {
    begin: (plan) =>
      Array.from({ length: pool.size }, (_, i) => {
        const helper = pool.get(i);
        const ready = helper.ask({ type: 'begin', main, wal, journal, plan });
        return { search: (range) => ready.then(() => searchIn(helper, range)) };
      })
  };
}

async function searchIn(helper: Helper, range: PageRange): Promise<ShareFound> {
  const answer = await helper.ask({ type: 'search', range });
  if (answer.type !== 'found') throw new Error(`a search was answered by ${answer.type}`);
  return answer.found;
}
