// Files that NTFS packs: units of clusters, each packed by itself (LZNT1).
import { u16le, type ByteSource } from '../../../host';
import { HOLE, RunsSource, type Extent } from '../runs';

const CHUNK = 4096;
const MOST_KEPT = 64;

/** A packed file, unpacked unit by unit where it is read. */
export class PackedSource implements ByteSource {
  private readonly units: Extent[][];
  private readonly kept = new Map<number, Uint8Array>();

  /** @param unit bytes that are packed together, `runs` where they lie in the medium */
  constructor(
    readonly name: string,
    private readonly medium: ByteSource,
    runs: readonly Extent[],
    private readonly unit: number,
    readonly size: number
  ) {
    this.units = unitsOf(runs, unit);
  }

  read(offset: number, length: number): Uint8Array {
    const end = Math.min(offset + length, this.size);
    if (offset < 0 || offset >= end) return new Uint8Array(0);
    const out = new Uint8Array(end - offset);
    for (let at = offset; at < end;) {
      const n = Math.floor(at / this.unit);
      const within = at - n * this.unit;
      const part = this.unitAt(n).subarray(within, within + end - at);
      out.set(part, at - offset);
      at += this.unit - within;
    }
    return out;
  }

  private unitAt(n: number): Uint8Array {
    const known = this.kept.get(n);
    if (known) return known;
    const unit = this.unpacked(n);
    const [oldest] = this.kept.keys();
    if (this.kept.size >= MOST_KEPT && oldest !== undefined) this.kept.delete(oldest);
    this.kept.set(n, unit);
    return unit;
  }

  /** A unit all of whose clusters are there is not packed; one without any holds zeros. */
  private unpacked(n: number): Uint8Array {
    const runs = this.units[n] ?? [];
    const stored = runs.filter(({ start }) => start !== HOLE);
    const length = stored.reduce((sum, run) => sum + run.length, 0);
    const out = new Uint8Array(this.unit);
    if (length === 0) return out;
    const bytes = new RunsSource(this.name, this.medium, stored, length).read(0, length);
    if (length >= this.unit) out.set(bytes.subarray(0, this.unit));
    else unpackInto(bytes, out);
    return out;
  }
}

function unitsOf(runs: readonly Extent[], unit: number): Extent[][] {
  const units: Extent[][] = [];
  let at = 0;
  for (const { start, length } of runs)
    for (let done = 0; done < length;) {
      const n = Math.floor(at / unit);
      const part = Math.min(length - done, (n + 1) * unit - at);
      (units[n] ??= []).push({ start: start === HOLE ? HOLE : start + done, length: part });
      at += part;
      done += part;
    }
  return units;
}

/** Chunks of 4 KiB, each with its length; what is damaged leaves zeros. */
function unpackInto(bytes: Uint8Array, out: Uint8Array): void {
  let to = 0;
  for (let at = 0; at + 2 <= bytes.length && to < out.length; to += CHUNK) {
    const head = u16le(bytes, at);
    if (head === 0) return;
    const end = Math.min(bytes.length, at + 3 + (head & 0xfff));
    if ((head & 0x8000) === 0)
      out.set(bytes.subarray(at + 2, Math.min(end, at + 2 + out.length - to)), to);
    else unpackChunk(bytes, at + 2, end, out, to);
    at = end;
  }
}

/** Eight items behind a byte of flags: a byte as it is, or a copy of what came before in the same chunk. */
function unpackChunk(
  bytes: Uint8Array,
  from: number,
  end: number,
  out: Uint8Array,
  to: number
): void {
  let place = to;
  const last = Math.min(out.length, to + CHUNK);
  for (let at = from; at < end && place < last;) {
    const flags = bytes[at++]!;
    for (let bit = 0; bit < 8 && at < end && place < last; bit++) {
      if (((flags >> bit) & 1) === 0) {
        out[place++] = bytes[at++]!;
        continue;
      }
      if (at + 2 > end) return;
      const pair = u16le(bytes, at);
      at += 2;
      let bits = 4;
      while (bits < 12 && place - to > 1 << bits) bits++;
      const back = (pair >> (16 - bits)) + 1;
      const length = (pair & ((1 << (16 - bits)) - 1)) + 3;
      if (back > place - to) return;
      for (let i = 0; i < length && place < last; i++, place++) out[place] = out[place - back]!;
    }
  }
}
