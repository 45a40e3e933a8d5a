import { createHash } from 'node:crypto';
import { append, MemoryScratch, MemorySource } from '../host';
import { EVERYTHING, runPass, type PassEvent, type PassRequest } from '../examine';
import { emptyFindings, messagesOf, type FileRecord, type Findings, type Source } from '../records';
import { byTime, mergePeople } from '../messages';

export interface PassResult {
  source: Source;
  findings: Findings;
  files: FileRecord[];
  events: PassEvent[];
}

/** A request with everything that a test does not care about. */
export function requestFor(
  files: Record<string, Uint8Array>,
  extra: Partial<PassRequest> = {}
): PassRequest {
  const input = {
    id: 's1',
    name: 'test',
    files: Object.entries(files).map(([name, bytes]) => new MemorySource(name, bytes))
  };
  return {
    input,
    depth: 'freed',
    region: null,
    zone: 'Etc/UTC',
    hasher,
    early: false,
    keys: [],
    scratch: () => new MemoryScratch(),
    want: EVERYTHING,
    profiles: [],
    ...extra
  };
}

/** Runs a whole pass over files in memory and gives what it found. */
export async function passOver(
  files: Record<string, Uint8Array>,
  extra: Partial<PassRequest> = {}
): Promise<PassResult> {
  const result: PassResult = { source: null!, findings: emptyFindings(), files: [], events: [] };
  for await (const event of runPass(requestFor(files, extra))) {
    result.events.push(event);
    if (event.type === 'found' && event.final) merge(result.findings, event.findings);
    if (event.type === 'batch') append(result.findings.messages, [...messagesOf(event.batch)]);
    if (event.type === 'files') append(result.files, event.files);
    if (event.type === 'done') result.source = event.source;
  }
  result.findings.messages.sort(byTime);
  return result;
}

function merge(into: Findings, more: Findings): void {
  into.people = mergePeople(into.people, more.people);
  append(into.stores, more.stores);
  append(into.threads, more.threads);
  append(into.attachments, more.attachments);
  append(into.calls, more.calls);
  append(into.contacts, more.contacts);
  append(into.gaps, more.gaps);
}

async function hasher(): Promise<{ update(b: Uint8Array): void; digest(): string }> {
  const hash = createHash('sha256');
  return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
}
