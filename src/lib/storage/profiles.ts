import type { ReadingProfile } from '$core/stores';
import { openStorage } from './open';
import type { ProfileRecord } from './schema';

export async function listProfiles(): Promise<ProfileRecord[]> {
  const all = await (await openStorage()).getAll('profiles');
  return all.sort((a, b) => a.profile.title.localeCompare(b.profile.title));
}

export async function savedProfiles(): Promise<ReadingProfile[]> {
  return (await listProfiles()).map(({ profile }) => profile);
}

export async function putProfile(record: ProfileRecord): Promise<void> {
  await (await openStorage()).put('profiles', record);
}

export async function deleteProfile(id: string): Promise<void> {
  await (await openStorage()).delete('profiles', id);
}
