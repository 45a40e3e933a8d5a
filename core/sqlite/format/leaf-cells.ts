import { readVarint, readVarintSigned, u16be, u32be, type Varint } from '../../host';
import { localSize, type PageHeader } from './page';

/** Cells of a page of 64 KiB, at six bytes each with their pointers. */
const MOST_CELLS = 10_923;
const LARGEST_PAYLOAD = 0x7fff_ffff;
const scratch: Varint = { value: 0, size: 0 };

/**
 * The cells of one table leaf, in arrays that are used again for the next
 * page: tables of millions of rows are gone over without an object a row.
 */
export class LeafCells {
  count = 0;
  readonly rowid = new Float64Array(MOST_CELLS);
  /** Offsets on the page; ends are exclusive. */
  readonly start = new Int32Array(MOST_CELLS);
  readonly end = new Int32Array(MOST_CELLS);
  readonly payloadStart = new Int32Array(MOST_CELLS);
  /** Whole payload in bytes, and what of it is on the page. */
  readonly payload = new Int32Array(MOST_CELLS);
  readonly local = new Int32Array(MOST_CELLS);
  /** First overflow page or 0. */
  readonly overflow = new Uint32Array(MOST_CELLS);

  /**
   * Reads all cells of a leaf. False when one of them does not fit into
   * `limit`, or has a row number past 2^53: such a page is to be read cell by cell.
   */
  read(page: Uint8Array, header: PageHeader, usable: number, limit: number): boolean {
    this.count = 0;
    if (header.cellCount > MOST_CELLS) return false;
    for (let i = 0; i < header.cellCount; i++) {
      const at = u16be(page, header.pointers + 2 * i);
      if (at < header.pointers || at + 4 > usable) return false;
      if (!this.readOne(page, i, at, usable, limit)) return false;
    }
    this.count = header.cellCount;
    return true;
  }

  private readOne(page: Uint8Array, i: number, at: number, usable: number, limit: number): boolean {
    let payload = page[at]!;
    let pos = at + 1;
    if (payload >= 0x80) {
      const second = page[pos]!;
      if (second < 0x80) {
        payload = ((payload & 0x7f) << 7) | second;
        pos++;
      } else {
        const size = readVarint(page, at, usable, scratch);
        if (size.size === 0 || size.value > LARGEST_PAYLOAD) return false;
        payload = size.value;
        pos = at + size.size;
      }
    }
    const after = this.readRowid(page, i, pos, usable);
    if (after === 0) return false;
    const local = payload <= usable - 35 ? payload : localSize(payload, usable, true);
    const spills = local < payload;
    const end = Math.max(after + local + (spills ? 4 : 0), at + 4);
    if (end > limit) return false;
    this.start[i] = at;
    this.end[i] = end;
    this.payloadStart[i] = after;
    this.payload[i] = payload;
    this.local[i] = local;
    this.overflow[i] = spills ? u32be(page, after + local) : 0;
    return true;
  }

  /** Offset behind the row number; 0 when it is no number that can be told exactly. */
  private readRowid(page: Uint8Array, i: number, at: number, usable: number): number {
    let value = 0;
    for (let size = 0; size < 7 && at + size < usable; size++) {
      const byte = page[at + size]!;
      value = value * 128 + (byte & 0x7f);
      if (byte >= 0x80) continue;
      this.rowid[i] = value;
      return at + size + 1;
    }
    const long = readVarintSigned(page, at, usable);
    if (long.size === 0 || typeof long.value !== 'number') return 0;
    this.rowid[i] = long.value;
    return at + long.size;
  }
}
