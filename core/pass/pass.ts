import { type ByteSource } from '../bytes';
import { emptyDevice, type Note, type Source, type SourcePart } from '../records';
import { SqliteFormatError, type DatabaseFiles } from '../sqlite';
import { Pace, StoppedError } from './pace';
import { codeOf, describeOther, recogniseFiles, sentenceOf } from './recognise';
import { examineStore, type StoreEvent } from './store';
import type { PassEvent, PassRequest, Stage } from './types';

/** Share of the whole work that is over when a stage begins, and the share it takes. */
const SHARES: Record<Stage, [number, number]> = {
  hash: [0, 0.2],
  declarations: [0.2, 0.1],
  rows: [0.3, 0.2],
  freed: [0.5, 0.4],
  messages: [0.9, 0.1]
};

/**
 * One examination of one source, from its bytes to records, as a stream of
 * events. Damage in one place never ends it; an aborted signal does, and what
 * was found until then stays reported.
 */
export async function* runPass(request: PassRequest): AsyncGenerator<PassEvent> {
  const pass = new Pass(request);
  try {
    yield* pass.run();
  } catch (error) {
    if (!(error instanceof StoppedError)) throw error;
    yield { type: 'done', source: pass.source, stopped: true };
  }
}

class Pass {
  readonly source: Source;
  private readonly pace: Pace;
  private readonly bytes: number;
  private hashed = 0;
  private found = 0;
  private reached = 0;
  /** Stores examined and stores in all, to spread the progress over them. */
  private storesDone = 0;
  private storesTotal = 1;

  constructor(private readonly request: PassRequest) {
    const { input, depth } = request;
    this.pace = new Pace(request.signal, request.gate);
    this.bytes = input.files.reduce((sum, file) => sum + file.size, 0);
    this.source = {
      id: input.id,
      name: input.name,
      kind: 'unrecognised',
      bytes: this.bytes,
      sha256: '',
      parts: [],
      depth,
      device: emptyDevice(),
      notes: []
    };
  }

  async *run(): AsyncGenerator<PassEvent> {
    yield* this.hash();
    const { databases, others } = recogniseFiles(this.request.input.files);
    this.source.kind =
      databases.length === 1 ? 'database' : databases.length > 1 ? 'folder' : 'unrecognised';
    yield { type: 'source', source: this.source };
    this.storesTotal = Math.max(1, databases.length);
    for (const files of databases) {
      yield* this.examine(files);
      this.storesDone++;
    }
    yield* this.mentionOthers(others, databases.length > 0);
    yield { type: 'done', source: this.source, stopped: false };
  }

  private async *hash(): AsyncGenerator<PassEvent> {
    for (const file of this.request.input.files) {
      const hasher = await this.request.hasher();
      for (let at = 0; at < file.size; at += HASH_STEP) {
        hasher.update(file.read(at, HASH_STEP));
        this.hashed += Math.min(HASH_STEP, file.size - at);
        if (this.pace.due) await this.pace.rest();
        if (this.pace.mayReport()) yield this.progress('hash', this.hashed, this.bytes);
      }
      this.source.parts.push({ path: file.name, bytes: file.size, sha256: hasher.digest() });
    }
    this.source.sha256 = await this.joinedHash(this.source.parts);
  }

  /** One file gives its own hash; several give the hash of their listing. */
  private async joinedHash(parts: SourcePart[]): Promise<string> {
    if (parts.length === 1) return parts[0]!.sha256;
    const hasher = await this.request.hasher();
    const lines = parts.map((part) => `${part.sha256}  ${part.path}\n`).sort();
    hasher.update(new TextEncoder().encode(lines.join('')));
    return hasher.digest();
  }

  private async *examine(files: DatabaseFiles): AsyncGenerator<PassEvent> {
    const { input, depth, region, early } = this.request;
    const id = `${input.id}.${this.storesDone + 1}`;
    const events = examineStore({ id, source: input.id, files, depth, region, early });
    try {
      for (const event of events) {
        const out = this.translate(event);
        if (out) yield out;
        if (this.pace.due) await this.pace.rest();
      }
    } catch (error) {
      if (!(error instanceof SqliteFormatError)) throw error;
      yield this.note(unreadable(error));
    }
  }

  private translate(event: StoreEvent): PassEvent | null {
    switch (event.type) {
      case 'step':
        return this.pace.mayReport() ? this.progress(event.stage, event.done, event.total) : null;
      case 'found':
        this.found = event.findings.messages.length;
        return event;
      case 'note':
        return this.note(event.note);
    }
  }

  private note(note: Note): PassEvent {
    this.source.notes.push(note);
    return { type: 'note', note };
  }

  private async *mentionOthers(others: ByteSource[], beside: boolean): AsyncGenerator<PassEvent> {
    if (beside || others.length > 1) {
      if (others.length > 0) yield this.note(otherFiles(others));
      if (beside) return;
    }
    if (others.length === 1) yield this.note(await describeOther(others[0]!));
    if (others.length === 0) yield this.note(nothing(this.source.name));
  }

  private progress(stage: Stage, done: number, total: number): PassEvent {
    const [start, share] = SHARES[stage];
    const within = start + share * Math.min(1, done / Math.max(total, 1));
    const [hashEnd] = SHARES.declarations;
    const rest = 1 - hashEnd;
    const fraction =
      stage === 'hash'
        ? within
        : hashEnd + rest * ((this.storesDone + (within - hashEnd) / rest) / this.storesTotal);
    // Live rows may be read twice, first to be shown early; the bar does not go back for that.
    this.reached = Math.max(this.reached, fraction);
    return {
      type: 'progress',
      stage,
      fraction: this.reached,
      bytes: this.bytes,
      found: this.found
    };
  }
}

const HASH_STEP = 1 << 20;

function unreadable(error: SqliteFormatError): Note {
  return {
    level: 'error',
    code: codeOf(error.problem),
    text: `${error.file} ${sentenceOf(error.problem)}`,
    path: error.file
  };
}

function otherFiles(others: ByteSource[]): Note {
  const some = others.slice(0, 3).map((file) => file.name);
  const names =
    others.length > 3 ? `${some.join(', ')} and ${others.length - 3} more` : some.join(', ');
  const verb = others.length === 1 ? 'is no message store' : 'are no message stores';
  return { level: 'info', code: 'not-recognised', text: `${names} ${verb}.`, path: null };
}

function nothing(name: string): Note {
  return { level: 'error', code: 'empty', text: `${name} holds no files.`, path: null };
}
