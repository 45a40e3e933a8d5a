import { proxyMarker, type ProxyMarked } from 'comlink';
import type { ByteSource } from '$core/host';
import type { ProfileDesk, ReadingProfile } from '$core/profiles';
import { logAct } from '../../storage/custody';
import {
  deleteProfile,
  putProfile,
  savedProfiles,
  type SavedProfiles
} from '../../storage/profiles';
import { deskOver, importProfile, trial } from './profiles';
import type { ProfileImport, ProfileTrial } from '../api/protocol';

/** What the page asks about reading profiles. */
export interface ProfileApi extends ProxyMarked {
  /** Samples of a database's tables and what was worked out of them; null when its bytes cannot be had. */
  desk(sourceId: string, path: string): Promise<ProfileDesk | null>;
  /** Lines that a profile gives from a database. */
  attempt(sourceId: string, path: string, profile: ReadingProfile): Promise<ProfileTrial>;
  saved(): Promise<SavedProfiles>;
  save(profile: ReadingProfile): Promise<void>;
  remove(id: string): Promise<void>;
  importFrom(json: string): Promise<ProfileImport>;
}

interface ProfileHost {
  caseId(): string;
  zone(): string;
  file(sourceId: string, path: string): Promise<ByteSource | null>;
}

/** Reading profiles: tried on a database of the case, kept for all cases. */
export class ProfileRoom implements ProfileApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: ProfileHost) {}

  async desk(sourceId: string, path: string): Promise<ProfileDesk | null> {
    const file = await this.host.file(sourceId, path);
    return file && deskOver(file);
  }

  async attempt(sourceId: string, path: string, profile: ReadingProfile): Promise<ProfileTrial> {
    const file = await this.host.file(sourceId, path);
    const error = 'The database is no longer kept in this browser.';
    return file ? trial(file, profile, this.host.zone()) : { total: 0, lines: [], error };
  }

  async saved(): Promise<SavedProfiles> {
    return savedProfiles(this.host.caseId());
  }

  async save(profile: ReadingProfile): Promise<void> {
    await putProfile(profile, this.host.caseId());
    const { id, title } = profile;
    await logAct(this.host.caseId(), 'profile saved', { id, title });
  }

  async remove(id: string): Promise<void> {
    await deleteProfile(id, this.host.caseId());
    await logAct(this.host.caseId(), 'profile removed', { id });
  }

  async importFrom(json: string): Promise<ProfileImport> {
    return importProfile(json);
  }
}
