import { chained, type CustodyEntry } from '$core/custody';
import { openStorage } from './open';

/** What can be done in a case. */
export type Act =
  | 'case opened'
  | 'case imported'
  | 'log begun'
  | 'case changed'
  | 'case deleted'
  | 'case brought back'
  | 'intake changed'
  | 'copy begun'
  | 'copy broke off'
  | 'copy stopped'
  | 'copy finished'
  | 'copy thrown away'
  | 'messages put back'
  | 'messages undone'
  | 'source added'
  | 'evidence met'
  | 'source named'
  | 'source changed'
  | 'source removed'
  | 'source brought back'
  | 'source removed for good'
  | 'key given'
  | 'key accepted'
  | 'key refused'
  | 'examination begun'
  | 'examination finished'
  | 'examination stopped'
  | 'examination failed'
  | 'name given'
  | 'file joined'
  | 'file join removed'
  | 'people joined'
  | 'people parted'
  | 'names imported'
  | 'names forgotten'
  | 'note written'
  | 'labels changed'
  | 'profile saved'
  | 'profile removed'
  | 'selected'
  | 'unselected'
  | 'exhibits changed'
  | 'redaction made'
  | 'redaction removed'
  | 'reasons changed'
  | 'file let go'
  | 'records produced'
  | 'records produced again'
  | 'package checked'
  | 'case file saved'
  | 'log saved';

/** Writes down what was done in a case, chained to what was done before. */
export async function logAct(
  caseId: string,
  what: Act,
  detail: Record<string, unknown>
): Promise<void> {
  const tx = (await openStorage()).transaction('custody', 'readwrite');
  const last = await tx.store.openCursor(ofCase(caseId), 'prev');
  const act = { at: new Date().toISOString(), what, detail };
  const entry = chained(act, last?.value.entry ?? null, salt());
  await tx.store.put({ caseId, n: entry.n, entry });
  await tx.done;
}

/** The log of a case, from its first entry. */
export async function custodyLog(caseId: string): Promise<CustodyEntry[]> {
  const all = await (await openStorage()).getAll('custody', ofCase(caseId));
  return all.map(({ entry }) => entry);
}

function ofCase(caseId: string): IDBKeyRange {
  return IDBKeyRange.bound([caseId, 0], [caseId, Number.MAX_SAFE_INTEGER]);
}

function salt(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(8));
  return [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}
