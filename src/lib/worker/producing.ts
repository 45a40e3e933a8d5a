import type { CustodyEntry } from '$core/custody';
import {
  runProduction,
  type Exhibit,
  type InputSection,
  type ProduceEvent,
  type ProductionInput,
  type ProductionSummary,
  type Rebuilder,
  type Redaction,
  type Settings
} from '$core/produce';
import type { FileRecord, Message } from '$core/records';
import { version } from '../../../package.json';
import type { CaseRecord, Conversation, SourceRecord } from '../storage/schema';
import { sha256 } from './hash';
import type { CaseIndex, KeptAttachment } from './case-index';
import type { Naming } from './naming';
import { pictureModules } from './picture-modules';
import { pagePrinter } from './printing';
import type { PagePreview } from './protocol';
import { folderSink, zipSink, type PackageSink } from './sinks';

/** What a production is made of, beside its settings. */
export interface CaseParts {
  record: CaseRecord;
  sources: readonly SourceRecord[];
  index: CaseIndex;
  naming: Naming;
  files: readonly FileRecord[];
  attachments: ReadonlyMap<string, KeptAttachment>;
}

/** A case as input of a production: one section a correspondent, of those that exhibits have lines of. */
export async function productionInput(
  { record, sources, index, naming, files, attachments }: CaseParts,
  exhibits: readonly Exhibit[],
  redactions: readonly Redaction[]
): Promise<ProductionInput> {
  const sections: InputSection[] = [];
  const carriers = carriersOf(exhibits, files, attachments);
  for (const row of await conversationsOf(index, exhibits, carriers))
    sections.push(await sectionOf(index, naming, row));
  return {
    caseName: record.name,
    zone: record.zone,
    sources: sources.map((source) => ({
      id: source.id,
      name: source.name,
      kind: source.source?.kind ?? 'unrecognised',
      sha256: source.sum || source.source?.sha256 || '',
      bytes: source.files.reduce((sum, file) => sum + file.bytes, 0),
      depth: source.source?.depth ?? 'not examined'
    })),
    sections,
    people: [...index.people.values()],
    nameOf: (id) => ({ name: naming.person(id), address: naming.shown(id) }),
    stores: new Map(index.storePaths()),
    attachments: new Map([...attachments].map(([id, { attachment }]) => [id, attachment])),
    calls: index.calls,
    contacts: index.contacts,
    gaps: index.gaps.map(({ gap }) => gap),
    files,
    membersOf: (id) => naming.members(id),
    elsewhere: await namedMessages(index, redactions),
    isPart: true
  };
}

/** The messages that redactions name, and all wordings of each. */
async function namedMessages(
  index: CaseIndex,
  redactions: readonly Redaction[]
): Promise<Message[]> {
  const ids = redactions.flatMap((one) => ('message' in one ? [one.message] : []));
  const places = [...(await index.locate(ids)).values()];
  const held = await index.heldAll(places);
  return held.map(({ message }) => message);
}

/** The conversations that exhibits have lines of, in the order of the case. */
async function conversationsOf(
  index: CaseIndex,
  exhibits: readonly Exhibit[],
  carriers: readonly string[]
): Promise<readonly Conversation[]> {
  const chosen = exhibits.flatMap((one) => (one.kind === 'lines' ? one.messages : []));
  const places = [...(await index.locate([...chosen, ...carriers])).values()];
  const threads = new Set(places.map((place) => index.threadOf(place)));
  const touched = new Set([...threads].map((thread) => index.correspondentOf(thread)));
  return index.conversations.filter((row) => touched.has(row));
}

/** The messages that files in exhibits came with: these say when they were sent, and by whom. */
function carriersOf(
  exhibits: readonly Exhibit[],
  files: readonly FileRecord[],
  attachments: ReadonlyMap<string, KeptAttachment>
): string[] {
  const wanted = new Set(exhibits.flatMap((one) => (one.kind === 'files' ? one.files : [])));
  if (wanted.size === 0) return [];
  const sums = new Set<string | null>();
  for (const { id, sha256 } of files) if (wanted.has(id)) sums.add(sha256);
  for (const [id, { attachment }] of attachments) if (wanted.has(id)) sums.add(attachment.sha256);
  return [...attachments].flatMap(([id, { attachment }]) => {
    const isSame = attachment.sha256 !== null && sums.has(attachment.sha256);
    return isSame || wanted.has(id) ? [attachment.message] : [];
  });
}

