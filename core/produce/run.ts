import {
  chained,
  hashAlone,
  isInternal,
  withheld,
  type CustodyAct,
  type CustodyEntry
} from '../custody';
import { bagFiles, type WrittenFile } from './bag';
import { FORMATS } from './formats';
import { textFile, type FormatContext, type ProducedFile } from './formats/format';
import { gather } from './gather';
import { Guard, withoutWords } from './guard';
import type { ProductionInput } from './input';
import { MediaShelf, type OpenFile } from './media';
import { filesOf, type Production, type ProductionFile } from './model';
import { shown } from './parts';
import type { Printed, Printer } from './pdf';
import { readmeText } from './readme';
import type { PictureModules } from './readable';
import type { RedactionEntry, Redactor } from './redact';
import { csvField } from './formats/csv';
import { inert } from './formats/rows';
import { packageName } from './names';
import { FORMAT_TITLES, type FormatName, type Settings } from './settings';
import { stampLines, type Stamps } from './stamps';
import { ZonedTime } from '../shown';
import { textsWithin } from './values';

/** What a production needs from the place where it runs. */
export interface Workshop {
  /** Moment of making, milliseconds since 1970. */
  made: number;
  /** Version of the program. */
  version: string;
  open: OpenFile;
  /** Decoders of pictures. */
  modules: PictureModules;
  sha256: (bytes: Uint8Array) => Promise<string>;
  /** Sets pages; null where no PDF is asked for. */
  print: Printer | null;
  /** Puts recovered rows back into copies of their stores; null where the evidence is not at hand. */
  rebuild?: Rebuilder | null;
  /** Entries that the case's log has already. */
  log?: readonly CustodyEntry[];
  /** Nothing of it leaves: files need no decision, and it is not searched once more. */
  isPreview?: boolean;
  signal: AbortSignal;
}

/** Gives copies of the stores that the production's lines were recovered from. */
export type Rebuilder = (production: Production) => AsyncIterable<ProducedFile>;

export interface ProductionSummary {
  messages: number;
  threads: number;
  calls: number;
  contacts: number;
  pages: number | null;
  first: string | null;
  last: string | null;
  files: number;
  bytes: number;
  /** SHA-256 of `tagmanifest-sha256.txt`, by which the whole package is told. */
  sha256: string;
}

export type ProduceEvent =
  /** The first: what the package may be called, in which nothing is told that is covered. */
  | { type: 'begin'; name: string }
  | { type: 'progress'; what: string; done: number; total: number }
  /** A file of the package, in its folder. */
  | { type: 'file'; file: ProducedFile }
  | { type: 'done'; summary: ProductionSummary };

/** A format that cannot be had under these settings. */
export class SettingsError extends Error {
  override readonly name = 'SettingsError';
}

/** A production that is gathered and redacted, and of which nothing has left yet. */
export interface Prepared {
  /** What the package may be called, in which nothing is told that is covered. */
  name: string;
  /**
   * Sets the pages, volume by volume; a preview ends here.
   * @throws SettingsError where no pages can be set
   */
  print(): AsyncGenerator<ProduceEvent, Printed>;
  /** The other formats, then the log, the description and the lists of the bag. Where pages are asked for they are set before. */
  write(): AsyncGenerator<ProduceEvent>;
}

/**
 * Gathers the chosen records of a case, redacts them, and asks what becomes of
 * files with covered words inside.
 * @throws ChoiceError, RedactionError, SettingsError, UndecidedError
 */
export async function prepareProduction(
  input: ProductionInput,
  settings: Settings,
  workshop: Workshop
): Promise<Prepared> {
  const { production, redactor } = gather(input, settings, workshop.made);
  check(settings, redactor);
  const run = new Run(production, redactor, settings, workshop);
  if (!workshop.isPreview) await run.guard.decide(production, settings, run.context);
  return run;
}

/**
 * Produces the chosen records of a case as a bag, file by file: prepares,
 * prints, and writes. The same case and settings give the same bytes, but for
 * the moment of making.
 * @throws as `prepareProduction`; the signal's reason when it is stopped
 */
