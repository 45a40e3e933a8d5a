import type { ReadingProfile } from '$core/profiles';
import { openStorage } from './open';
import type { ProfileRecord } from './schema';

/** The profiles that were saved, by whose they are. */
export interface SavedProfiles {
  /** Of this case: the technician's word on stores of their shape. */
  own: ReadingProfile[];
  /** Of other cases, and imported: taken only where nothing fits better. */
  offered: ReadingProfile[];
}

export async function savedProfiles(caseId: string): Promise<SavedProfiles> {
  const all = await (await openStorage()).getAll('profiles');
  all.sort((a, b) => a.profile.title.localeCompare(b.profile.title));
  const of = (isOwn: boolean): ReadingProfile[] =>
    all.filter((one) => (one.caseId === caseId) === isOwn).map(({ profile }) => profile);
  return { own: of(true), offered: of(false) };
}

/** Keeps a profile; one that the case has for the same stores is replaced. */
export async function putProfile(
  profile: ReadingProfile,
  caseId: string | null
): Promise<ProfileRecord> {
  const record: ProfileRecord = {
    id: `${caseId ?? 'imported'}/${profile.id}`,
    ...(caseId === null ? {} : { caseId }),
    fingerprint: profile.fingerprint ?? '',
    savedAt: Date.now(),
    profile
  };
  await (await openStorage()).put('profiles', record);
  return record;
}

/** Removes a profile of the case, or one that is offered to it. */
export async function deleteProfile(id: string, caseId: string): Promise<void> {
  const tx = (await openStorage()).transaction('profiles', 'readwrite');
  const found = (await tx.store.getAll()).filter(({ profile }) => profile.id === id);
  const own = found.filter((one) => one.caseId === caseId);
  for (const one of own.length > 0 ? own : found) await tx.store.delete(one.id);
  await tx.done;
}
