import { createReadStream, existsSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import { systemReason } from '../core/host';
import { carriedSchema, type Carried, type ReadCaseFile } from '../core/case';
import { brokenEntry, type CustodyEntry } from '../core/custody';
import { settingsProblem, type Settings } from '../core/produce';
import {
  CASE_SECTIONS,
  caseFileSchema,
  caseParts,
  CaseStreamError,
  fromCaseFile,
  type FileRecord,
  type Findings
} from '../core/records';

/** A file that is no case, or cannot be read, in one sentence. */
export class CaseReadError extends Error {
  override readonly name = 'CaseReadError';
}

/**
 * Reads a case file, as one document or one record a line.
 * @throws CaseReadError
 */
export async function readCase(path: string): Promise<ReadCase> {
  const document = await guarded(path, () => documentOf(path));
  const checked = caseFileSchema.safeParse(document);
  if (!checked.success) {
    const [issue] = checked.error.issues;
    throw new CaseReadError(
      `${path} is not a case file: ${issue!.path.join('.') || 'the document'}: ${issue!.message}.`
    );
  }
  const { zone, messages, decisions } = checked.data;
  const lines = messages.flatMap(({ id, line }): [string, number][] => (line ? [[id, line]] : []));
  const carried = carriedIn(path, checked.data.carried ?? {});
  return {
    ...fromCaseFile(checked.data),
    name: carried.name ?? basename(path).replace(/(\.case)?\.jsonl?$/i, ''),
    zone,
    lines: new Map(lines),
    told: { ...carried, decisions },
    covered: {
      redactions: carried.redactions ?? [],
      reasons: carried.reasons ?? [],
      decisions: (carried.letGo ?? []).map((attachment) => ({ attachment, goesAlong: true }))
    },
    log: carried.log ?? []
  };
}

/** A case file that was read and checked. */
export interface ReadCase extends ReadCaseFile {
  findings: Findings;
  files: FileRecord[];
  /** What was covered in the case, and why; it holds wherever records are made of it. */
  covered: Pick<Settings, 'redactions' | 'reasons' | 'decisions'>;
  /** The case's log, as it was carried; empty where it does not hold. */
  log: readonly CustodyEntry[];
}

/** What the file carries of the case beside its records; a file of version 1 carries nothing. */
function carriedIn(path: string, carried: Record<string, unknown>): Partial<Carried> {
  const checked = carriedSchema.partial().safeParse(carried);
  if (!checked.success)
    throw new CaseReadError(
      `${path} is not a case file: what it carries is damaged (${settingsProblem(checked.error)}).`
    );
  const { log = [] } = checked.data;
  return { ...checked.data, log: brokenEntry(log) === null ? log : [] };
}

async function guarded(path: string, read: () => unknown): Promise<unknown> {
  try {
    if (!existsSync(path)) throw new CaseReadError(`${path || 'An empty name'} does not exist.`);
    if (!statSync(path).isFile()) throw new CaseReadError(`${path} is not a file.`);
    return await read();
  } catch (error) {
    if (error instanceof CaseReadError) throw error;
    if (error instanceof CaseStreamError)
      throw new CaseReadError(`${path} is not a case file: ${error.message}.`);
    const reason = systemReason(error);
    if (reason !== null) throw new CaseReadError(`${path} ${reason}.`);
    throw error;
  }
}

/** The whole document; lists of which no record is there are empty. */
async function documentOf(path: string): Promise<unknown> {
  const document: Record<string, unknown> = {};
  const lists = new Map<string, unknown[]>(CASE_SECTIONS.map((section) => [section, []]));
  for await (const { section, value } of caseParts(createReadStream(path), () => true)) {
    const list = lists.get(section);
    if (list) list.push(value);
    else document[section] = section === 'notes' ? undefined : value;
  }
  return { ...document, ...Object.fromEntries(lists) };
}
