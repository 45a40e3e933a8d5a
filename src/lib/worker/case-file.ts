import { CHUNK } from '$core/lines';
import {
  BatchJson,
  emptyFindings,
  JsonBytes,
  toCaseFile,
  type FileRecord,
  type Source
} from '$core/records';
import type { CaseRecord } from '../storage/schema';
import type { CaseIndex } from './case-index';

const NO_MESSAGES = '"messages":[]';

/** Everything of a case as one document; messages are written a part at a time, for there can be millions. */
export async function caseFileBlob(
  index: CaseIndex,
  record: CaseRecord,
  sources: Source[],
  files: FileRecord[]
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
    attachments: [...(await index.attachments()).values()].map(({ attachment }) => attachment),
    calls: index.calls,
    contacts: index.contacts,
    gaps: index.gaps.map(({ gap }) => gap)
  };
  const text = JSON.stringify(toCaseFile(sources, findings, files, new Date(), record.zone));
  const at = text.indexOf(NO_MESSAGES) + NO_MESSAGES.length - 1;
  const parts: BlobPart[] = [text.slice(0, at), ...(await messageParts(index)), text.slice(at)];
  return new Blob(parts, { type: 'application/json' });
}

async function messageParts(index: CaseIndex): Promise<Blob[]> {
  const json = new BatchJson({ before: ',{', after: '' });
  const parts: Blob[] = [];
  for (const store of index.stores) {
    await store.load();
    for (let chunk = 0; chunk * CHUNK < store.record.count; chunk++) {
      const out = new JsonBytes();
      json.write(await store.batch(chunk), out);
      const bytes = out.written().subarray(parts.length === 0 ? 1 : 0);
      // Blobs may lie on disk; bytes would all stay in memory.
      parts.push(new Blob([bytes as Uint8Array<ArrayBuffer>]));
    }
  }
  return parts;
}
