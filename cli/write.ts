import { closeSync, openSync, renameSync, writev } from 'node:fs';
import {
  attachmentToFile,
  BatchJson,
  callToFile,
  contactToFile,
  fileToFile,
  gapToFile,
  JsonBytes,
  sourceToFile,
  storeToFile,
  CASE_FORMAT,
  type FileRecord,
  type Findings,
  type JsonChunk,
  type JsonFrame,
  type MessageBatch,
  type Source
} from '../core/records';
import { partialBeside } from './partial';

/** Everything of a case but its messages, which were written as they came. */
export interface CaseContent {
  sources: Source[];
  findings: Findings;
  files: FileRecord[];
}

type Section = [name: string, record: string, items: Iterable<unknown>];

function sections({ sources, findings, files }: CaseContent): Section[] {
  return [
    ['sources', 'source', sources.map(sourceToFile)],
    ['stores', 'store', mapped(findings.stores, storeToFile)],
    ['people', 'person', findings.people],
    ['threads', 'thread', findings.threads],
    ['attachments', 'attachment', mapped(findings.attachments, attachmentToFile)],
    ['calls', 'call', mapped(findings.calls, callToFile)],
    ['contacts', 'contact', mapped(findings.contacts, contactToFile)],
    ['files', 'file', mapped(files, fileToFile)],
    ['gaps', 'gap', mapped(findings.gaps, gapToFile)]
  ];
}

function* mapped<A, B>(items: Iterable<A>, map: (item: A) => B): Generator<B> {
  for (const item of items) yield map(item);
}

/**
 * Writes a case file piece by piece, messages first and as they come, under a
 * temporary name until it is whole.
 */
export class CaseFileWriter {
  private readonly out: Writer;
  private readonly isLines: boolean;
  private first = true;

  constructor(
    private readonly path: string,
    { made, zone }: { made: Date; zone: string },
    private readonly partial = partialBeside(path)
  ) {
    this.isLines = path.endsWith('.jsonl');
    this.out = new Writer(this.partial);
    const head = { format: CASE_FORMAT, version: 1, made: made.toISOString(), zone };
    if (this.isLines) this.out.write(`${JSON.stringify({ record: 'case', ...head })}\n`);
    else this.out.write(`${JSON.stringify(head).slice(0, -1)},\n"messages":[`);
  }

  /** What stands around each message. */
  get frame(): JsonFrame {
    return this.isLines
      ? { before: '{"record":"message",', after: '\n' }
      : { before: ',\n{', after: '' };
  }

  /** Messages in columns. */
  batch(batch: MessageBatch): void {
    const json = new JsonBytes();
    new BatchJson(this.frame).write(batch, json);
    this.records({ bytes: json.written(), stored: () => undefined });
  }

  /** Messages that were written as JSON already, each in the {@link frame}. */
  records({ bytes, stored }: JsonChunk): void {
    this.out.bytes(this.first && !this.isLines ? bytes.subarray(1) : bytes, stored);
    if (bytes.length > 0) this.first = false;
  }

  /** To be awaited now and then. @throws the system's error when the file cannot be written. */
  keepUp(): Promise<void> {
    return this.out.keepUp();
  }

  /** Writes the rest and gives the file its name. */
  async finish(content: CaseContent): Promise<void> {
    if (this.isLines) this.lines(content);
    else this.document(content);
    await this.out.close();
    renameSync(this.partial, this.path);
  }

  private document(content: CaseContent): void {
    this.out.write(']');
    for (const [name, , items] of sections(content)) {
      this.out.write(`,\n"${name}":[`);
      let first = true;
      for (const item of items) {
        this.out.write(`${first ? '\n' : ',\n'}${JSON.stringify(item)}`);
        first = false;
      }
      this.out.write(']');
    }
    this.out.write('}\n');
  }

  private lines(content: CaseContent): void {
    for (const [, record, items] of sections(content)) {
      for (const item of items)
        this.out.write(`${JSON.stringify({ record, ...(item as object) })}\n`);
    }
  }
}

const BUFFER = 1 << 20;

/** What may wait to be written before more is made. */
const MOST_WAITING = 32 << 20;

interface Waiting {
  bytes: Uint8Array;
  stored: (() => void) | undefined;
}

/** Writes a file in order while the next part is made. */
class Writer {
  private readonly descriptor: number;
  private pending: string[] = [];
  private size = 0;
  /** What is to be written next, all at once: this thread looks after it only now and then. */
  private queue: Waiting[] = [];
  private waiting = 0;
  private storing: Promise<void> | null = null;
  private failure: Error | null = null;

  constructor(path: string) {
    this.descriptor = openSync(path, 'w');
  }

  write(text: string): void {
    this.pending.push(text);
    this.size += text.length;
    if (this.size >= BUFFER) this.flush();
  }

  /** `stored` is called when the bytes are needed no more. */
  bytes(bytes: Uint8Array, stored?: () => void): void {
    this.flush();
    this.enqueue({ bytes, stored });
  }

  private flush(): void {
    if (this.size === 0) return;
    const bytes = Buffer.from(this.pending.join(''));
    this.pending = [];
    this.size = 0;
    this.enqueue({ bytes, stored: undefined });
  }

  private enqueue(waiting: Waiting): void {
    this.waiting += waiting.bytes.length;
    this.queue.push(waiting);
    this.storing ??= this.store();
  }

  /** Writes until nothing is left to be written. */
  private async store(): Promise<void> {
    // Nothing is done before it is known that something is.
    await Promise.resolve();
    while (this.queue.length > 0) {
      const all = this.queue.splice(0);
      if (!this.failure) await this.storeAll(all.map(({ bytes }) => bytes));
      for (const { bytes, stored } of all) {
        this.waiting -= bytes.length;
        stored?.();
      }
    }
    this.storing = null;
  }

  private async storeAll(list: Uint8Array[]): Promise<void> {
    try {
      for (let left = list; left.length > 0;)
        left = behind(left, await writeAt(this.descriptor, left));
    } catch (error) {
      this.failure = error as Error;
    }
  }

  /** Waits where the disk is slower than what is made. @throws the system's error when it could not be written. */
  async keepUp(): Promise<void> {
    if (this.waiting > MOST_WAITING) await this.storing;
    if (this.failure) throw this.failure;
  }

  async close(): Promise<void> {
    this.flush();
    await this.storing;
    closeSync(this.descriptor);
    if (this.failure) throw this.failure;
  }
}

/** What is left of a list once so many bytes of it were written. */
function behind(list: readonly Uint8Array[], written: number): Uint8Array[] {
  let left = written;
  return list.flatMap((bytes) => {
    const done = Math.min(left, bytes.length);
    left -= done;
    return done === bytes.length ? [] : [bytes.subarray(done)];
  });
}

function writeAt(descriptor: number, list: Uint8Array[]): Promise<number> {
  return new Promise((resolve, reject) =>
    writev(descriptor, list, (error, written) => (error ? reject(error) : resolve(written)))
  );
}
