/**
 * The characters that a TrueType or OpenType font has glyphs for: its `cmap`
 * table (OpenType 1.9, "cmap"), subtables of formats 4 and 12.
 */
export class Coverage {
  private readonly ranges: { from: number; to: number }[] = [];

  constructor(font: Uint8Array) {
    const view = new DataView(font.buffer, font.byteOffset, font.byteLength);
    const table = tableAt(view, 0x636d6170);
    if (table === null) return;
    const count = view.getUint16(table + 2);
    for (let i = 0; i < count; i++) {
      const at = table + view.getUint32(table + 4 + 8 * i + 4);
      const format = view.getUint16(at);
      if (format === 4) this.addSegments(view, at);
      else if (format === 12) this.addGroups(view, at);
    }
    this.ranges.sort((a, b) => a.from - b.from);
    this.join();
  }

  private addSegments(view: DataView, at: number): void {
    const segments = view.getUint16(at + 6) / 2;
    const [ends, starts] = [at + 14, at + 16 + 2 * segments];
    const [deltas, offsets] = [starts + 2 * segments, starts + 4 * segments];
    for (let i = 0; i < segments; i++) {
      const [from, to] = [view.getUint16(starts + 2 * i), view.getUint16(ends + 2 * i)];
      const delta = view.getUint16(deltas + 2 * i);
      const offset = view.getUint16(offsets + 2 * i);
      for (let code = from; code <= to && code < 0xffff; code++) {
        const place = offsets + 2 * i + offset + 2 * (code - from);
        const raw = offset === 0 ? code : place + 2 <= view.byteLength ? view.getUint16(place) : 0;
        if (raw !== 0 && ((raw + delta) & 0xffff) !== 0) this.add(code);
      }
    }
  }

  private add(code: number): void {
    const last = this.ranges[this.ranges.length - 1];
    if (last && last.to === code - 1) last.to = code;
    else this.ranges.push({ from: code, to: code });
  }

  private addGroups(view: DataView, at: number): void {
    const groups = view.getUint32(at + 12);
    for (let i = 0; i < groups; i++) {
      const place = at + 16 + 12 * i;
      this.ranges.push({ from: view.getUint32(place), to: view.getUint32(place + 4) });
    }
  }

  private join(): void {
    let kept = 0;
    for (const range of this.ranges) {
      const last = this.ranges[kept - 1];
      if (kept > 0 && range.from <= last!.to + 1) last!.to = Math.max(last!.to, range.to);
      else this.ranges[kept++] = { ...range };
    }
    this.ranges.length = kept;
  }

  /** Whether a code point has a glyph. */
  has(code: number): boolean {
    let [low, high] = [0, this.ranges.length - 1];
    while (low <= high) {
      const middle = (low + high) >> 1;
      const { from, to } = this.ranges[middle]!;
      if (code < from) high = middle - 1;
      else if (code > to) low = middle + 1;
      else return true;
    }
    return false;
  }
}

function tableAt(view: DataView, tag: number): number | null {
  const count = view.getUint16(4);
  for (let i = 0; i < count; i++) {
    const record = 12 + 16 * i;
    if (view.getUint32(record) === tag) return view.getUint32(record + 8);
  }
  return null;
}
