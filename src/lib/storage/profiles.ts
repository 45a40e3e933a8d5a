import type { ReadingProfile } from '$core/stores';
import { openStorage } from './open';
import type { ProfileRecord } from './schema';

export async function savedProfiles(): Promise<ReadingProfile[]> {
  const all = await (await openStorage()).getAll('profiles');
  const profiles = all.map(({ profile }) => profile);
  return profiles.sort((a, b) => a.title.localeCompare(b.title));
}

export async function putProfile(record: ProfileRecord): Promise<void> {
  await (await openStorage()).put('profiles', record);
}

export async function deleteProfile(id: string): Promise<void> {
  await (await openStorage()).delete('profiles', id);
}
