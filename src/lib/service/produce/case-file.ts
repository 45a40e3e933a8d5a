/** A case in the forms in which it leaves its place: as one document, and as what records are made of. */
import {
  emptyFindings,
  messageJson,
  toCaseFile,
  type FileRecord,
  type Source
} from '$core/records';
import { UNDECIDED } from '$core/case/people';
import type { CaseParts, Carried } from '$core/case';
import type { CaseRecord, NoteRecord, SourceRecord } from '../../storage/schema';
import type { KeptIndex } from '../lines/store-lines';

/** A case as it is kept here, with everything that records are made of. */
export interface OpenedParts extends Pick<CaseParts, 'naming' | 'files' | 'attachments' | 'index'> {
  record: CaseRecord;
  sources: readonly SourceRecord[];
}

/** The same as records are made of it wherever it is open. */
export function partsOf({ record, sources, ...rest }: OpenedParts): CaseParts {
  return {
    ...rest,
    name: record.name,
    zone: record.zone,
    sources: sources.map(({ id, name, source, sum, files }) => ({
      ...{ id, name },
      kind: source?.kind ?? 'unrecognised',
      sha256: sum || source?.sha256 || '',
      bytes: files.reduce((total, { bytes }) => total + bytes, 0),
      depth: source?.depth ?? 'not examined'
    }))
  };
}

const NO_MESSAGES = '"messages":[]';

/** Everything of a case as one document; messages are written a part at a time, for there can be millions. */
export async function caseFileBlob(
  index: KeptIndex,
  record: CaseRecord,
  sources: Source[],
  files: FileRecord[],
  notes: Iterable<NoteRecord>,
  carried: Carried
): Promise<Blob> {
  const people = [...index.people.values()].map((person) => ({
    ...person,
    name: record.names[person.id] ?? person.name
  }));
  const findings = {
    ...emptyFindings(),
    people,
    stores: index.stores.map(({ record }) => record.facts),
    threads: index.stores.flatMap(({ record }) => record.threads),
    attachments: [...(await index.attachments()).values()].map(({ own }) => own),
    calls: index.calls,
    contacts: index.contacts,
    gaps: index.gaps.map(({ gap }) => gap)
  };
  const file = {
    ...toCaseFile(sources, findings, files, new Date(), record.zone),
    version: 2 as const,
    notes: [...notes].map(({ of, kind, text, labels }) => ({ of, kind, text, labels })),
    decisions: record.decisions ?? UNDECIDED,
    carried
  };
  const text = JSON.stringify(file);
  const at = text.indexOf(NO_MESSAGES) + NO_MESSAGES.length - 1;
  const parts: BlobPart[] = [text.slice(0, at), ...(await messageParts(index)), text.slice(at)];
  return new Blob(parts, { type: 'application/json' });
}

/** Characters of JSON that are put into one blob. */
const PART = 1 << 22;

async function messageParts(index: KeptIndex): Promise<Blob[]> {
  const parts: Blob[] = [];
  let text = '';
  for (const store of index.stores) {
    let row = 0;
    for await (const message of store.messages()) {
      const line = store.columns.line[row++]!;
      const json = `${messageJson(message).slice(0, -1)},"line":${line === 0 ? 'null' : line}}`;
      text += `${parts.length === 0 && text === '' ? '' : ','}${json}`;
      if (text.length < PART) continue;
      // Blobs may lie on disk; text would all stay in memory.
      parts.push(new Blob([text]));
      text = '';
    }
  }
  if (text !== '') parts.push(new Blob([text]));
  return parts;
}
