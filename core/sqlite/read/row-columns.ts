const FIRST_ROOM = 8192;

/** Where rows lie, and what tells copies of them, in columns that other threads can take over. */
export interface PackedColumns {
  rowids: Float64Array;
  sketches: Float64Array;
  /** Page of each row. */
  pages: Uint32Array;
  /** Of each cell, in the file that holds its page. */
  offsets: Float64Array;
}

/** Such columns, which grow. */
export class RowColumns implements PackedColumns {
  length = 0;
  rowids = new Float64Array(FIRST_ROOM);
  sketches = new Float64Array(FIRST_ROOM);
  pages = new Uint32Array(FIRST_ROOM);
  offsets = new Float64Array(FIRST_ROOM);

  add(rowid: number, sketch: number, page: number, offset: number): void {
    if (this.length === this.rowids.length) this.reserve(this.length * 2);
    const at = this.length++;
    this.rowids[at] = rowid;
    this.sketches[at] = sketch;
    this.pages[at] = page;
    this.offsets[at] = offset;
  }

  append({ rowids, sketches, pages, offsets }: PackedColumns): void {
    const needed = this.length + rowids.length;
    if (needed > this.rowids.length) this.reserve(Math.max(needed, this.length * 2));
    this.rowids.set(rowids, this.length);
    this.sketches.set(sketches, this.length);
    this.pages.set(pages, this.length);
    this.offsets.set(offsets, this.length);
    this.length = needed;
  }

  /** Makes room for so many rows. */
  reserve(size: number): void {
    if (size <= this.rowids.length) return;
    this.rowids = grown(this.rowids, new Float64Array(size));
    this.sketches = grown(this.sketches, new Float64Array(size));
    this.pages = grown(this.pages, new Uint32Array(size));
    this.offsets = grown(this.offsets, new Float64Array(size));
  }

  /** The columns without the room behind them. */
  packed(): PackedColumns {
    const { rowids, sketches, pages, offsets, length } = this;
    return {
      rowids: rowids.slice(0, length),
      sketches: sketches.slice(0, length),
      pages: pages.slice(0, length),
      offsets: offsets.slice(0, length)
    };
  }
}

function grown<T extends Float64Array | Uint32Array>(old: T, into: T): T {
  into.set(old);
  return into;
}