export async function* runProduction(
  input: ProductionInput,
  settings: Settings,
  workshop: Workshop
): AsyncGenerator<ProduceEvent> {
  const prepared = await prepareProduction(input, settings, workshop);
  yield { type: 'begin', name: prepared.name };
  if (settings.formats.includes('pdf')) yield* prepared.print();
  yield* prepared.write();
}

function check(settings: Settings, redactor: Redactor): void {
  if (settings.formats.includes('database') && !redactor.isEmpty)
    throw new SettingsError(
      'A rebuilt database holds everything: it cannot be produced together with redactions.'
    );
}

class Run implements Prepared {
  readonly context: FormatContext;
  readonly guard: Guard;
  private readonly files: (WrittenFile & { from: string })[] = [];
  private readonly serials = new Map<string, string>();
  private stamps: Stamps = { byLine: new Map(), first: null, last: null, next: 0 };
  private printed: Printed | null = null;

  constructor(
    private readonly production: Production,
    private readonly redactor: Redactor,
    private readonly settings: Settings,
    private readonly workshop: Workshop
  ) {
    this.context = {
      settings,
      time: new ZonedTime(production.head.zone),
      media: new MediaShelf(
        filesOf(production),
        workshop.open,
        workshop.modules,
        settings.convertMedia
      ),
      serials: this.serials,
      signal: workshop.signal
    };
    this.guard = new Guard(redactor, (from) => this.ownTexts(from));
  }

  get name(): string {
    return packageName(this.production.head);
  }

  async *write(): AsyncGenerator<ProduceEvent> {
    const { settings, workshop, production } = this;
    this.stamp();
    const formats = settings.formats.filter((name) => name !== 'pdf' && name !== 'database');
    const total = formats.length + 1;
    for (const [i, name] of formats.entries()) {
      yield { type: 'progress', what: FORMAT_TITLES[name], done: i, total };
      for await (const file of this.written(name)) {
        workshop.signal.throwIfAborted();
        yield await this.payload(file, name);
      }
    }
    if (settings.formats.includes('database')) {
      const { rebuild } = workshop;
      if (!rebuild)
        throw new SettingsError(
          'A store can only be rebuilt where its evidence is: name its folder with --sources.'
        );
      for await (const file of rebuild(production)) yield await this.payload(file, 'database');
    }
    yield { type: 'progress', what: 'checksums', done: formats.length, total };
    yield* this.finish();
  }

  /** What a format other than pages and databases makes of the production. */
  private written(name: TextFormat): AsyncIterable<ProducedFile> | Iterable<ProducedFile> {
    return FORMATS[name](this.production, this.context);
  }

  private readonly own = new Map<string, Promise<readonly Uint8Array[]>>();

  /** What is written of the program's own accord, format by format. */
  private ownTexts(from: string): Promise<readonly Uint8Array[]> {
    let own = this.own.get(from);
    if (!own) this.own.set(from, (own = this.bare().made(from)));
    return own;
  }

  /** A run over the same production without a word of the case. */
  private bare(): Run {
    const { settings, workshop } = this;
    const bare = new Run(
      withoutWords(this.production),
      this.redactor,
      {
        ...settings,
        title: null,
        reference: null,
        preparedBy: null,
        preparedFor: null,
        exhibits: undefined,
        choose: { context: 0, gaps: true }
      },
      { ...workshop, log: [], isPreview: true }
    );
    Object.assign(bare, { stamps: this.stamps, printed: this.printed });
    for (const [line, stamp] of this.serials) bare.serials.set(line, stamp);
    return bare;
  }

  /** The files that one format, or the package itself, gives. */
  private async made(from: string): Promise<Uint8Array[]> {
    const made: Uint8Array[] = [];
    if (from === 'pdf') {
      for await (const event of this.print())
        if (event.type === 'file') made.push(event.file.bytes);
    } else if (isTextFormat(from))
      for await (const { bytes } of this.written(from)) made.push(bytes);
    else
      for await (const event of this.finish())
        if (event.type === 'file') made.push(event.file.bytes);
    return made;
  }

  async *print(): AsyncGenerator<ProduceEvent, Printed> {
    const { print } = this.workshop;
    if (!print) throw new SettingsError('No PDF can be made here.');
    const work = print(this.production, this.context);
    let step = await work.next();
    for (; !step.done; step = await work.next()) {
      if (step.value.type === 'file') yield await this.payload(step.value.file, 'pdf');
      else yield step.value;
    }
    return (this.printed = step.value);
  }

