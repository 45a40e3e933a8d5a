import { foldText } from './fold-text';

const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
const encoder = new TextEncoder();

/** Texts as they are searched, one behind the other, and where each ends. */
export interface FoldedTexts {
  text: Uint8Array;
  ends: Uint32Array;
}

/** Folds the texts of a chunk; plain ones in place of a copy, byte by byte. */
export function foldedTexts({ text, ends }: FoldedTexts): FoldedTexts {
  const folded = new Uint8Array(text.length);
  let seen = 0;
  for (let i = 0; i < text.length; i++) {
    const byte = text[i]!;
    seen |= byte;
    folded[i] = byte >= 0x41 && byte <= 0x5a ? byte + 0x20 : byte;
  }
  return seen < 0x80 ? { text: folded, ends } : foldedOneByOne(text, ends);
}

function foldedOneByOne(text: Uint8Array, ends: Uint32Array): FoldedTexts {
  const parts: Uint8Array[] = [];
  const newEnds = new Uint32Array(ends.length);
  let length = 0;
  for (let i = 0; i < ends.length; i++) {
    const own = text.subarray(i === 0 ? 0 : ends[i - 1]!, ends[i]!);
    const folded = encoder.encode(foldText(decoder.decode(own)));
    parts.push(folded);
    newEnds[i] = length += folded.length;
  }
  const joined = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    joined.set(part, at);
    at += part.length;
  }
  return { text: joined, ends: newEnds };
}

/** What is looked for, made ready once: the search of Horspool, by bytes. */
export class Needle {
  private readonly bytes: Uint8Array;
  /** How far the end of the needle may move on, by the byte that stands there. */
  private readonly skips: Uint32Array;

  constructor(query: string) {
    this.bytes = encoder.encode(foldText(query.trim()));
    const { length } = this.bytes;
    this.skips = new Uint32Array(256).fill(length);
    for (let i = 0; i < length - 1; i++) this.skips[this.bytes[i]!] = length - 1 - i;
  }

  get isEmpty(): boolean {
    return this.bytes.length === 0;
  }

  /** Marks the texts that hold it, from `hits[at]` on; returns how many they are. */
  mark({ text, ends }: FoldedTexts, hits: Uint8Array, at: number): number {
    const { bytes, skips } = this;
    const { length } = bytes;
    const last = bytes[length - 1]!;
    let found = 0;
    let own = 0;
    for (let end = length - 1; end < text.length;) {
      const byte = text[end]!;
      if (byte !== last || !this.standsAt(text, end - length + 1)) {
        end += skips[byte]!;
        continue;
      }
      while (ends[own]! <= end - length + 1) own++;
      if (end < ends[own]!) {
        hits[at + own] = 1;
        found++;
        // One hit is enough for a text: on with the next one.
        end = ends[own]! + length - 1;
      } else end++;
    }
    return found;
  }

  private standsAt(text: Uint8Array, from: number): boolean {
    const { bytes } = this;
    for (let i = bytes.length - 2; i >= 0; i--) if (text[from + i] !== bytes[i]) return false;
    return true;
  }
}
