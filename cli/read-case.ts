import { createReadStream, readFileSync, statSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { systemReason } from '../core/bytes';
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
export async function readCase(
  path: string
): Promise<ReturnType<typeof fromCaseFile> & { zone: string }> {
  const document = await guarded(path, () =>
    path.toLowerCase().endsWith('.jsonl') ? fromLines(path) : fromDocument(path)
  );
  const checked = caseFileSchema.safeParse(document);
  if (!checked.success) {
    const [issue] = checked.error.issues;
    throw new CaseReadError(
      `${path} is no case file: ${issue!.path.join('.') || 'the document'}: ${issue!.message}.`
    );
  }
  return { ...fromCaseFile(checked.data), zone: checked.data.zone };
}

async function guarded(path: string, read: () => unknown): Promise<unknown> {
  try {
    if (!statSync(path).isFile()) throw new CaseReadError(`${path} is no file.`);
    return await read();
  } catch (error) {
    if (error instanceof CaseReadError) throw error;
    if (error instanceof SyntaxError)
      throw new CaseReadError(`${path} is no case file: it is no JSON.`);
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
