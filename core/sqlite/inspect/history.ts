import { u16be, u32be } from '../../host';
import type { Database } from '../read/database';
import { hashBytes } from '../format/hash';
import { readCell, readPageHeader, TABLE_INTERIOR, TABLE_LEAF, type Cell } from '../format/page';
import type { TableSchema } from '../format/schema';
import type { WalFrame, WriteAheadLog } from '../format/wal';

/**
 * One state of a database that its files still hold: the file itself, each
 * commit of the log, what a restart of the log left behind, what was never
 * committed, or what stood before the journal's transaction.
 */
export interface FileState {
  kind: 'older' | 'before' | 'file' | 'commit' | 'open';
  /** Which of its kind, from 1. */
  number: number;
  /** Page images of which it consists beyond the file's own. */
  images: number;
  page(number: number): Uint8Array | null;
}

/** What became of a row between two states. */
export interface RowEvent {
  what: 'there' | 'inserted' | 'changed' | 'deleted';
  state: Pick<FileState, 'kind' | 'number'>;
  /** Highest row numbers of the table before and after: they bound when it happened. */
  newestBefore: number | null;
  newestAfter: number | null;
}

/** The states that a database's files hold, oldest first. */
export function statesOf(database: Database): FileState[] {
  const { log, journal, pages } = database;
  const { file, pageSize } = pages;
  const inFile = (number: number): Uint8Array | null => {
    const bytes = file.read((number - 1) * pageSize, pageSize);
    return bytes.length === pageSize ? bytes : null;
  };
  const asIs: FileState = { kind: 'file', number: 1, images: 0, page: inFile };
  if (log) return logStates(log, asIs);
  if (!journal || journal.pages.length === 0) return [asIs];
  const images = new Map(journal.pages.map(({ page, offset }) => [page, offset]));
  const before: FileState = {
    kind: 'before',
    number: 1,
    images: images.size,
    page: (number) => {
      const offset = images.get(number);
      return offset === undefined ? inFile(number) : journal.source.read(offset, pageSize);
    }
  };
  return [before, journal.hot ? { ...asIs, kind: 'open' } : asIs];
}

function logStates(log: WriteAheadLog, file: FileState): FileState[] {
  const valid = log.frames.filter((frame) => frame.valid);
  // What a restart left behind was copied into the file before the first of today's frames was written.
  const older = sequence(log, file, log.frames.slice(valid.length), 'older', log.frames.length);
  return [...older, file, ...sequence(log, file, valid, 'commit', log.committed)];
}

/** A state for each commit among frames, and one for what follows the last of them. */
function sequence(
  log: WriteAheadLog,
  file: FileState,
  frames: readonly WalFrame[],
  kind: 'older' | 'commit',
  committed: number
): FileState[] {
  const states: FileState[] = [];
  const byPage = new Map<number, WalFrame[]>();
  let images = 0;
  for (const [i, frame] of frames.entries()) {
    const list = byPage.get(frame.page);
    if (list) list.push(frame);
    else byPage.set(frame.page, [frame]);
    images++;
    const isLast = i === frames.length - 1;
    if (frame.commitSize === 0 && !isLast) continue;
    const page = (number: number): Uint8Array | null => {
      const seen = byPage.get(number)?.findLast(({ index }) => index <= frame.index);
      return seen ? log.source.read(seen.offset, log.pageSize) : file.page(number);
    };
    const isOpen = kind === 'commit' && frame.index >= committed;
    states.push({ kind: isOpen ? 'open' : kind, number: 0, images, page });
    images = 0;
  }
  const counts = { older: 0, before: 0, file: 0, commit: 0, open: 0 };
  return states.map((state) => ({ ...state, number: ++counts[state.kind] }));
}

const DEEPEST = 24;

/** What happened to a row from state to state; states whose pages do not lead to it are passed over. */
export function lifeOf(
  states: readonly FileState[],
  table: TableSchema,
  rowid: number,
  usable: number
): RowEvent[] {
  const events: RowEvent[] = [];
  let before: { hash: number | null; newest: number | null } | null = null;
  for (const state of states) {
    const found = find(state, table.root, rowid, usable);
    if (found === undefined) continue;
    const newest = lastNumber(state, table.root, usable);
    const what = before === null ? first(found) : change(before.hash, found);
    if (what) {
      const { kind, number } = state;
      const newestBefore = before?.newest ?? null;
      events.push({ what, state: { kind, number }, newestBefore, newestAfter: newest });
    }
    before = { hash: found, newest };
  }
  return events;
}

function first(found: number | null): RowEvent['what'] | null {
  return found === null ? null : 'there';
}

function change(before: number | null, after: number | null): RowEvent['what'] | null {
  if (before === after) return null;
  if (before === null) return 'inserted';
  return after === null ? 'deleted' : 'changed';
}

/** A hash of a row in a state; null where it is not in the tree, undefined where the tree cannot be followed to it. */
function find(
  state: FileState,
  root: number,
  rowid: number,
  usable: number
): number | null | undefined {
  let number = root;
  for (let depth = 0; depth < DEEPEST; depth++) {
    const page = state.page(number);
    const header = page && readPageHeader(page, number);
    if (!page || !header) return undefined;
    const cells = cellsOn(page, header.pointers, header.cellCount, header.kind, usable);
    if (!cells) return undefined;
    if (header.kind === TABLE_LEAF) {
      const cell = cells.find((one) => one.rowid === rowid);
      return cell ? hashBytes(page.subarray(cell.payloadStart, cell.end)) : null;
    }
    if (header.kind !== TABLE_INTERIOR) return undefined;
    const next = cells.find((cell) => Number(cell.rowid) >= rowid);
    number = next ? next.leftChild : header.rightChild;
  }
  return undefined;
}

function cellsOn(
  page: Uint8Array,
  pointers: number,
  count: number,
  kind: number,
  usable: number
): Cell[] | null {
  const cells: Cell[] = [];
  for (let i = 0; i < count; i++) {
    const cell = readCell(page, kind, u16be(page, pointers + 2 * i), usable);
    if (!cell) return null;
    cells.push(cell);
  }
  return cells;
}

/** The highest row number of a tree in a state. */
function lastNumber(state: FileState, root: number, usable: number): number | null {
  let number = root;
  for (let depth = 0; depth < DEEPEST; depth++) {
    const page = state.page(number);
    const header = page && readPageHeader(page, number);
    if (!page || !header) return null;
    if (header.kind === TABLE_INTERIOR) {
      number = u32be(page, header.start + 8);
      continue;
    }
    if (header.kind !== TABLE_LEAF || header.cellCount === 0) return null;
    const at = u16be(page, header.pointers + 2 * (header.cellCount - 1));
    const rowid = readCell(page, TABLE_LEAF, at, usable)?.rowid;
    return typeof rowid === 'number' ? rowid : null;
  }
  return null;
}
