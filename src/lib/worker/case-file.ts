import {
  emptyFindings,
  messageJson,
  toCaseFile,
  type FileRecord,
  type Source
} from '$core/records';
import { UNDECIDED } from '$core/people';
import type { Carried } from '../storage/carried';
import type { CaseRecord, NoteRecord } from '../storage/schema';
import type { CaseIndex } from './case-index';

const NO_MESSAGES = '"messages":[]';

/** Everything of a case as one document; messages are written a part at a time, for there can be millions. */
export async function caseFileBlob(
  index: CaseIndex,
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

async function messageParts(index: CaseIndex): Promise<Blob[]> {
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
