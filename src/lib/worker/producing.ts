import { downloadZip } from 'client-zip';
import {
  runProduction,
  type InputSection,
  type ProduceEvent,
  type ProductionInput,
  type Settings
} from '$core/produce';
import { ZonedTime } from '$core/shown';
import { version } from '../../../package.json';
import { openStorage } from '../storage/open';
import type { CaseRecord, ProductionRecord, SourceRecord } from '../storage/schema';
import { sha256 } from './hash';
import type { Holdings, Naming } from './holdings';
import { pagePrinter } from './printing';
import type { PagePreview, ProductionResult } from './protocol';

/** A case as input of a production: one section a correspondent, with the lines that were chosen. */
export function productionInput(
  record: CaseRecord,
  sources: readonly SourceRecord[],
  holdings: Holdings,
  naming: Naming,
  only: string | null,
  chosen: ReadonlySet<string>
): ProductionInput {
  const sections = holdings.correspondents
    .filter(({ id }) => only === null || id === only)
    .map((row): InputSection => ({
      id: row.id,
      threads: row.threads,
      title: row.group ? naming.correspondent(row) : null,
      participants: row.participants,
      isGroup: row.group,
      messages: holdings.of(row.id).map(({ message, line }) => ({ message, line }))
    }))
    // What is not on the list is not needed, but for what stands beside it.
    .filter(({ messages }) => messages.some(({ message }) => chosen.has(message.id)));
  const order = new Map(holdings.correspondents.map((row) => [row.id, naming.correspondent(row)]));
  sections.sort((a, b) => order.get(a.id)!.localeCompare(order.get(b.id)!));
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
    people: [...holdings.people.values()],
    nameOf: (id) => ({ name: naming.person(id), address: naming.shown(id) }),
    attachments: holdings.attachments,
    calls: holdings.calls,
    contacts: holdings.contacts,
    gaps: holdings.gaps,
    files: []
  };
}

/** What a production reads of the case's files. */
export type OpenAttachment = (sha256: string) => Promise<Uint8Array | null>;

function workOf(
  input: ProductionInput,
  settings: Settings,
  made: number,
  open: OpenAttachment,
  signal: AbortSignal
): AsyncGenerator<ProduceEvent> {
  return runProduction(input, settings, {
    made,
    version,
    open,
    sha256,
    print: settings.formats.includes('pdf') ? pagePrinter(signal) : null,
    signal
  });
}

/** The printed pages of a case's exhibits, as they will come out. */
export async function previewPages(
  input: ProductionInput,
  settings: Settings,
  open: OpenAttachment,
  signal: AbortSignal
): Promise<PagePreview | null> {
  const printed: Settings = {
    ...settings,
    formats: ['pdf'],
    pdf: { ...settings.pdf, password: null, archival: false }
  };
  let pdf: Uint8Array | null = null;
  for await (const event of workOf(input, printed, Date.now(), open, signal)) {
    if (event.type !== 'file') continue;
    const { path, bytes } = event.file;
    if (/record(-001)?\.pdf$/.test(path)) pdf = bytes;
    else if (path === 'data/production.json' && pdf) return { pdf, ...placesIn(bytes) };
  }
  return null;
}

function placesIn(description: Uint8Array): Pick<PagePreview, 'pages' | 'starts'> {
  const { pages, lines } = JSON.parse(new TextDecoder().decode(description)) as {
    pages: number;
    lines: { thread: string; page: number | null }[];
  };
  const starts: Record<string, number> = {};
  for (const { thread, page } of lines) if (page !== null) starts[thread] ??= page;
  return { pages, starts };
}

/** Produces the chosen records as one archive, and remembers that it was done. */
export async function produceArchive(
  input: ProductionInput,
  settings: Settings,
  caseId: string,
  open: OpenAttachment,
  signal: AbortSignal,
  tell: (what: string, done: number, total: number) => void
): Promise<ProductionResult> {
  const made = Date.now();
  const folder = folderName(input, settings, made);
  const parts: { name: string; input: Blob; lastModified: Date }[] = [];
  const lastModified = new Date(made);
  for await (const event of workOf(input, settings, made, open, signal)) {
    if (event.type === 'progress') tell(event.what, event.done, event.total);
    else if (event.type === 'file') {
      // Blobs may lie on disk; bytes would all stay in memory.
      const blob = new Blob([event.file.bytes as Uint8Array<ArrayBuffer>]);
      parts.push({ name: `${folder}/${event.file.path}`, input: blob, lastModified });
    } else {
      const zip = await downloadZip(parts).blob();
      const { summary } = event;
      const record: ProductionRecord = {
        id: crypto.randomUUID(),
        caseId,
        made,
        formats: settings.formats,
        zone: settings.zone ?? input.zone,
        lines: summary.messages,
        threads: summary.threads,
        sha256: summary.sha256,
        bytes: zip.size,
        pages: summary.pages,
        first: summary.first,
        last: summary.last,
        settings
      };
      await (await openStorage()).put('productions', record);
      return { record, name: `${folder}.zip`, zip };
    }
  }
  throw new Error('The production ended before it was done.');
}

function folderName(input: ProductionInput, settings: Settings, made: number): string {
  const { date, time } = new ZonedTime(settings.zone ?? input.zone).split(made);
  const name = input.caseName.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '');
  return `${name || 'case'}-${date}-${time.replaceAll(':', '')}`.toLowerCase();
}
