import type { Carried } from '$core/case';
import { brokenEntry } from '$core/custody';
import { custodyLog } from './custody';
import { keptExhibits } from './exhibits';
import { keptIntake } from './intake';
import { openStorage } from './open';
import { putProfile, savedProfiles } from './profiles';
import type { CaseRecord, SourceRecord } from './schema';

/** What a case carries, as it is kept. */
export async function carriedOf(
  record: CaseRecord,
  sources: readonly SourceRecord[]
): Promise<Carried> {
  const [exhibits, intake, profiles, log] = await Promise.all([
    keptExhibits(record.id),
    keptIntake(record.id),
    savedProfiles(record.id),
    custodyLog(record.id)
  ]);
  const { name, client, region, opened, lastLine, lastSource, removedSources, names, book } =
    record;
  const { fileJoins } = record;
  return {
    ...{ name, client, region, opened, lastLine, names },
    ...(lastSource === undefined ? {} : { lastSource }),
    ...(removedSources ? { removedSources } : {}),
    ...(book ? { book } : {}),
    ...(fileJoins ? { fileJoins } : {}),
    sources: sources.map(sourceCarried),
    ...(exhibits.lists ? { lists: exhibits.lists } : {}),
    redactions: exhibits.redactions ?? [],
    reasons: exhibits.reasons ?? [],
    letGo: exhibits.letGo ?? [],
    ...(exhibits.settings ? { settings: exhibits.settings } : {}),
    intake: { document: intake.document, done: intake.done, sources: intake.sources },
    profiles: profiles.own,
    log
  };
}

function sourceCarried(record: SourceRecord): Carried['sources'][number] {
  const { id, addedAt, sum, isNamed, localZone, pass, source: found, copied } = record;
  return {
    ...{ id, addedAt },
    ...(sum ? { sum } : {}),
    ...(isNamed ? { isNamed } : {}),
    ...(localZone ? { localZone } : {}),
    ...('want' in pass && pass.want ? { want: pass.want } : {}),
    ...(found ? { inside: found.inside } : {}),
    ...(copied ? { copied } : {})
  };
}

/** Keeps what a case file carried, but for its record and its sources. */
export async function keepCarried(caseId: string, carried: Carried): Promise<void> {
  const { lists: own, redactions, reasons, letGo, settings, intake, profiles, log } = carried;
  const db = await openStorage();
  await db.put('exhibits', {
    caseId,
    ...(own ? { lists: own } : {}),
    ...{ redactions, reasons, letGo },
    ...(settings ? { settings } : {})
  });
  if (intake) await db.put('intakes', { caseId, ...intake, unlogged: [] });
  for (const profile of profiles) await putProfile(profile, caseId);
  // A log that does not hold is not carried on as if it did.
  if (brokenEntry(log) === null)
    for (const one of log) await db.put('custody', { caseId, n: one.n, entry: one });
}
