import { downloadZip } from 'client-zip';
import { FORMATS, produce, ZonedTime, type Production, type ProductionThread } from '$core/produce';
import { openStorage } from '../storage/open';
import type { CaseRecord, ProductionRecord, SourceRecord } from '../storage/schema';
import { sha256 } from './hash';
import type { Held, Holdings, Naming } from './holdings';
import type { ProductionResult, ProductionSettings } from './protocol';

/** The chosen lines of a case, ready for the formats. */
export function gatherProduction(
  record: CaseRecord,
  sources: SourceRecord[],
  holdings: Holdings,
  naming: Naming,
  chosen: ReadonlySet<string>,
  settings: ProductionSettings,
  only: string | null
): Production {
  const threads: ProductionThread[] = [];
  for (const row of holdings.correspondents) {
    if (only !== null && row.id !== only) continue;
    const all = holdings.of(row.id);
    const picked = all.filter(({ message }) => chosen.has(message.id));
    if (picked.length === 0) continue;
    threads.push({
      title: naming.correspondent(row),
      participants: row.participants.map((id) => ({
        name: naming.person(id),
        address: naming.shown(id)
      })),
      lines: picked.map((held) => productionLine(held, holdings, naming)),
      of: all.length
    });
  }
  threads.sort((a, b) => a.title.localeCompare(b.title));
  return {
    caseName: record.name,
    made: Date.now(),
    zone: settings.zone,
    sources: sources.map((source) => ({
      id: source.id,
      name: source.name,
      sha256: source.source?.sha256 ?? source.files[0]?.sha256 ?? '',
      bytes: source.files.reduce((sum, file) => sum + file.bytes, 0)
    })),
    threads
  };
}

function productionLine(
  { message, line }: Held,
  holdings: Holdings,
  naming: Naming
): ProductionThread['lines'][number] {
  return {
    number: line,
    id: message.id,
    at: message.sentAt,
    sender: naming.person(message.sender),
    address: naming.shown(message.sender),
    direction: message.direction,
    body: message.body,
    subject: message.subject,
    state: message.state,
    certainty: message.certainty,
    proofs: message.proofs,
    attachments: message.attachments.map((id) => {
      const found = holdings.attachments.get(id);
      return {
        name: found?.name ?? 'unnamed',
        mime: found?.mime ?? null,
        bytes: found?.bytes ?? null
      };
    })
  };
}

/** The page that the web format gives for the first conversation of a production. */
export function previewPage(production: Production): string {
  const [, page] = FORMATS.html.produce(production);
  return page?.text ?? '';
}

export async function runProduction(
  production: Production,
  settings: ProductionSettings,
  caseId: string
): Promise<ProductionResult> {
  const files = await produce(production, settings.formats, sha256);
  const folder = folderName(production);
  const lastModified = new Date(production.made);
  const zip = await downloadZip(
    files.map((file) => ({ name: `${folder}/${file.path}`, input: file.text, lastModified }))
  ).blob();
  const record: ProductionRecord = {
    id: crypto.randomUUID(),
    caseId,
    made: production.made,
    formats: settings.formats,
    zone: settings.zone,
    lines: production.threads.reduce((sum, thread) => sum + thread.lines.length, 0),
    threads: production.threads.length,
    sha256: await sha256(new Uint8Array(await zip.arrayBuffer())),
    bytes: zip.size
  };
  await (await openStorage()).put('productions', record);
  return { record, name: `${folder}.zip`, zip };
}

function folderName(production: Production): string {
  const { date, time } = new ZonedTime(production.zone).split(production.made);
  const name = production.caseName.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-+|-+$/g, '');
  return `${name || 'case'}-${date}-${time.replaceAll(':', '')}`.toLowerCase();
}
