import { isZone } from '$core/shown';
import { caseFileSchema, fromCaseFile, type Findings, type Source } from '$core/records';
import { newCase, putCase } from '../storage/casebook';
import { logAct } from '../storage/custody';
import { openStorage } from '../storage/open';
import type { SourceRecord } from '../storage/schema';
import { sha256 } from './hash';
import { UNDECIDED } from '$core/people';
import { keepNotes } from '../storage/notes';
import { Keeper } from './keeping';
import { Shelf } from './shelf';

export type ImportResult = { ok: true; caseId: string } | { ok: false; reason: string };

/**
 * Makes a case of a case file that was saved elsewhere. The evidence itself
 * is not in it: lines and proofs can be read, their bytes cannot be shown.
 */
export async function importCase(file: Blob, name: string): Promise<ImportResult> {
  const content = parse(await file.text());
  if (typeof content === 'string') return { ok: false, reason: `${name} ${content}` };
  const { sources, findings, files } = fromCaseFile(content);
  const problem = problemOf(content.zone, findings);
  if (problem !== null) return { ok: false, reason: `${name} ${problem}` };
  let record = newCase(name.replace(/(\.case)?\.json$/i, ''), '', content.zone);
  const known = findings.people.filter((person) => person.name !== null && !person.owner);
  record.decisions = content.decisions ?? UNDECIDED;
  record.names = Object.fromEntries(known.map((person) => [person.id, person.name!]));
  // Until all of it is kept it is not listed; what was left half done is cleared away.
  record.isComing = true;
  await putCase(record);
  const shelf = new Shelf(record.id);
  const db = await openStorage();
  for (const source of sources) await db.put('sources', sourceRecord(record.id, source));
  const keeper = await Keeper.open(record.id);
  for (const store of findings.stores) {
    const own = ofStore(findings, store.id);
    record = await keeper.keep(store.source, own, record, { isFinal: true });
  }
  for (const source of sources) {
    const own = files.filter((file) => file.source === source.id);
    if (own.length > 0) await shelf.keepFiles(source.id, own);
  }
  const changedAt = Date.now();
  await keepNotes((content.notes ?? []).map((note) => ({ ...note, caseId: record.id, changedAt })));
  await keeper.join(true);
  await putCase({ ...record, isComing: false });
  await logAct(record.id, 'case imported', {
    file: name,
    sha256: await sha256(new Uint8Array(await file.arrayBuffer())),
    sources: sources.map((source) => ({ name: source.name, sha256: source.sha256 })),
    messages: findings.messages.length
  });
  return { ok: true, caseId: record.id };
}

/** What makes a case of the file impossible, to follow the file's name; null when nothing does. */
function problemOf(zone: string, { stores, threads, messages }: Findings): string | null {
  if (!isZone(zone)) return `names the time zone “${zone}”, which is not known here.`;
  const known = new Set(threads.map(({ id }) => id));
  const kept = new Set(stores.map(({ id }) => id));
  const lost = messages.filter((message) => !known.has(message.thread) || !kept.has(message.store));
  return lost.length === 0
    ? null
    : `is damaged: ${lost.length} of its ${messages.length} messages name a conversation or a store that is not in it.`;
}

/** The checked document, or what is wrong with it, to follow the file's name. */
function parse(text: string): ReturnType<typeof caseFileSchema.parse> | string {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return 'is not a case file: it does not hold JSON, or is cut off.';
  }
  const checked = caseFileSchema.safeParse(json);
  if (checked.success) return checked.data;
  const [issue] = checked.error.issues;
  const where = issue?.path.join('.') || 'its beginning';
  return `is not a case file of version 1: at ${where}, ${issue?.message ?? 'something is wrong'}.`;
}

function sourceRecord(caseId: string, source: Source): SourceRecord {
  const now = Date.now();
  return {
    key: `${caseId}/${source.id}`,
    caseId,
    id: source.id,
    name: source.name,
    addedAt: now,
    files: source.parts,
    source,
    pass: { state: 'done', depth: source.depth, startedAt: now, endedAt: now },
    stores: []
  };
}

/** The part of the findings that belongs to one store. */
function ofStore(findings: Findings, store: string): Findings {
  const messages = findings.messages.filter((message) => message.store === store);
  const ids = new Set(messages.map((message) => message.id));
  return {
    stores: findings.stores.filter((s) => s.id === store),
    people: findings.people,
    threads: findings.threads.filter((thread) => thread.store === store),
    messages,
    attachments: findings.attachments.filter((attachment) => ids.has(attachment.message)),
    calls: findings.calls.filter((call) => call.store === store),
    contacts: findings.contacts.filter((contact) => contact.store === store),
    gaps: findings.gaps.filter((gap) => gap.store === store)
  };
}