  private stamp(): void {
    this.stamps = stampLines(this.production, this.settings.numbering, this.printed);
    for (const [line, stamp] of this.stamps.byLine) this.serials.set(line, stamp);
  }

  private async payload(file: ProducedFile, from: string): Promise<ProduceEvent> {
    const path = `data/${file.path}`;
    await this.check({ path, bytes: file.bytes }, from);
    const sha256 = await this.workshop.sha256(file.bytes);
    this.files.push({ path, bytes: file.bytes.length, sha256, from });
    return { type: 'file', file: { path, bytes: file.bytes } };
  }

  private async check(file: ProducedFile, from: string): Promise<void> {
    if (this.workshop.isPreview) return;
    await this.guard.check(file, from);
    // Pages that are locked cannot be searched: what was set on them is.
    if (from === 'pdf' && this.settings.pdf.password !== null)
      for await (const text of this.written('txt'))
        await this.guard.check({ ...text, path: file.path }, 'txt');
  }

  private async *finish(): AsyncGenerator<ProduceEvent> {
    const { production, settings, workshop, stamps } = this;
    if (production.redacted.length > 0)
      yield await this.payload(redactionLog(production.redacted), 'redactions');
    yield await this.payload(textFile('custody.jsonl', this.log()), 'log');
    yield await this.payload(
      textFile(
        'README.txt',
        readmeText(production, settings, stamps, this.context.media.notConverted())
      ),
      'readme'
    );
    yield await this.payload(textFile('production.json', this.description()), 'production');
    const { head } = production;
    const facts = {
      title: head.title,
      made: workshop.made,
      version: workshop.version,
      preparedBy: head.preparedBy
    };
    const tags = await bagFiles(this.files, facts, workshop.sha256);
    for (const file of tags) {
      await this.check(file, 'bag');
      yield { type: 'file', file };
    }
    const last = tags[tags.length - 1]!;
    yield {
      type: 'done',
      summary: {
        ...this.counts(),
        pages: this.printed?.pages ?? null,
        first: stamps.first,
        last: stamps.last,
        files: this.files.length + tags.length,
        bytes: this.files.reduce((sum, { bytes }) => sum + bytes, 0),
        sha256: await workshop.sha256(last.bytes)
      }
    };
  }

  private counts(): Pick<ProductionSummary, 'messages' | 'threads' | 'calls' | 'contacts'> {
    const { threads, calls, contacts } = this.production;
    const messages = threads.reduce((sum, { lines }) => sum + lines.length, 0);
    return { messages, threads: threads.length, calls: calls.length, contacts: contacts.length };
  }

  /** How many entries the log has, and the hash of its last. */
  private logged: { entries: number; last: string } | null = null;

  /** The case's log with this production as its last entry. */
  private log(): string {
    const { production, settings, workshop, stamps } = this;
    const at = new Date(workshop.made).toISOString();
    const entries = (workshop.log ?? []).map((entry) => this.tellable(entry));
    const add = (act: CustodyAct): void => {
      entries.push(chained(act, entries[entries.length - 1] ?? null));
    };
    if (entries.length === 0)
      for (const { name, sha256, bytes, depth } of production.sources)
        add({ at, what: 'source', detail: { name, sha256, bytes, depth } });
    add({
      at,
      what: 'production',
      detail: {
        formats: settings.formats,
        ...this.counts(),
        firstSerial: stamps.first,
        lastSerial: stamps.last,
        redactions: production.redactions,
        decisions: settings.decisions.length,
        files: this.files.length
      }
    });
    this.logged = { entries: entries.length, last: entries[entries.length - 1]!.hash };
    return entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');
  }

  /** An entry of the log as it may leave: nothing of what is internal, no detail that holds what is covered; the chain holds all the same. */
  private tellable(entry: CustodyEntry): CustodyEntry {
    if (isInternal(entry)) return hashAlone(entry);
    if (entry.detail === null) return entry;
    const holds = [...textsWithin(entry.detail)].some((text) => this.redactor.covers(text));
    return holds ? withheld(entry) : entry;
  }

