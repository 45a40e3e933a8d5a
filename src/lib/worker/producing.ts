import type { CustodyEntry } from '$core/custody';
import {
  runProduction,
  type Exhibit,
  type InputSection,
  type ProduceEvent,
  type ProductionInput,
  type ProductionSummary,
  type Rebuilder,
  type Settings
} from '$core/produce';
import type { FileRecord } from '$core/records';
import { ZonedTime } from '$core/shown';
import { version } from '../../../package.json';
import type { CaseRecord, Conversation, SourceRecord } from '../storage/schema';
import { sha256 } from './hash';
import type { CaseIndex, KeptAttachment } from './case-index';
import type { Naming } from './naming';
import { pictureModules } from './picture-modules';
import { pagePrinter } from './printing';
import type { PagePreview } from './protocol';
import { folderSink, zipSink } from './sinks';

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
  exhibits: readonly Exhibit[]
): Promise<ProductionInput> {
  const sections: InputSection[] = [];
  for (const row of await conversationsOf(index, exhibits))
    sections.push(await sectionOf(index, naming, row));
  return {
    caseName: record.name,
    zone: record.zone,
    sources: sources.map((source) => ({
      id: source.id,
      name: source.name,
      kind: source.source?.kind ?? 'unrecognised',
      sha256: source.source?.sha256 ?? source.files[0]?.sha256 ?? '',
      bytes: source.files.reduce((sum, file) => sum + file.bytes, 0),
      depth: source.source?.depth ?? 'not examined'
    })),
    sections,
    people: [...index.people.values()],
    nameOf: (id) => ({ name: naming.person(id), address: naming.shown(id) }),
    attachments: new Map([...attachments].map(([id, { attachment }]) => [id, attachment])),
    calls: index.calls,
    contacts: index.contacts,
    gaps: index.gaps.map(({ gap }) => gap),
    files
  };
}

/** The conversations that exhibits have lines of, in the order of the case. */
async function conversationsOf(
  index: CaseIndex,
  exhibits: readonly Exhibit[]
): Promise<readonly Conversation[]> {
  const chosen = exhibits.flatMap((one) => (one.kind === 'lines' ? one.messages : []));
  const places = [...(await index.locate(chosen)).values()];
  const threads = new Set(places.map((place) => index.threadOf(place)));
  const touched = new Set([...threads].map((thread) => index.correspondentOf(thread)));
  return index.conversations.filter((row) => touched.has(row));
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
  for await (const event of workOf(input, printed, host)) {
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
  const name = folderName(input, settings, host.made);
  const sink = below ? await folderSink(below, name) : zipSink(name, host.made);
  try {
    for await (const event of workOf(input, settings, host)) {
      if (event.type === 'progress') tell(event.what, event.done, event.total);
      else if (event.type === 'file') await sink.put(event.file.path, event.file.bytes);
      else {
        const zip = await sink.finish();
        const { summary } = event;
        return {
          zip,
          bytes: zip?.size ?? summary.bytes,
          summary,
          name: zip ? `${name}.zip` : name
        };
      }
    }
    throw new Error('The production ended before it was done.');
  } catch (error) {
    await sink.abandon();
    throw error;
  }
}

function folderName(input: ProductionInput, settings: Settings, made: number): string {
  const { date, time } = new ZonedTime(settings.zone ?? input.zone).split(made);
  const name = input.caseName.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '');
  return `${name || 'case'}-${date}-${time.replaceAll(':', '')}`.toLowerCase();
}
