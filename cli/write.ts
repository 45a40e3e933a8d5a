import { closeSync, openSync, renameSync, writeSync } from 'node:fs';
import {
  attachmentToFile,
  callToFile,
  contactToFile,
  fileToFile,
  gapToFile,
  messageToFile,
  sourceToFile,
  storeToFile,
  CASE_FORMAT,
  type FileRecord,
  type Findings,
  type Source
} from '../core/records';

export interface CaseContent {
  sources: Source[];
  findings: Findings;
  files: FileRecord[];
  made: Date;
  zone: string;
}

type Section = [name: string, record: string, items: Iterable<unknown>];

function sections({ sources, findings, files }: CaseContent): Section[] {
  return [
    ['sources', 'source', sources.map(sourceToFile)],
    ['stores', 'store', mapped(findings.stores, storeToFile)],
    ['people', 'person', findings.people],
    ['threads', 'thread', findings.threads],
    ['messages', 'message', mapped(findings.messages, messageToFile)],
    ['attachments', 'attachment', mapped(findings.attachments, attachmentToFile)],
    ['calls', 'call', mapped(findings.calls, callToFile)],
    ['contacts', 'contact', mapped(findings.contacts, contactToFile)],
    ['files', 'file', mapped(files, fileToFile)],
    ['gaps', 'gap', mapped(findings.gaps, gapToFile)]
  ];
}

function* mapped<A, B>(items: Iterable<A>, map: (item: A) => B): Generator<B> {
  for (const item of items) yield map(item);
}

/** Writes the case file piece by piece, under a temporary name until it is whole. */
export function writeCaseFile(path: string, content: CaseContent): void {
  const partial = `${path}.partial`;
  const out = new Writer(partial);
  try {
    if (path.endsWith('.jsonl')) writeLines(out, content);
    else writeDocument(out, content);
  } finally {
    out.close();
  }
  renameSync(partial, path);
}

function head({ made, zone }: CaseContent): Record<string, unknown> {
  return { format: CASE_FORMAT, version: 1, made: made.toISOString(), zone };
}

function writeDocument(out: Writer, content: CaseContent): void {
  out.write(JSON.stringify(head(content)).slice(0, -1));
  for (const [name, , items] of sections(content)) {
    out.write(`,\n"${name}":[`);
    let first = true;
    for (const item of items) {
      out.write(`${first ? '\n' : ',\n'}${JSON.stringify(item)}`);
      first = false;
    }
    out.write(']');
  }
  out.write('}\n');
}

function writeLines(out: Writer, content: CaseContent): void {
  out.write(`${JSON.stringify({ record: 'case', ...head(content) })}\n`);
  for (const [, record, items] of sections(content)) {
    for (const item of items) out.write(`${JSON.stringify({ record, ...(item as object) })}\n`);
  }
}

const BUFFER = 1 << 20;

class Writer {
  private readonly descriptor: number;
  private pending: string[] = [];
  private size = 0;

  constructor(path: string) {
    this.descriptor = openSync(path, 'w');
  }
  write(text: string): void {
    this.pending.push(text);
    this.size += text.length;
    if (this.size >= BUFFER) this.flush();
  }
  private flush(): void {
    writeSync(this.descriptor, this.pending.join(''));
    this.pending = [];
    this.size = 0;
  }
  close(): void {
    this.flush();
    closeSync(this.descriptor);
  }
}
