import type { ByteSource } from '$core/host';
import { ZonedTime } from '$core/shown';
import { Database, recoverTables, SqliteFormatError, type RecoveredTable } from '$core/sqlite';
import {
  openDesk,
  readingProfileSchema,
  readStore,
  TableSet,
  tablesOf,
  type ProfileDesk,
  type ReadingProfile,
  type StoreMessage
} from '$core/profiles';
import { putProfile } from '../../storage/profiles';
import type { ProfileImport, ProfileTrial } from '../api/protocol';

/** Samples a database for the profile desk. */
export function deskOver(source: ByteSource): ProfileDesk {
  return openDesk(Database.open({ main: source }));
}

const MOST_LINES = 40;

/** The lines that a mapping gives from a store's live rows. */
export function trial(source: ByteSource, profile: ReadingProfile, zone: string): ProfileTrial {
  try {
    const messages = readLive(source, profile);
    const time = new ZonedTime(zone);
    messages.sort((a, b) => (b.sentAt ?? 0) - (a.sentAt ?? 0));
    const lines = messages.slice(0, MOST_LINES).map((message) => lineOf(message, time));
    return { total: messages.length, lines, error: null };
  } catch (error) {
    if (!(error instanceof SqliteFormatError) && !(error instanceof RangeError)) throw error;
    return { total: 0, lines: [], error: error.message };
  }
}

function readLive(source: ByteSource, profile: ReadingProfile): StoreMessage[] {
  const database = Database.open({ main: source });
  const names = tablesOf(profile);
  const wanted = (table: { name: string }): boolean => names.has(table.name.toLowerCase());
  const tables = finish<RecoveredTable[]>(recoverTables(database, { wanted, freed: false }));
  return readStore(profile, new TableSet(tables)).messages;
}

function finish<T>(work: Generator<unknown, T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}

function lineOf(message: StoreMessage, time: ZonedTime): ProfileTrial['lines'][number] {
  const { sentAt, direction, sender, thread, body } = message;
  const split = sentAt === null ? null : time.split(sentAt);
  return {
    time: split ? `${split.date} ${split.time}` : 'no time',
    side: direction === 'outgoing' ? 'own' : direction === 'incoming' ? 'other' : 'both',
    sender: direction === 'outgoing' ? 'owner' : (sender ?? 'unknown'),
    room: thread.title ?? thread.participants.join(', ') ?? thread.key,
    body: body.slice(0, 400)
  };
}

/** Takes up a profile that was exported elsewhere. */
export async function importProfile(json: string): Promise<ProfileImport> {
  let content: unknown;
  try {
    content = JSON.parse(json);
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    return { ok: false, reason: 'The file does not hold JSON, or is cut off.' };
  }
  const checked = readingProfileSchema.safeParse(content);
  if (!checked.success) {
    const [issue] = checked.error.issues;
    const where = issue?.path.join('.') || 'its beginning';
    return {
      ok: false,
      reason: `The file is not a reading profile: at ${where}, ${issue?.message}.`
    };
  }
  await putProfile(checked.data, null);
  return { ok: true, title: checked.data.title };
}
