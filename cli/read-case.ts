import { createReadStream, existsSync, statSync } from 'node:fs';
import { systemReason } from '../core/bytes';
import { z } from 'zod';
import { reasonsSchema, redactionsSchema, settingsProblem, type Settings } from '../core/produce';
import {
  CASE_SECTIONS,
  caseFileSchema,
  caseParts,
  CaseStreamError,
  fromCaseFile,
  joinedFilesSchema,
  withJoined,
  type Attachment,
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
  const { zone, messages, carried } = checked.data;
  const lines = messages.flatMap(({ id, line }): [string, number][] => (line ? [[id, line]] : []));
  const read = fromCaseFile(checked.data);
  return {
    ...read,
    findings: { ...read.findings, attachments: withFiles(path, read.findings, carried ?? {}) },
    zone,
    lines: new Map(lines),
    covered: coveredIn(path, carried ?? {})
  };
}

/** A case file that was read and checked. */
export type ReadCase = ReturnType<typeof fromCaseFile> & {
  zone: string;
  /** Numbers that lines have in the case already. */
  lines: ReadonlyMap<string, number>;
  covered: Covered;
};

/** What was covered in the case, and why; it holds wherever records are made of it. */
type Covered = Pick<Settings, 'redactions' | 'reasons' | 'decisions'> & { name: string | null };

/** Attachments with the files that were joined to them by hand. */
function withFiles(
  path: string,
  { attachments }: Findings,
  { fileJoins = {} }: Record<string, unknown>
): Attachment[] {
  const checked = joinedFilesSchema.safeParse(fileJoins);
  if (!checked.success)
    throw new CaseReadError(`${path} is not a case file: what was joined by hand is damaged.`);
  return attachments.map((attachment) => withJoined(attachment, checked.data[attachment.id]));
}

function coveredIn(path: string, carried: Record<string, unknown>): Covered {
  const { redactions = [], reasons = [], letGo = [], name = null } = carried;
  const schema = z.object({ redactions: redactionsSchema, reasons: reasonsSchema });
  const checked = schema.safeParse({ redactions, reasons });
  if (!checked.success)
    throw new CaseReadError(
      `${path} is not a case file: what it covers is damaged (${settingsProblem(checked.error)}).`
    );
  const files = Array.isArray(letGo) ? letGo.map(String) : [];
  return {
    ...checked.data,
    decisions: files.map((attachment) => ({ attachment, goesAlong: true })),
    name: typeof name === 'string' ? name : null
  };
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
