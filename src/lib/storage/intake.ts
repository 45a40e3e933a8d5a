import { logAct } from './custody';
import { openStorage } from './open';
import type { IntakeRecord } from './schema';

export async function keptIntake(caseId: string): Promise<IntakeRecord> {
  const kept = await (await openStorage()).get('intakes', caseId);
  return kept ?? { caseId, document: {}, done: [], sources: {}, unlogged: [] };
}

export async function keepIntake(record: IntakeRecord): Promise<void> {
  await (await openStorage()).put('intakes', record);
}

/** One entry for what was answered in one go, not for each letter. */
export async function logIntake(caseId: string, answers: string[]): Promise<void> {
  await logAct(caseId, 'intake changed', { answers });
}
