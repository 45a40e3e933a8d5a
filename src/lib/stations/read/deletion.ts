import { keptIntake } from '../../storage/intake';

/** When the messages of a case were deleted, as the intake says; null where it does not. */
export async function deletionOf(caseId: string): Promise<number | null> {
  const { deleted, noticed } = (await keptIntake(caseId)).document;
  const at = deleted?.to ?? deleted?.from ?? noticed ?? null;
  const moment = at === null ? NaN : Date.parse(at);
  return Number.isNaN(moment) ? null : moment;
}
