import { z } from 'zod';
import { isZone } from '../shown';

/** The settings of a production: what a preset of the application exports and the command takes. */
const PRODUCTION_FORMAT = 'ombudsman-production';

export const FORMAT_NAMES = [
  'pdf',
  'html',
  'xlsx',
  'csv',
  'txt',
  'jsonl',
  'vcf',
  'ics',
  'eml',
  'mbox',
  'media',
  'database'
] as const;
export type FormatName = (typeof FORMAT_NAMES)[number];

/** What the formats are called. */
export const FORMAT_TITLES: Record<FormatName, string> = {
  pdf: 'PDF',
  html: 'Web pages',
  xlsx: 'Workbook',
  csv: 'Sheet (CSV)',
  txt: 'Plain text',
  jsonl: 'Records (JSON Lines)',
  vcf: 'Address cards',
  ics: 'Calendar of calls',
  eml: 'Mails',
  mbox: 'Mailbox',
  media: 'Media files',
  database: 'Rebuilt database'
};

const moment = z.iso.datetime({ offset: true, local: true }).or(z.iso.date());
const code = z
  .string()
  .trim()
  .min(1)
  .max(24)
  .regex(/^[\p{L}\p{N} ._/-]+$/u, 'a code is made of letters, digits, spaces and . _ / -');
/** Of the width or height; whether it lies in the picture is judged where the redaction is made. */
const share = z.number();

const redaction = z.union([
  z.strictObject({
    message: z.string(),
    from: z.number().int().min(0),
    to: z.number().int().min(1),
    code
  }),
  z.strictObject({ message: z.string(), whole: z.literal(true), code }),
  z.strictObject({ attachment: z.string(), whole: z.literal(true), code }),
  z.strictObject({
    attachment: z.string(),
    area: z.strictObject({ x: share, y: share, width: share, height: share }),
    code
  }),
  z.strictObject({ text: z.string().min(2).max(500), code }),
  // Every name and address of a person, however it is written.
  z.strictObject({ person: z.string(), code })
]);
export type Redaction = z.infer<typeof redaction>;

/** What was decided of a file in which covered words stand: it goes along as it is. To cover it whole is a redaction. */
const decision = z.strictObject({ attachment: z.string(), goesAlong: z.literal(true) });

const list = z.array(z.string()).optional();
const choose = z.strictObject({
  threads: list,
  people: list,
  messages: list,
  from: moment.nullish(),
  to: moment.nullish(),
  states: z.array(z.enum(['live', 'held', 'recovered', 'fragment', 'earlier'])).optional(),
  context: z.number().int().min(0).max(50).default(0),
  calls: z.boolean().optional(),
  contacts: z.boolean().optional(),
  media: z.boolean().optional(),
  gaps: z.boolean().default(true)
});
export type Choose = z.infer<typeof choose>;

const named = { name: z.string().max(300).nullish() };
const ids = z.array(z.string()).min(1);
const exhibit = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('lines'),
    ...named,
    messages: ids,
    /** Lines that stand before and after, to be understood. */
    context: z.number().int().min(0).max(50).default(0)
  }),
  z.strictObject({ kind: z.literal('calls'), ...named, calls: ids }),
  z.strictObject({ kind: z.literal('contacts'), ...named, contacts: ids }),
  /** Files that stand by themselves: of the list of files, or attachments without their line. */
  z.strictObject({ kind: z.literal('files'), ...named, files: ids }),
  /** By {@link gapId}. */
  z.strictObject({ kind: z.literal('gaps'), ...named, gaps: ids })
]);
export type Exhibit = z.infer<typeof exhibit>;

/** What a code of redactions stands for. */
const reason = z.strictObject({ code, reason: z.string().trim().max(200) });
export type Reason = z.infer<typeof reason>;

/** Redactions and reasons as a case file carries them. */
export const redactionsSchema = z.array(redaction);
export const reasonsSchema = z.array(reason);

const pdf = z.strictObject({
  paper: z.enum(['A4', 'Letter', 'Legal']).default('A4'),
  layout: z.enum(['spine', 'stacked']).default('spine'),
  marginMm: z.number().min(8).max(50).default(18),
  sizePt: z.number().min(6).max(18).default(10),
  password: z.string().min(1).max(127).nullable().default(null),
  archival: z.boolean().default(false)
});

const numbering = z.strictObject({
  prefix: z.string().max(24).default(''),
  start: z.number().int().min(0).max(999_999_999).default(1),
  digits: z.number().int().min(1).max(12).default(6),
  position: z
    .enum(['bottom-right', 'bottom-left', 'bottom-centre', 'top-right'])
    .default('bottom-right')
});
export type Numbering = z.infer<typeof numbering>;

export const settingsSchema = z
  .strictObject({
    format: z.literal(PRODUCTION_FORMAT).default(PRODUCTION_FORMAT),
    version: z.literal(1).default(1),
    title: z.string().max(300).nullish(),
    reference: z.string().max(300).nullish(),
    preparedBy: z.string().max(300).nullish(),
    preparedFor: z.string().max(300).nullish(),
    zone: z.string().refine(isZone, 'is not a time zone that this machine knows').nullish(),
    choose: choose.prefault({}),
    /** What is produced, in this order; without it, what is chosen of the whole case. */
    exhibits: z.array(exhibit).min(1).optional(),
    formats: z.array(z.enum(FORMAT_NAMES)).min(1).default(['pdf', 'html']),
    pdf: pdf.prefault({}),
    numbering: numbering.nullable().default(null),
    redactions: z.array(redaction).default([]),
    reasons: z.array(reason).default([]),
    /** Files that hold covered words inside and go along all the same. */
    decisions: z.array(decision).default([]),
    proofs: z.enum(['appendix', 'none']).default('appendix'),
    convertMedia: z.boolean().default(true)
  })
  .refine(({ pdf }) => !(pdf.archival && pdf.password !== null), {
    message: 'a PDF for archives cannot have a password',
    path: ['pdf']
  });

export type Settings = z.infer<typeof settingsSchema>;

/** What is wrong with settings that were refused, in one line. */
export function settingsProblem(error: z.ZodError): string {
  const [issue] = error.issues;
  const where = issue!.path.length === 0 ? 'the document' : issue!.path.join('.');
  return `${where}: ${issue!.message}`;
}