async function sectionOf(
  index: CaseIndex,
  naming: Naming,
  row: Conversation
): Promise<InputSection> {
  const list = await index.rows(row.id);
  const messages: InputSection['messages'][number][] = [];
  for (let at = 0; at < list.row.length; at++)
    messages.push(await index.held({ store: list.store[at]!, row: list.row[at]! }));
  return {
    id: row.id,
    threads: row.threads,
    title: row.group ? naming.correspondent(row) : null,
    participants: row.participants,
    isGroup: row.group,
    messages
  };
}

/** What a production reads of the case's files. */
export type OpenAttachment = (sha256: string) => Promise<Uint8Array | null>;

/** Where a production is made, and with what. */
export interface ProducingHost {
  made: number;
  open: OpenAttachment;
  rebuild: Rebuilder | null;
  /** The case's log as it stood. */
  log: readonly CustodyEntry[];
  isPreview?: boolean;
  signal: AbortSignal;
}

function workOf(
  input: ProductionInput,
  settings: Settings,
  host: ProducingHost
): AsyncGenerator<ProduceEvent> {
  return runProduction(input, settings, {
    ...host,
    version,
    modules: pictureModules,
    sha256,
    print: settings.formats.includes('pdf') ? pagePrinter(host.signal) : null
  });
}

/** The printed pages of a case's exhibits, as they will come out. */
export async function previewPages(
  input: ProductionInput,
  settings: Settings,
  host: ProducingHost
): Promise<PagePreview | null> {
  const printed: Settings = {
    ...settings,
    formats: ['pdf'],
    pdf: { ...settings.pdf, password: null, archival: false }
  };
  let pdf: Uint8Array | null = null;
  for await (const event of workOf(input, printed, { ...host, isPreview: true })) {
    if (event.type !== 'file') continue;
    const { path, bytes } = event.file;
    if (/record(-001)?\.pdf$/.test(path)) pdf = bytes;
    else if (path === 'data/production.json' && pdf) return { pdf, ...placesIn(bytes) };
  }
  return null;
}

function placesIn(description: Uint8Array): Pick<PagePreview, 'pages' | 'starts'> {
  const { pages, exhibits } = JSON.parse(new TextDecoder().decode(description)) as {
    pages: number;
    exhibits: { label: string; page: number | null }[];
  };
  const starts: Record<string, number> = {};
  for (const { label, page } of exhibits) if (page !== null) starts[label] ??= page;
  return { pages, starts };
}

/** A package that was produced, and what it came to. */
export interface Archive {
  /** Null where it was written into a folder. */
  zip: Blob | null;
  /** Of all files, where there is no archive. */
  bytes: number;
  summary: ProductionSummary;
  name: string;
}

/** Produces the chosen records as one archive, or into a folder. */
export async function produceArchive(
  input: ProductionInput,
  settings: Settings,
  host: ProducingHost,
  below: FileSystemDirectoryHandle | null,
  tell: (what: string, done: number, total: number) => void
): Promise<Archive> {
  let name = '';
  let sink: PackageSink | null = null;
  try {
    for await (const event of workOf(input, settings, host)) {
      switch (event.type) {
        case 'begin':
          name = event.name;
          continue;
        case 'progress':
          tell(event.what, event.done, event.total);
          continue;
        case 'file':
          sink ??= below ? await folderSink(below, name) : zipSink(name, host.made);
          await sink.put(event.file.path, event.file.bytes);
          continue;
        case 'done': {
          const zip = (await sink?.finish()) ?? null;
          const { summary } = event;
          const bytes = zip?.size ?? summary.bytes;
          return { zip, bytes, summary, name: zip ? `${name}.zip` : name };
        }
      }
    }
    throw new Error('The production ended before it was done.');
  } catch (error) {
    await sink?.abandon();
    throw error;
  }
}
