import {
  LeafCells,
  passingLeafAt,
  readLeaf,
  RecordCursor,
  type Database,
  type LargeRows,
  type VisitedPage
} from '../sqlite';

/** Where a live row lies. The object is used again for the next. */
export interface PlainPlace {
  rowid: number;
  file: string;
  page: number;
  offset: number;
  length: number;
}

/** What gives the leaves of a table, each to stand until the next one. */
export type Leaves = Pick<LargeRows, 'passingLeaf' | 'readLeaf' | 'place'>;

/** The same with the numbers of them all, in the order of the tree. */
export type LargeLeaves = Leaves & Pick<LargeRows, 'leaves'>;

/** The leaves of a database by their page numbers. */
export function leavesOf(database: Database): Leaves {
  return {
    passingLeaf: (page) => passingLeafAt(database, page),
    readLeaf: (cells, page) => readLeaf(cells, database, page),
    place: (page) => database.pages.place(page)
  };
}

/** The rows of one leaf after the other, without an object a row. */
export class LeafRows {
  readonly cursor = new RecordCursor();
  readonly place: PlainPlace = { rowid: 0, file: '', page: 0, offset: 0, length: 0 };
  private readonly cells = new LeafCells();
  private page: VisitedPage | null = null;
  private base = 0;

  constructor(private readonly leaves: Leaves) {}

  /** Turns to a leaf; false when it has to be read row by row. */
  open(page: VisitedPage): boolean {
    this.page = page;
    if (!this.leaves.readLeaf(this.cells, page)) return false;
    const { source, offset } = this.leaves.place(page.number);
    this.place.file = source.name;
    this.place.page = page.number;
    this.base = offset;
    return true;
  }

  get count(): number {
    return this.cells.count;
  }

  /** Offset of a row's cell on the page. */
  start(i: number): number {
    return this.cells.start[i]!;
  }

  /** Points at a row; false when its record is not whole on the page. */
  point(i: number): boolean {
    const { cells, place, cursor, page } = this;
    const start = cells.start[i]!;
    place.rowid = cells.rowid[i]!;
    place.offset = this.base + start;
    place.length = cells.end[i]! - start;
    const from = cells.payloadStart[i]!;
    return cells.overflow[i] === 0 && cursor.read(page!.bytes, from, from + cells.local[i]!);
  }
}
