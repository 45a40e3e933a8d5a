const HEAD = 12;
const RECORD = 16;

/** A font without one of its tables (OpenType 1.9, "Organization of an OpenType font"); the font itself where it has none such. */
export function withoutTable(font: Uint8Array, tag: string): Uint8Array {
  const view = new DataView(font.buffer, font.byteOffset, font.byteLength);
  const count = font.length < HEAD ? 0 : view.getUint16(4);
  if (font.length < HEAD + count * RECORD) return font;
  const records = Array.from({ length: count }, (_, i) => recordAt(view, HEAD + i * RECORD));
  const kept = records.filter((record) => record.tag !== tag);
  if (kept.length === count) return font;
  const size = kept.reduce((sum, { length }) => sum + padded(length), HEAD + kept.length * RECORD);
  const out = new Uint8Array(size);
  const target = new DataView(out.buffer);
  out.set(font.subarray(0, HEAD));
  target.setUint16(4, kept.length);
  setSearch(target, kept.length);
  let at = HEAD + kept.length * RECORD;
  for (const [i, { place, offset, length }] of kept.entries()) {
    out.set(font.subarray(place, place + RECORD), HEAD + i * RECORD);
    target.setUint32(HEAD + i * RECORD + 8, at);
    out.set(font.subarray(offset, offset + length), at);
    at += padded(length);
  }
  return out;
}

interface TableRecord {
  tag: string;
  place: number;
  offset: number;
  length: number;
}

function recordAt(view: DataView, place: number): TableRecord {
  const tag = String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(place + i)));
  return { tag, place, offset: view.getUint32(place + 8), length: view.getUint32(place + 12) };
}

/** Tables begin at multiples of four. */
function padded(length: number): number {
  return (length + 3) & ~3;
}

/** What binary search in the table directory begins with. */
function setSearch(view: DataView, count: number): void {
  const steps = Math.floor(Math.log2(Math.max(1, count)));
  view.setUint16(6, 2 ** steps * RECORD);
  view.setUint16(8, steps);
  view.setUint16(10, count * RECORD - 2 ** steps * RECORD);
}
