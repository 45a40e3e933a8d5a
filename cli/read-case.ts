import { createReadStream, readFileSync, statSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { systemReason } from '../core/bytes';
import { z } from 'zod';
import { reasonsSchema, redactionsSchema, settingsProblem, type Settings } from '../core/produce';
import { caseFileSchema, fromCaseFile, type CaseFile } from '../core/records';

/** A file that is no case, or cannot be read, in one sentence. */
export class CaseReadError extends Error {
  override readonly name = 'CaseReadError';
}

const SECTIONS = {
  source: 'sources',
  store: 'stores',
  person: 'people',
  thread: 'threads',
  message: 'messages',
  attachment: 'attachments',
  call: 'calls',
  contact: 'contacts',
  file: 'files',
  gap: 'gaps'
} as const;

/**
 * Reads a case file, as one document or one record a line.
 * @throws CaseReadError
 */
export async function readCase(path: string): Promise<ReadCase> {
  const document = await guarded(path, () =>
    path.toLowerCase().endsWith('.jsonl') ? fromLines(path) : fromDocument(path)
  );
  const checked = caseFileSchema.safeParse(document);
  if (!checked.success) {
    const [issue] = checked.error.issues;
    throw new CaseReadError(
      `${path} is not a case file: ${issue!.path.join('.') || 'the document'}: ${issue!.message}.`
    );
  }
  const { zone, messages, carried } = checked.data;
  const lines = messages.flatMap(({ id, line }): [string, number][] => (line ? [[id, line]] : []));
  return {
    ...fromCaseFile(checked.data),
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
    if (!statSync(path).isFile()) throw new CaseReadError(`${path} is not a file.`);
    return await read();
  } catch (error) {
    if (error instanceof CaseReadError) throw error;
    if (error instanceof SyntaxError)
      throw new CaseReadError(`${path} is not a case file: it does not hold JSON.`);
    const reason = systemReason(error);
    if (reason !== null) throw new CaseReadError(`${path} ${reason}.`);
    if (error instanceof RangeError)
      throw new CaseReadError(
        `${path} is too large for one document; write it one record a line (a name ending in .jsonl).`
      );
    throw error;
  }
}

function fromDocument(path: string): unknown {
  return JSON.parse(readFileSync(path, 'utf8').replace(/^\ufeff/, ''));
}

async function fromLines(path: string): Promise<unknown> {
  const lists: Record<string, unknown[]> = {};
  for (const name of Object.values(SECTIONS)) lists[name] = [];
  let head: Partial<CaseFile> = {};
  const lines = createInterface({ input: createReadStream(path, 'utf8'), crlfDelay: Infinity });
  for await (const line of lines) {
    if (line.trim() === '') continue;
    const { record, ...rest } = JSON.parse(line) as { record?: string };
    if (record === 'case') head = rest;
    else if (record !== undefined && record in SECTIONS)
      lists[SECTIONS[record as keyof typeof SECTIONS]]!.push(rest);
  }
  return { ...head, ...lists };
}