  /** Each file that goes along, with the lines and messages that it came with. */
  private media(): object[] {
    const { threads, files } = this.production;
    const known = new Map<string, { lines: number[]; messages: string[] }>();
    const put = (file: ProductionFile): { lines: number[]; messages: string[] } | null => {
      const name = this.context.media.nameOf(file);
      if (name === null) return null;
      const entry = known.get(name) ?? { lines: [], messages: [] };
      known.set(name, entry);
      return entry;
    };
    for (const { lines } of threads)
      for (const { number, id, attachments } of lines)
        for (const file of attachments) {
          const entry = put(file);
          entry?.lines.push(number);
          entry?.messages.push(id);
        }
    for (const file of files) {
      const entry = put(file);
      for (const { line, message } of file.carriers) {
        if (line !== null && !entry?.lines.includes(line)) entry?.lines.push(line);
        if (!entry?.messages.includes(message)) entry?.messages.push(message);
      }
    }
    return [...known].flatMap(([name, told]) => {
      const paths = this.files.flatMap(({ path }) =>
        path.endsWith(`/media/${name}`) ? [path] : []
      );
      return paths.length === 0 ? [] : [{ paths, ...told }];
    });
  }

  private description(): string {
    const { production, settings, stamps, printed } = this;
    const lines = production.threads.flatMap(({ id, lines }) =>
      lines.map((line) => ({
        line: line.number,
        message: line.id,
        thread: id,
        page: printed?.places.get(line.id)?.page ?? null,
        volume: printed?.places.get(line.id)?.volume ?? null,
        serial: stamps.byLine.get(line.id) ?? null
      }))
    );
    return `${JSON.stringify(
      {
        format: 'ombudsman-produced',
        version: 1,
        made: new Date(this.workshop.made).toISOString(),
        program: this.workshop.version,
        settings: tellable(settings, production, this.redactor),
        counts: this.counts(),
        pages: printed?.pages ?? null,
        firstSerial: stamps.first,
        lastSerial: stamps.last,
        redactions: production.redactions,
        sources: production.sources,
        notConverted: this.context.media.notConverted(),
        exhibits: production.sections.flatMap(({ label, title, kind }) =>
          label === null
            ? []
            : [{ label, title: shown(title), kind, page: printed?.exhibits.get(label) ?? null }]
        ),
        media: this.media(),
        log: this.logged,
        files: this.files.map(({ path, bytes, sha256, from }) => ({ path, bytes, sha256, from })),
        lines
      },
      null,
      1
    )}\n`;
  }
}

/** Settings without what must not be told: a password, and what is covered wherever it stands. */
function tellable(settings: Settings, { head }: Production, redactor: Redactor): object {
  const told = {
    ...settings,
    title: settings.title ? head.title : null,
    reference: head.reference,
    pdf: { ...settings.pdf, password: settings.pdf.password === null ? null : 'set' },
    redactions: settings.redactions.map((redaction) => {
      const { code } = redaction;
      if ('text' in redaction) return { text: null, code };
      if ('person' in redaction) return { person: null, code };
      // How long a covered stretch is would tell something of it.
      return 'from' in redaction ? { message: redaction.message, code } : redaction;
    })
  };
  return mapped(told, (text) => (redactor.covers(text) ? redactor.id(text) : text));
}

type TextFormat = Exclude<FormatName, 'pdf' | 'database'>;

function isTextFormat(from: string): from is TextFormat {
  return from in FORMATS;
}

/** A value with each text in it changed. */
function mapped<T>(value: T, change: (text: string) => string): T {
  if (typeof value === 'string') return change(value) as T;
  if (Array.isArray(value)) return value.map((item: unknown) => mapped(item, change)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, item]: [string, unknown]) => [key, mapped(item, change)])
  ) as T;
}

/** What was covered, why and by which code; never the content. */
function redactionLog(redacted: readonly RedactionEntry[]): ProducedFile {
  const rows = redacted.map(({ code, reason, what, line }, i) =>
    [String(i + 1), code, reason, what, line === null ? 'everywhere' : String(line)].map(inert)
  );
  const table = [['number', 'code', 'reason', 'what', 'line'], ...rows];
  const text = table.map((row) => row.map(csvField).join(',')).join('\r\n');
  return textFile('redactions.csv', `\ufeff${text}\r\n`);
}
