/** A part of a case file, in the order in which it stands there. */
export interface CasePart {
  /** The field of the document: `sources`, `messages` and the like. */
  section: string;
  /** A record of a list, or the whole value of what is no list. */
  value: unknown;
}

/** Bytes that no case file can be read from. */
export class CaseStreamError extends Error {
  override readonly name = 'CaseStreamError';
}

const [QUOTE, ESCAPE, OPEN, CLOSE, LIST, LIST_END, COMMA, COLON, NEWLINE] = [
  0x22, 0x5c, 0x7b, 0x7d, 0x5b, 0x5d, 0x2c, 0x3a, 0x0a
];
/** One record is not larger than this. */
const MOST_RECORD = 1 << 28;
const decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: false });

/**
 * Reads a case file of any size as its bytes come: one document, or one record
 * a line. Only the sections that are asked for are parsed.
 * @throws CaseStreamError where the bytes are no such file, or end early
 */
export async function* caseParts(
  chunks: AsyncIterable<Uint8Array>,
  wants: (section: string) => boolean
): AsyncGenerator<CasePart> {
  let reader: DocumentReader | LineReader | null = null;
  const head = new Kept();
  for await (const chunk of chunks) {
    if (reader) {
      yield* reader.take(chunk);
      continue;
    }
    const bytes = head.with(chunk);
    head.keep(bytes);
    if (bytes.length < LEAST_HEAD) continue;
    reader = isOfLines(bytes) ? new LineReader(wants) : new DocumentReader(wants);
    yield* reader.take(bytes);
  }
  if (!reader) {
    const bytes = head.with(new Uint8Array(0));
    if (bytes.length === 0) throw new CaseStreamError('it is empty');
    reader = isOfLines(bytes) ? new LineReader(wants) : new DocumentReader(wants);
    yield* reader.take(bytes);
  }
  yield* reader.end();
}

/** Bytes by which it is told whether a file is a document or has one record a line. */
const LEAST_HEAD = 256;

function isOfLines(chunk: Uint8Array): boolean {
  return /^\ufeff?\s*\{\s*"record"\s*:/.test(new TextDecoder().decode(chunk.subarray(0, 200)));
}

function parsed(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(decoder.decode(bytes));
  } catch (error) {
    if (error instanceof SyntaxError || error instanceof TypeError)
      throw new CaseStreamError('it does not hold JSON');
    throw error;
  }
}

/** Bytes that come in chunks, of which those from a mark on are kept. */
class Kept {
  private bytes = new Uint8Array(0);

  /** What was kept with a chunk behind it. */
  with(chunk: Uint8Array): Uint8Array {
    if (this.bytes.length === 0) return chunk;
    const all = new Uint8Array(this.bytes.length + chunk.length);
    all.set(this.bytes);
    all.set(chunk, this.bytes.length);
    return all;
  }

  keep(bytes: Uint8Array): void {
    if (bytes.length > MOST_RECORD) throw new CaseStreamError('one of its records is too large');
    this.bytes = bytes.slice();
  }

  get length(): number {
    return this.bytes.length;
  }
}

/** The lists of the file by what a record of theirs is called. */
const SECTIONS: Record<string, string> = {
  source: 'sources',
  store: 'stores',
  person: 'people',
  thread: 'threads',
  message: 'messages',
  attachment: 'attachments',
  call: 'calls',
  contact: 'contacts',
  file: 'files',
  gap: 'gaps'
};

/** The lists of a case file. */
export const CASE_SECTIONS: readonly string[] = Object.values(SECTIONS);

class LineReader {
  private readonly kept = new Kept();

  constructor(private readonly wants: (section: string) => boolean) {}

  *take(chunk: Uint8Array): Generator<CasePart> {
    const bytes = this.kept.with(chunk);
    let start = 0;
    for (let end = bytes.indexOf(NEWLINE); end >= 0; end = bytes.indexOf(NEWLINE, start)) {
      yield* this.line(bytes.subarray(start, end));
      start = end + 1;
    }
    this.kept.keep(bytes.subarray(start));
  }

  *end(): Generator<CasePart> {
    if (this.kept.length > 0) yield* this.line(this.kept.with(new Uint8Array(0)));
  }

