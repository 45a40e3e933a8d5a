import { openStorage } from './open';
import type { ExhibitRecord } from './schema';

export async function keptExhibits(caseId: string): Promise<ExhibitRecord> {
  return (await (await openStorage()).get('exhibits', caseId)) ?? { caseId };
}

/** Changes what is kept, which another tab may have changed in the meantime; gives what it became. */
export async function changeExhibits(
  caseId: string,
  change: (kept: ExhibitRecord) => Partial<ExhibitRecord>
): Promise<ExhibitRecord> {
  const tx = (await openStorage()).transaction('exhibits', 'readwrite');
  const kept = (await tx.store.get(caseId)) ?? { caseId };
  const record = { ...kept, ...change(kept) };
  await tx.store.put(record);
  await tx.done;
  return record;
}
