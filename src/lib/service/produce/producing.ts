import type { CustodyEntry } from '$core/custody';
import {
  prepareProduction,
  runProduction,
  type ProductionInput,
  type ProductionSummary,
  type Rebuilder,
  type Settings,
  type Workshop
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
  signal: AbortSignal;
}

function workshopOf(settings: Settings, host: ProducingHost): Workshop {
  return {
    ...host,
    version,
    modules: pictureModules,
    sha256,
    print: settings.formats.includes('pdf') ? pagePrinter(host.signal) : null
  };
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
  const workshop = { ...workshopOf(printed, host), isPreview: true };
  const work = (await prepareProduction(input, printed, workshop)).print();
  let pdf: Uint8Array | null = null;
  for (;;) {
    const step = await work.next();
    if (!step.done) {
      // Of several volumes the first is shown.
      if (step.value.type === 'file') pdf ??= step.value.file.bytes;
      continue;
    }
    const { pages, exhibits } = step.value;
    return pdf && { pdf, pages, starts: Object.fromEntries(exhibits) };
  }
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
    for await (const event of runProduction(input, settings, workshopOf(settings, host))) {
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
