import { u32be } from '../../host';
import { cellsOf, holdsRecords, walkTree } from '../format/btree';
import type { Database } from '../read/database';
import { trunks } from '../format/freelist';
import { LeafCells } from '../format/leaf-cells';
import { readLeaf } from '../read/leaves';
import type { TreeObserver } from '../read/live-rows';
import type { PageSet } from '../format/pages';

/** What a page is used for in the committed state. */
export type PageRole = 'tree' | 'overflow' | 'trunk' | 'free' | 'map' | 'lock' | 'unknown';

export interface PageUse {
  role: PageRole;
  /** Name of the table or index whose tree the page belongs to. */
  owner: string | null;
  /** First byte that is not in use: behind a trunk's list or an overflow page's payload. */
  slack: number;
}

/** The uses of all pages in a form that can be handed from thread to thread. */
export interface PackedUses {
  /** Each use once. */
  kinds: PageUse[];
  /** By page number, the index of its use. */
  indexes: Uint32Array;
}

/** The use of every page, by page number. */
export class PageUses {
  private readonly uses: (PageUse | undefined)[] = [];

  static unpack({ kinds, indexes }: PackedUses): PageUses {
    const uses = new PageUses();
    for (let number = 0; number < indexes.length; number++)
      uses.set(number, kinds[indexes[number]!]!);
    return uses;
  }

  pack(): PackedUses {
    const known = new Map<PageUse, number>([[UNKNOWN, 0]]);
    const indexes = new Uint32Array(this.uses.length);
    for (let number = 0; number < indexes.length; number++) {
      const use = this.get(number);
      let index = known.get(use);
      if (index === undefined) known.set(use, (index = known.size));
      indexes[number] = index;
    }
    return { kinds: [...known.keys()], indexes };
  }

  get(number: number): PageUse {
    return this.uses[number] ?? UNKNOWN;
  }
  set(number: number, use: PageUse): void {
    this.uses[number] = use;
  }
  /** Pages of the free list that were reached. */
  countFree(): number {
    return this.uses.filter((use) => use?.role === 'free' || use?.role === 'trunk').length;
  }
  isLive(number: number): boolean {
    const role = this.get(number).role;
    return role === 'tree' || role === 'overflow';
  }
}

const UNKNOWN: PageUse = { role: 'unknown', owner: null, slack: 0 };

/** What was worked out of a database, and for how many roots that damage cut off. */
const known = new WeakMap<Database, { uses: PageUses; adopted: number }>();

/** What the pages of a tree tell of their use as somebody goes over it. */
export class TreeNotes implements TreeObserver {
  private readonly use: PageUse;

  constructor(
    private readonly pages: PageSet,
    private readonly uses: PageUses,
    private readonly owner: string
  ) {
    this.use = { role: 'tree', owner, slack: pages.usable };
  }

  page(number: number): void {
    this.uses.set(number, this.use);
  }

  spill(first: number, bytes: number): void {
    mapChain(this.pages, this.uses, first, bytes, this.owner);
  }
}

/** Tables whose trees were gone over already, and what that told. */
interface Noted {
  uses: PageUses;
  owners: Set<string>;
}

const noted = new WeakMap<Database, Noted>();

/** Takes note of the pages of a table's tree; once all were seen, `end` saves {@link mapPages} from going over them again. */
export function noteTree(database: Database, owner: string): { notes: TreeNotes; end(): void } {
  let known = noted.get(database);
  if (!known) noted.set(database, (known = { uses: new PageUses(), owners: new Set() }));
  const { uses, owners } = known;
  return { notes: new TreeNotes(database.pages, uses, owner), end: () => void owners.add(owner) };
}

/**
 * Finds out what every page is used for by walking all trees, their overflow
 * chains and the free list. The answer is kept, so do not change it.
 */
export function mapPages(database: Database): PageUses {
  const adopted = [...database.adopted.values()].flat().length;
  const before = known.get(database);
  if (before?.adopted === adopted) return before.uses;
  const work = mapPagesInSteps(database, adopted === 0 ? noted.get(database) : undefined);
  let step = work.next();
  while (!step.done) step = work.next();
  known.set(database, { uses: step.value, adopted });
  return step.value;
}

/** The same, yielding after every 256 pages of a tree. */
export function* mapPagesInSteps(
  database: Database,
  { uses, owners }: Noted = { uses: new PageUses(), owners: new Set() }
): Generator<void, PageUses> {
  const { pages } = database;
  if (database.loose) return uses;
  yield* mapTree(database, uses, 1, 'sqlite_schema');
  for (const { root, name } of database.schema)
    if (root > 0 && !owners.has(name)) yield* mapTree(database, uses, root, name);
  for (const [name, roots] of database.adopted)
    for (const root of roots) yield* mapTree(database, uses, root, name);
  mapFreeList(database, uses);
  if (database.header.autoVacuum) mapPointerMaps(pages, uses);
  const lock = Math.floor(0x4000_0000 / pages.pageSize) + 1;
  if (pages.inRange(lock)) uses.set(lock, { role: 'lock', owner: null, slack: pages.usable });
  return uses;
}

const PAGES_A_STEP = 256;

function* mapTree(
  database: Database,
  uses: PageUses,
  root: number,
  owner: string
): Generator<void> {
  let done = 0;
  const { pages } = database;
  const report = (): void => undefined;
  const leaf = new LeafCells();
  const notes = new TreeNotes(pages, uses, owner);
  for (const page of walkTree(pages, root, report, (number) => pages.passing(number))) {
    if (++done % PAGES_A_STEP === 0) yield;
    notes.page(page.number);
    if (!holdsRecords(page.header.kind)) continue;
    if (readLeaf(leaf, database, page)) {
      for (let i = 0; i < leaf.count; i++)
        if (leaf.overflow[i] !== 0)
          notes.spill(leaf.overflow[i]!, leaf.payload[i]! - leaf.local[i]!);
      continue;
    }
    for (const { overflow, payload, local } of cellsOf(page, pages, report))
      if (overflow > 0) notes.spill(overflow, payload - local);
  }
}

function mapChain(
  pages: PageSet,
  uses: PageUses,
  first: number,
  bytes: number,
  owner: string
): void {
  let left = bytes;
  let next = first;
  while (left > 0 && pages.inRange(next) && uses.get(next).role === 'unknown') {
    const page = pages.page(next);
    if (!page) return;
    const used = Math.min(left, pages.usable - 4);
    uses.set(next, { role: 'overflow', owner, slack: 4 + used });
    left -= used;
    next = u32be(page, 0);
  }
}

function mapFreeList(database: Database, uses: PageUses): void {
  const { pages, header } = database;
  for (const { number, slack, leaves } of trunks(pages, header)) {
    if (uses.get(number).role !== 'unknown') return;
    uses.set(number, { role: 'trunk', owner: null, slack });
    for (const leaf of leaves) {
      if (uses.get(leaf).role === 'unknown')
        uses.set(leaf, { role: 'free', owner: null, slack: 0 });
    }
  }
}

/** Pointer-map pages stand at page 2 and after every `usable / 5` pages that they describe (section 1.8). */
function mapPointerMaps(pages: PageSet, uses: PageUses): void {
  const step = Math.floor(pages.usable / 5) + 1;
  for (let number = 2; number <= pages.pageCount; number += step) {
    uses.set(number, { role: 'map', owner: null, slack: pages.usable });
  }
}
