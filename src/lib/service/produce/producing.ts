import type { CustodyEntry } from '$core/custody';
import {
  runProduction,
  type ProduceEvent,
  type ProductionInput,
  type ProductionSummary,
  type Rebuilder,
  type Settings
} from '$core/produce';
import { version } from '../../../../package.json';
import { sha256 } from '../host/hash';
import { pictureModules } from '../host/picture-modules';
import { pagePrinter } from './printing';
import type { PagePreview } from '../api/protocol';
import { folderSink, zipSink, type PackageSink } from './sinks';

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
