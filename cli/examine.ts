import { createHash } from 'node:crypto';
import {
  EVERYTHING,
  runPass,
  type Hasher,
  type HelperPool,
  type PassEvent,
  type SourceInput
} from '../core/examine';
import {
  emptyDevice,
  emptyFindings,
  emptyInside,
  type Attachment,
  type FileRecord,
  type Findings,
  type Source,
  type Store
} from '../core/records';
import { writeReason } from '../core/host';
import { visible } from '../core/shown';
import { mergePeople, nameByContacts } from '../core/messages';
import { writeAttachments } from './attachments';
import { DiskScratch } from './scratch';
import { openInputs, type Unopened } from './inputs';
import { threadPool } from './threads';
import { parseOptions, USAGE, type ExamineOptions } from './options';
import { UsageError } from './usage-error';
import { CaseFileWriter } from './write';

/** Larger tables are written while they are read, which is quicker and takes less memory. */
export const MOST_HELD = 4000;

const DONE = 0;
const BAD_USAGE = 2;
const UNREADABLE = 3;
const KEY_NEEDED = 4;
const LOCKED = ['key-needed', 'wrong-key'];

/** The headless command: examines sources, writes a case file, gives the exit code. */
export async function examine(args: string[]): Promise<number> {
  if (args.includes('--help')) {
    process.stdout.write(`${USAGE}\n`);
    return DONE;
  }
  let options: ExamineOptions;
  try {
    options = parseOptions(args);
  } catch (error) {
    if (!(error instanceof UsageError)) throw error;
    say(error.message);
    return BAD_USAGE;
  }
  try {
    return await examineAll(options);
  } catch (error) {
    if (!(error instanceof Error && 'syscall' in error)) throw error;
    say(`What was found could not be written: the place ${writeReason(error)}.`);
    return UNREADABLE;
  }
}

async function examineAll(options: ExamineOptions): Promise<number> {
  const out = new CaseFileWriter(options.out, { made: new Date(), zone: options.zone });
  const { inputs, unopened } = openInputs(options.paths);
  const findings = emptyFindings();
  const files: FileRecord[] = [];
  const sources: Source[] = [];
  const helpers = threadPool();
  try {
    for (const input of inputs)
      sources.push(await examineOne(input, options, findings, files, out, helpers));
  } finally {
    helpers.end();
  }
  findings.people = nameByContacts(findings.people, findings.contacts);
  for (const [i, missing] of unopened.entries()) {
    sources.push(unopenedSource(missing, inputs.length + i + 1, options));
  }
  await keepAttachments(options, inputs, findings.attachments, sources);
  await out.finish({ sources, findings, files });
  return exitCode(sources);
}

/** What cannot be written of the attachments is noted; the case file is not lost by it. */
async function keepAttachments(
  { attachments, keys, quiet }: ExamineOptions,
  inputs: SourceInput[],
  found: readonly Attachment[],
  sources: Source[]
): Promise<void> {
  if (attachments === null) return;
  try {
    await writeAttachments(attachments, keys, inputs, found);
  } catch (error) {
    if (!(error instanceof Error && 'syscall' in error)) throw error;
    const text = `Not all attachments could be written to ${attachments}: ${error.message}.`;
    if (!quiet) say(`error: ${text}`);
    const note = { level: 'error' as const, code: 'unwritten', text, path: null };
    sources[0]?.notes.push(note);
  }
}

async function examineOne(
  input: SourceInput,
  options: ExamineOptions,
  findings: Findings,
  files: FileRecord[],
  out: CaseFileWriter,
  helpers: HelperPool
): Promise<Source> {
  const events = runPass({
    input,
    depth: options.depth,
    region: null,
    zone: options.zone,
    hasher: async () => sha256(),
    early: false,
    keys: options.keys,
    scratch: () => new DiskScratch(),
    want: { ...EVERYTHING, kinds: options.kinds },
    profiles: [],
    frame: out.frame,
    mostHeld: MOST_HELD,
    helpers,
    turn: () => new Promise((resolve) => setImmediate(resolve))
  });
  let source: Source | null = null;
  for await (const event of events) {
    if (!options.quiet) report(input.name, event);
    if (event.type === 'batch') out.batch(event.batch);
    if (event.type === 'json') for (const json of event.records) out.records(json);
    await out.keepUp();
    if (event.type === 'found') take(findings, event.findings);
    if (event.type === 'files') for (const file of event.files) files.push(file);
    if (event.type === 'done') source = event.source;
  }
  return source!;
}

function sha256(): Hasher {
  const hash = createHash('sha256');
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
}

function take(into: Findings, more: Findings): void {
  into.people = mergePeople(into.people, more.people);
  into.stores = into.stores.concat(more.stores);
  into.threads = into.threads.concat(more.threads);
  into.attachments = into.attachments.concat(more.attachments);
  into.calls = into.calls.concat(more.calls);
  into.contacts = into.contacts.concat(more.contacts);
  into.gaps = into.gaps.concat(more.gaps);
}

function counted(stores: readonly Store[]): string {
  const states = stores.flatMap(({ counts }) => Object.values(counts));
  return `${states.reduce((sum, count) => sum + count, 0)} records`;
}

let lastPercent = -1;

function report(name: string, event: PassEvent): void {
  switch (event.type) {
    case 'progress': {
      const percent = Math.floor(event.fraction * 100);
      if (percent !== lastPercent) say(`${name}: ${percent} %, ${event.stage}`);
      lastPercent = percent;
      return;
    }
    case 'note':
      return say(`${event.note.level}: ${event.note.text}`);
    case 'found':
      return say(`${name}: ${counted(event.findings.stores)}`);
    case 'source':
    case 'candidate':
    case 'batch':
    case 'json':
    case 'files':
    case 'done':
      return;
  }
}

function unopenedSource({ path, reason }: Unopened, n: number, options: ExamineOptions): Source {
  const text = `${path} ${reason}.`;
  if (!options.quiet) say(`error: ${text}`);
  return {
    id: `s${n}`,
    name: path,
    kind: 'unrecognised',
    bytes: 0,
    sha256: '',
    parts: [],
    depth: options.depth,
    device: emptyDevice(),
    inside: emptyInside(),
    notes: [{ level: 'error', code: 'unopened', text, path }]
  };
}

function exitCode(sources: Source[]): number {
  const errors = sources.flatMap((source) => source.notes).filter((note) => note.level === 'error');
  if (errors.some(({ code }) => LOCKED.includes(code))) return KEY_NEEDED;
  return errors.length > 0 ? UNREADABLE : DONE;
}

/** One line of the report; names of files cannot move the cursor or break it in two. */
function say(text: string): void {
  process.stderr.write(`${visible(text).replace(/\n/g, '[U+000A]')}\n`);
}
