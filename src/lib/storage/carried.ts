import { joinedFilesSchema } from '$core/records';
import { z } from 'zod';
import { readingProfileSchema } from '$core/stores';
import { reasonsSchema, redactionsSchema, settingsSchema } from '$core/produce';
import { brokenEntry, type CustodyEntry } from '$core/custody';
import type { ExhibitLists } from '$core/exhibits';
import type { Scope } from '$core/pass';
import { custodyLog } from './custody';
import { keptExhibits } from './exhibits';
import { keptIntake } from './intake';
import { openStorage } from './open';
import { putProfile, savedProfiles } from './profiles';
import type { CaseRecord, IntakeRecord, SourceRecord } from './schema';

/**
 * What a case file carries of a case beside what was found in it (version 2):
 * whatever was typed, chosen, covered, answered, saved and done.
 */
const text = z.string();
const texts = z.array(text);

const exhibitEntry = z.object({
  id: text,
  kind: z.enum(['lines', 'calls', 'contacts', 'files', 'gaps']),
  name: text.nullable(),
  ids: texts,
  context: z.number(),
  from: text.nullable(),
  to: text.nullable(),
  isClosed: z.boolean()
});

const lists = z.object({
  current: text,
  lists: z.array(
    z.object({
      id: text,
      name: text,
      order: z.enum(['hand', 'time']),
      entries: z.array(exhibitEntry)
    })
  )
}) satisfies z.ZodType<ExhibitLists>;

const scope = z.object({
  kinds: z.array(z.enum(['messages', 'calls', 'contacts', 'media', 'files'])),
  from: z.number().nullable(),
  to: z.number().nullable(),
  addresses: texts
}) satisfies z.ZodType<Omit<Scope, 'depth'>>;

const source = z.object({
  id: text,
  addedAt: z.number(),
  sum: text.optional(),
  isNamed: z.boolean().optional(),
  localZone: text.optional(),
  want: scope.optional(),
  inside: z.custom<NonNullable<SourceRecord['source']>['inside']>(isInside).optional(),
  copied: z.custom<SourceRecord['copied']>((value) => typeof value === 'object').optional()
});

function isInside(value: unknown): boolean {
  const inside = value as Record<string, unknown> | null;
  return (
    typeof inside === 'object' &&
    inside !== null &&
    typeof inside.files === 'number' &&
    Array.isArray(inside.packages) &&
    Array.isArray(inside.candidates)
  );
}

const entry = z.custom<CustodyEntry>(
  (value) => typeof value === 'object' && value !== null && 'hash' in value && 'n' in value
);

export const carriedSchema = z.object({
  name: text,
  client: text,
  region: text.nullable(),
  opened: z.number(),
  lastLine: z.number(),
  lastSource: z.number().optional(),
  removedSources: z.record(text, text).optional(),
  names: z.record(text, text),
  book: z
    .custom<CaseRecord['book']>((value) => value === undefined || Array.isArray(value))
    .optional(),
  sources: z.array(source),
  lists: lists.optional(),
  fileJoins: joinedFilesSchema.optional(),
  redactions: redactionsSchema,
  reasons: reasonsSchema,
  letGo: texts,
  settings: settingsSchema.optional(),
  intake: z
    .object({
      document: z.custom<IntakeRecord['document']>((value) => typeof value === 'object'),
      done: texts,
      sources: z.record(text, text)
    })
    .optional(),
  profiles: z.array(readingProfileSchema),
  log: z.array(entry)
});

export type Carried = z.infer<typeof carriedSchema>;

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