  private *line(bytes: Uint8Array): Generator<CasePart> {
    if (bytes.every((byte) => byte <= 0x20)) return;
    const { record, ...value } = parsed(bytes) as { record?: string };
    if (record === 'case')
      for (const [section, head] of Object.entries(value)) yield { section, value: head };
    const section = SECTIONS[record ?? ''];
    if (section !== undefined && this.wants(section)) yield { section, value };
  }
}

class DocumentReader {
  private readonly kept = new Kept();
  private depth = 0;
  private inString = false;
  private isEscaped = false;
  /** The field whose value is being read; null between two. */
  private section: string | null = null;
  private isList = false;
  /** Where in the bytes at hand what is being read begins; -1 where nothing is. */
  private start = -1;
  private isOver = false;

  constructor(private readonly wants: (section: string) => boolean) {}

  *take(chunk: Uint8Array): Generator<CasePart> {
    const before = this.start < 0 ? 0 : this.kept.length;
    const bytes = this.start < 0 ? chunk : this.kept.with(chunk);
    for (let at = before; at < bytes.length; at++) {
      const byte = bytes[at]!;
      if (this.inString) {
        if (this.isEscaped) this.isEscaped = false;
        else if (byte === ESCAPE) this.isEscaped = true;
        else if (byte === QUOTE) this.inString = false;
        continue;
      }
      if (byte <= 0x20 || byte === 0xef || byte === 0xbb || byte === 0xbf) continue;
      const part = this.sign(byte, at, bytes);
      if (part) yield part;
    }
    if (this.start < 0) return;
    this.kept.keep(bytes.subarray(this.start));
    this.start = 0;
  }

  /** One sign outside of strings; a part where one ends with it. */
  private sign(byte: number, at: number, bytes: Uint8Array): CasePart | null {
    if (this.isOver) throw new CaseStreamError('something stands behind its end');
    if (this.depth === 0 && byte !== OPEN) throw new CaseStreamError('it does not hold JSON');
    const inner = this.isList ? 2 : 1;
    const isEnd = byte === COMMA || byte === CLOSE || byte === LIST_END;
    if (this.depth === inner && this.section !== null && isEnd) return this.close(byte, at, bytes);
    const isLeft = this.depth === 1 && this.section === null && this.start >= 0;
    if (isLeft && isEnd) throw new CaseStreamError('it does not hold JSON');
    switch (byte) {
      case QUOTE:
        this.inString = true;
        break;
      case COLON:
        if (this.depth === 1 && this.section === null) return this.named(at, bytes);
        break;
      case LIST:
        if (this.depth === 1 && this.section !== null && this.start < 0) {
          [this.isList, this.depth] = [true, 2];
          return null;
        }
        this.depth++;
        break;
      case OPEN:
        this.depth++;
        if (this.depth === 1) return null;
        break;
      case CLOSE:
      case LIST_END:
        this.depth--;
        if (this.depth === 0) this.isOver = true;
        if (this.depth < 0) throw new CaseStreamError('it does not hold JSON');
        break;
      case COMMA:
        if (this.depth === 1) return null;
    }
    if (this.start < 0 && this.depth > 0) this.start = at;
    return null;
  }

  private named(at: number, bytes: Uint8Array): null {
    const name = parsed(bytes.subarray(this.start, at));
    if (typeof name !== 'string') throw new CaseStreamError('it does not hold JSON');
    [this.section, this.start, this.isList] = [name, -1, false];
    return null;
  }

  /** What was read ends before this sign. */
  private close(byte: number, at: number, bytes: Uint8Array): CasePart | null {
    const { section, start } = this;
    const part =
      start >= 0 && this.wants(section!)
        ? { section: section!, value: parsed(bytes.subarray(start, at)) }
        : null;
    this.start = -1;
    if (this.isList) {
      if (byte === LIST_END) [this.isList, this.depth, this.section] = [false, 1, null];
      return part;
    }
    this.section = null;
    if (byte === CLOSE) [this.depth, this.isOver] = [0, true];
    return part;
  }

  *end(): Generator<CasePart> {
    if (!this.isOver) throw new CaseStreamError('it is cut off');
  }
}
