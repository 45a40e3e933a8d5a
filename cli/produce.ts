import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import { systemReason, writeReason } from '../core/host';
import { openCase, productionInput } from '../core/case';
import {
  ChoiceError,
  RedactionError,
  runProduction,
  SettingsError,
  UndecidedError,
  settingsProblem,
  settingsSchema,
  type ProductionSummary,
  type Settings
} from '../core/produce';
import { visible } from '../core/shown';
import { pictureModules } from './picture-modules';
import { FolderSink, type PackageSink } from './folder';
import { refusePlaces } from './places';
import { nativePrinter } from './print';
import { CaseReadError, readCase } from './read-case';
import { folderRebuilder } from './rebuild';
import { UsageError } from './usage-error';
import { VERSION } from './version';
import { ZipSink } from './zip-sink';

export interface ProduceOptions {
  out: string;
  settings?: string;
  attachments?: string;
  sources?: string;
  made?: string;
  quiet?: boolean;
}

const DONE = 0;
const BAD_USAGE = 2;
const UNREADABLE = 3;

/** Produces records from a case file; gives the exit code. */
export async function produce(casePath: string, options: ProduceOptions): Promise<number> {
  try {
    await produceAll(casePath, options);
    return DONE;
  } catch (error) {
    const known = codeOf(error);
    if (known === null) throw error;
    const reason = writeReason(error);
    const text =
      reason === null
        ? (error as Error).message
        : `The records could not be written to ${options.out}: the place ${reason}.`;
    process.stderr.write(`error: ${visible(text)}\n`);
    return known;
  }
}

function codeOf(error: unknown): number | null {
  const isUsage =
    error instanceof UsageError ||
    error instanceof ChoiceError ||
    error instanceof RedactionError ||
    error instanceof UndecidedError ||
    error instanceof SettingsError;
  if (isUsage) return BAD_USAGE;
  if (error instanceof CaseReadError) return UNREADABLE;
  return error instanceof Error && 'syscall' in error ? UNREADABLE : null;
}

async function produceAll(casePath: string, options: ProduceOptions): Promise<void> {
  const asked = readSettings(options.settings);
  const made = momentOf(options.made);
  if (options.out.trim() === '') throw new UsageError('Say with --out where the records go.');
  const isZip = options.out.toLowerCase().endsWith('.zip');
  const inputs = [casePath, options.settings, options.attachments, options.sources];
  refusePlaces(
    inputs.filter((path) => path !== undefined),
    isZip ? options.out : join(options.out, 'bagit.txt'),
    null
  );
  refuseTaken(options.out, isZip);
  const found = await readCase(casePath);
  const { covered, log } = found;
  // What was covered in the case is covered in whatever is made of it.
  const settings: Settings = {
    ...asked,
    redactions: [...covered.redactions, ...asked.redactions],
    reasons: [...covered.reasons, ...asked.reasons],
    decisions: [...covered.decisions, ...asked.decisions]
  };
  const input = await productionInput(await openCase(found), null, settings.redactions);
  const work = runProduction(input, settings, {
    ...{ made, log },
    version: VERSION,
    open: filesIn(options.attachments),
    modules: pictureModules,
    sha256: (bytes) => Promise.resolve(createHash('sha256').update(bytes).digest('hex')),
    rebuild: options.sources === undefined ? null : folderRebuilder(options.sources, found, made),
    print: settings.formats.includes('pdf') ? nativePrinter() : null,
    signal: new AbortController().signal
  });
  const show = options.quiet ? null : new Progress();
  let sink: PackageSink | null = null;
  try {
    for await (const event of work) {
      // Signals are heard between two turns of the event loop alone.
      await new Promise((resolve) => setImmediate(resolve));
      switch (event.type) {
        case 'begin':
          continue;
        case 'progress':
          show?.step(event.what, event.done, event.total);
          continue;
        case 'file':
          sink ??= isZip
            ? new ZipSink(options.out, basename(options.out).replace(/\.zip$/i, ''), made)
            : new FolderSink(options.out);
          await sink.put(event.file.path, event.file.bytes);
          continue;
        case 'done':
          await sink?.finish();
          show?.end(event.summary, options.out);
      }
    }
  } catch (error) {
    sink?.abandon();
    throw error;
  }
}

function readSettings(path: string | undefined): Settings {
  if (path === undefined) return settingsSchema.parse({});
  let text: string;
  try {
    text = readFileSync(path, 'utf8').replace(/^\ufeff/, '');
  } catch (error) {
    throw new UsageError(
      `The settings ${path} could not be read: ${systemReason(error) ?? String(error)}.`
    );
  }
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError) throw new UsageError(`The settings ${path} are not JSON.`);
    throw error;
  }
  const checked = settingsSchema.safeParse(document);
  if (!checked.success)
    throw new UsageError(`The settings ${path} are refused: ${settingsProblem(checked.error)}.`);
  return checked.data;
}

function momentOf(made: string | undefined): number {
  if (made === undefined) return Date.now();
  const at = Date.parse(made);
  if (Number.isNaN(at)) throw new UsageError(`--made takes a time in ISO 8601, not "${made}".`);
  return at;
}

/** Nothing that is there is written over, but an empty folder. */
function refuseTaken(out: string, isZip: boolean): void {
  if (!existsSync(out)) return;
  const facts = statSync(out);
  if (isZip) throw new UsageError(`${out} is there already; nothing is overwritten.`);
  if (!facts.isDirectory())
    throw new UsageError(`${out} is a file; name a folder, or a name ending in .zip.`);
  if (readdirSync(out).length > 0)
    throw new UsageError(`The folder ${out} is not empty; nothing in it is overwritten.`);
}

/** Files of the folder that `examine --attachments` wrote, by their checksum. */
function filesIn(folder: string | undefined): (sha256: string) => Promise<Uint8Array | null> {
  if (folder === undefined) return () => Promise.resolve(null);
  let names: string[];
  try {
    names = readdirSync(folder);
  } catch (error) {
    throw new UsageError(
      `The folder ${folder} could not be read: ${systemReason(error) ?? String(error)}.`
    );
  }
  const bySum = new Map(names.map((name) => [name.slice(0, 64).toLowerCase(), name]));
  return (sha256) => {
    const name = bySum.get(sha256.toLowerCase());
    if (name === undefined) return Promise.resolve(null);
    const bytes = new Uint8Array(readFileSync(join(folder, name)));
    // A file that is not what its name says is none of the case's.
    const isOwn = createHash('sha256').update(bytes).digest('hex') === sha256.toLowerCase();
    return Promise.resolve(isOwn ? bytes : null);
  };
}

class Progress {
  private last = '';

  step(what: string, done: number, total: number): void {
    const text = `${what}: ${done} of ${total}`;
    if (text === this.last) return;
    this.last = text;
    if (process.stderr.isTTY) process.stderr.write(`\r\x1b[K${text}`);
  }

  end({ messages, threads, pages, first, last, sha256 }: ProductionSummary, out: string): void {
    if (process.stderr.isTTY) process.stderr.write('\r\x1b[K');
    const paper = pages === null ? '' : `, ${pages} pages`;
    const stamps = first === null ? '' : `, ${first} to ${last}`;
    process.stderr.write(
      `${visible(out)}: ${messages} lines in ${threads} conversations${paper}${stamps}\nSHA-256 of its list ${sha256}\n`
    );
  }
}
