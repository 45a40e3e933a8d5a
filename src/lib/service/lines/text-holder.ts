import { CHUNK, foldedTexts, foldText, Needle, type FoldedTexts } from '$core/case/lines';
import { textsPart } from '../../storage/lines';
import type { RunKey } from '../../storage/schema';
import { turn } from '../host/turn';

/** A store whose texts are searched: so many rows of a run over it. */
export interface HeldStore extends RunKey {
  count: number;
}

/** Rows of a store that hold what is looked for. */
export interface FoundRows {
  store: string;
  rows: Uint32Array;
}

/** Texts of some rows as they are searched. */
interface Chunk extends HeldChunk {
  texts: FoldedTexts | null;
  /** What is searched beside the texts, by index. */
  beside: [index: number, text: string][];
}

interface HeldChunk {
  run: RunKey;
  part: number;
}

/** How long a search or the reading of texts goes on before others have their turn, in milliseconds. */
const SLICE = 25;

/** Holds the texts of a share of the case's lines folded in memory, and searches them. */
export class TextHolder {
  private chunks = new Map<string, Chunk>();
  private searching = 0;

  /** Holds each `of`th chunk, from the `first` on. */
  hold(stores: readonly HeldStore[], first: number, of: number): void {
    const held = new Map<string, Chunk>();
    let nth = 0;
    for (const { caseId, sourceId, store, run, count } of stores) {
      for (let part = 0; part * CHUNK < count; part++) {
        if (nth++ % of !== first) continue;
        const key = `${caseId}/${sourceId}/${store}/${run}/${part}`;
        const chunk: Chunk = {
          run: { caseId, sourceId, store, run },
          part,
          texts: null,
          beside: []
        };
        held.set(key, this.chunks.get(key) ?? chunk);
      }
    }
    this.chunks = held;
  }

  /** Reads what is not in memory yet, until other texts are to be held. */
  async read(): Promise<void> {
    const { chunks } = this;
    for (const chunk of chunks.values()) {
      if (this.chunks !== chunks) return;
      await read(chunk);
    }
  }

  /**
   * Gives the rows that hold a text, a part at a time, and ends when another
   * search begins. What is not in memory yet is read on the way.
   */
  async *search(query: string): AsyncGenerator<FoundRows[]> {
    const own = ++this.searching;
    const needle = new Needle(query);
    if (needle.isEmpty) return;
    const told = foldText(query.trim());
    let found = new Map<string, number[]>();
    let until = performance.now() + SLICE;
    for (const chunk of this.inReach()) {
      if (chunk.texts === null) await read(chunk);
      mark(chunk, needle, told, found);
      if (performance.now() < until) continue;
      yield rowsIn(found);
      found = new Map();
      await turn();
      if (this.searching !== own) return;
      until = performance.now() + SLICE;
    }
    yield rowsIn(found);
  }

  /**
   * The same, told part by part. It is over when the last part has arrived: what
   * is told goes through a channel of its own, which the end of a search could
   * overtake, and the search would be taken for one without hits.
   */
  async tell(query: string, tell: (found: FoundRows[]) => unknown): Promise<void> {
    for await (const found of this.search(query)) await tell(found);
  }

  /** What is in memory comes first. */
  private *inReach(): Generator<Chunk> {
    const chunks = [...this.chunks.values()];
    yield* chunks.filter(({ texts }) => texts !== null);
    yield* chunks.filter(({ texts }) => texts === null);
  }
}

async function read(chunk: Chunk): Promise<void> {
  if (chunk.texts !== null) return;
  const { texts, beside } = await textsPart(chunk.run, chunk.part);
  chunk.beside = beside.map(([i, text]) => [i, foldText(text)]);
  chunk.texts = foldedTexts(texts);
}

const hits = new Uint8Array(CHUNK);

function mark(chunk: Chunk, needle: Needle, told: string, found: Map<string, number[]>): void {
  const { run, part, texts, beside } = chunk;
  let count = needle.mark(texts!, hits, 0);
  for (const [i, text] of beside) {
    if (hits[i] === 1 || !text.includes(told)) continue;
    hits[i] = 1;
    count++;
  }
  if (count === 0) return;
  let rows = found.get(run.store);
  if (!rows) found.set(run.store, (rows = []));
  for (let i = hits.indexOf(1); i >= 0; i = hits.indexOf(1, i + 1)) rows.push(part * CHUNK + i);
  hits.fill(0);
}

function rowsIn(found: ReadonlyMap<string, number[]>): FoundRows[] {
  return [...found].map(([store, rows]) => ({ store, rows: Uint32Array.from(rows) }));
}
