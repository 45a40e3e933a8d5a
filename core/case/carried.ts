import { z } from 'zod';
import type { CopyDepth, CopyLogEntry } from '../acquire';
import type { CustodyEntry } from '../custody';
import type { ExhibitLists } from '../exhibits';
import type { Scope } from '../examine';
import type { NamedAddresses } from './people';
import type { IntakeDocument } from '../plan';
import { reasonsSchema, redactionsSchema, settingsSchema } from '../produce';
import { joinedFilesSchema, type Source } from '../records';
import { readingProfileSchema } from '../profiles';

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
  inside: z.custom<Source['inside']>(isInside).optional(),
  copied: z.custom<CopiedFrom>((value) => typeof value === 'object').optional()
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
    .custom<NamedAddresses[]>((value) => value === undefined || Array.isArray(value))
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
      document: z.custom<Omit<IntakeDocument, 'now'>>((value) => typeof value === 'object'),
      done: texts,
      sources: z.record(text, text)
    })
    .optional(),
  profiles: z.array(readingProfileSchema),
  log: z.array(entry)
});

export type Carried = z.infer<typeof carriedSchema>;

/** Where a source that was copied on the bench comes from. */
export interface CopiedFrom {
  device: string;
  depth: CopyDepth;
  /** Of its end. */
  at: number;
  log: CopyLogEntry[];
}
