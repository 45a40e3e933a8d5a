import { z } from 'zod';

/** What the client told, as a document: every answer may be null, which is “not known”. */
const INTAKE_FORMAT = 'ombudsman-intake';

/** Copies past which nobody can follow a plan. */
export const MOST_COPIES = 200;

export const COPY_KINDS = [
  'holding-area',
  'computer-backup',
  'cloud-backup',
  'cloud-sync',
  'app-backup',
  'handset',
  'old-handset',
  'card',
  'computer-app',
  'disk',
  'other-party',
  'app-export',
  'screen-captures'
] as const;
export type CopyKind = (typeof COPY_KINDS)[number];

export const LOST_KINDS = ['messages', 'attachments', 'calls', 'contacts'] as const;
export type LostKind = (typeof LOST_KINDS)[number];

export const DELETION_WAYS = [
  'one-by-one',
  'whole-conversation',
  'aged-out',
  'reset',
  'lost-phone',
  'update',
  'unknown'
] as const;
export type DeletionWay = (typeof DELETION_WAYS)[number];

const moment = z.iso.datetime({ offset: true, local: true }).or(z.iso.date());
const answer = moment.nullish().transform((value) => value ?? null);
const days = z
  .number()
  .int()
  .min(0)
  .max(36_500)
  .nullish()
  .transform((value) => value ?? null);
const yesOrNo = z
  .boolean()
  .nullish()
  .transform((value) => value ?? null);
const kinds = z.array(z.enum(LOST_KINDS));

const copy = z.object({
  id: z.string().min(1).max(200),
  kind: z.enum(COPY_KINDS),
  /** What people call it. */
  name: z
    .string()
    .max(200)
    .nullish()
    .transform((value) => value ?? null),
  at: answer,
  /** Null where it is not known; then it is taken to hold what was lost. */
  covers: kinds.nullish().transform((value) => value ?? null),
  encrypted: yesOrNo,
  keyKnown: yesOrNo,
  willBeOverwrittenBy: answer,
  deepest: z
    .enum(['logical', 'file-system', 'physical'])
    .nullish()
    .transform((value) => value ?? null)
});
export type Copy = z.infer<typeof copy>;

const NOTHING_LOST = {
  kinds: [],
  app: null,
  cloudOnlyApp: null,
  with: [],
  sentFrom: null,
  sentTo: null
};
const NOT_DELETED = { from: null, to: null, how: 'unknown' as const };

const lost = z.object({
  kinds: kinds.nullish().transform((value) => value ?? []),
  app: z
    .string()
    .max(200)
    .nullish()
    .transform((value) => value ?? null),
  cloudOnlyApp: yesOrNo,
  with: z
    .array(z.string().max(300))
    .nullish()
    .transform((value) => value ?? []),
  sentFrom: answer,
  sentTo: answer
});

const deleted = z.object({
  from: answer,
  to: answer,
  how: z
    .enum(DELETION_WAYS)
    .nullish()
    .transform((value) => value ?? 'unknown')
});

export const intakeSchema = z
  .object({
    format: z.literal(INTAKE_FORMAT).default(INTAKE_FORMAT),
    version: z.literal(1).default(1),
    now: moment,
    lost: lost.nullish().transform((value) => value ?? NOTHING_LOST),
    deleted: deleted.nullish().transform((value) => value ?? NOT_DELETED),
    noticed: answer,
    phoneUsedSince: yesOrNo,
    keepDays: days,
    syncOn: yesOrNo,
    holdingDays: days,
    copies: z
      .array(copy)
      .max(MOST_COPIES, `a plan takes at most ${MOST_COPIES} copies`)
      .nullish()
      .transform((value) => value ?? [])
  })
  .check(({ value, issues }) => {
    const refuse = (path: (string | number)[], message: string): void => {
      issues.push({ code: 'custom', path, message, input: value });
    };
    const { copies } = value;
    const ids = new Set<string>();
    for (const [i, { id }] of copies.entries()) {
      if (ids.has(id)) refuse(['copies', i], `two copies are called ${JSON.stringify(id)}`);
      ids.add(id);
    }
  });
export type Intake = z.infer<typeof intakeSchema>;
/** An intake as it is written, answers missing. */
export type IntakeDocument = z.input<typeof intakeSchema>;

const DAY = 86_400_000;

/** A stretch of time in milliseconds since 1970; open ends are infinite. */
export interface Span {
  from: number;
  to: number;
}

/** What a written moment stands for: an instant, or a whole day (UTC). */
export function spanOf(written: string): Span {
  const at = Date.parse(/T/.test(written) ? withZone(written) : `${written}T00:00:00Z`);
  return { from: at, to: /T/.test(written) ? at : at + DAY - 1 };
}

function withZone(written: string): string {
  return /(Z|[+-]\d\d:?\d\d)$/i.test(written) ? written : `${written}Z`;
}

/** What is wrong with an intake that was refused, in one line. */
export function intakeProblem(error: z.ZodError): string {
  const [issue] = error.issues;
  const where = issue!.path.length === 0 ? 'the document' : issue!.path.join('.');
  return `${where}: ${issue!.message}`;
}
