import { z } from 'zod';
import { DELETED_CONTENTS } from './model';

/** The case file: the document that the command (version 1) and the application (version 2) write, and both read. */
export const CASE_FORMAT = 'ombudsman-case';

const time = z.iso.datetime({ precision: 3 }).nullable();
const state = z.enum(['live', 'held', 'recovered', 'fragment', 'earlier']);
const certainty = z.number().min(0).max(100);
const count = z.number().int().min(0);

const note = z.object({
  level: z.enum(['info', 'warning', 'error']),
  code: z.string(),
  text: z.string(),
  path: z.string().nullable()
});

const proof = z.object({
  source: z.string(),
  path: z.string(),
  page: count.nullable(),
  offset: count,
  length: count,
  method: z.enum([
    'table',
    'log',
    'journal',
    'free-page',
    'free-block',
    'unallocated',
    'carved',
    'card',
    'text'
  ])
});

const device = z.object({
  name: z.string().nullable(),
  model: z.string().nullable(),
  system: z.string().nullable(),
  serial: z.string().nullable(),
  phoneNumber: z.string().nullable(),
  backedUpAt: time
});

const sourceSchema = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.string(),
  bytes: count,
  sha256: z.string(),
  parts: z.array(z.object({ path: z.string(), bytes: count, sha256: z.string() })),
  depth: z.enum(['indexed', 'freed', 'whole']),
  device,
  notes: z.array(note)
});

const storeSchema = z.object({
  id: z.string(),
  source: z.string(),
  path: z.string(),
  profile: z.string(),
  fit: certainty,
  counts: z.object({ live: count, held: count, recovered: count, fragment: count, earlier: count }),
  limits: z.array(z.string())
});

const personSchema = z.object({
  id: z.string(),
  name: z.string().nullable(),
  addresses: z.array(z.string()),
  owner: z.boolean()
});

const threadSchema = z.object({
  id: z.string(),
  store: z.string(),
  title: z.string().nullable(),
  participants: z.array(z.string()),
  group: z.boolean()
});

const messageSchema = z.object({
  id: z.string(),
  thread: z.string(),
  sender: z.string().nullable(),
  direction: z.enum(['incoming', 'outgoing', 'system', 'unknown']),
  sentAt: time,
  deliveredAt: time,
  readAt: time,
  body: z.string(),
  subject: z.string().nullable(),
  state,
  purgeAt: time,
  replaces: z.string().nullable(),
  certainty,
  reasons: z.array(z.string()),
  proofs: z.array(proof),
  attachments: z.array(z.string()),
  replyTo: z.string().nullable(),
  reactions: z.array(z.object({ person: z.string().nullable(), text: z.string(), at: time })),
  location: z.object({ lat: z.number(), lon: z.number(), label: z.string().nullable() }).nullable(),
  /** Its number in the case, by which it is cited; version 2. */
  line: count.nullish()
});

const attachmentSchema = z.object({
  id: z.string(),
  message: z.string(),
  name: z.string().nullable(),
  mime: z.string().nullable(),
  bytes: count.nullable(),
  sha256: z.string().nullable(),
  state,
  path: z.string().nullable(),
  width: z.number().nullable(),
  height: z.number().nullable(),
  seconds: z.number().nullable()
});

const callSchema = z.object({
  id: z.string(),
  person: z.string().nullable(),
  direction: z.enum(['incoming', 'outgoing', 'missed', 'unknown']),
  at: time,
  seconds: z.number().nullable(),
  state,
  certainty,
  proofs: z.array(proof)
});

const contactSchema = z.object({
  id: z.string(),
  person: z.string().nullable(),
  name: z.string().nullable(),
  phones: z.array(z.string()),
  emails: z.array(z.string()),
  organisation: z.string().nullable(),
  note: z.string().nullable(),
  state,
  certainty,
  proofs: z.array(proof)
});

const fileSchema = z.object({
  id: z.string(),
  source: z.string(),
  path: z.string(),
  name: z.string().nullable(),
  mime: z.string().nullable(),
  bytes: count.nullable(),
  sha256: z.string().nullable(),
  modifiedAt: time,
  createdAt: time,
  deletedAt: time,
  state,
  proofs: z.array(proof),
  deletion: z.object({ how: z.string(), contents: z.enum(DELETED_CONTENTS) }).optional()
});

const gapSchema = z.object({
  thread: z.string().nullable(),
  store: z.string(),
  count,
  after: z.string().nullable(),
  before: z.string().nullable(),
  from: time,
  to: time,
  reason: z.string()
});

/** What was noted of a message or a file, by its id. */
const noteOnRecord = z.object({
  of: z.string(),
  kind: z.enum(['line', 'file']),
  text: z.string(),
  labels: z.array(z.string())
});

const pair = z.tuple([z.string(), z.string()]);

export const caseFileSchema = z.object({
  format: z.literal(CASE_FORMAT),
  version: z.union([z.literal(1), z.literal(2)]),
  made: z.iso.datetime({ precision: 3 }),
  zone: z.string(),
  sources: z.array(sourceSchema),
  stores: z.array(storeSchema),
  people: z.array(personSchema),
  threads: z.array(threadSchema),
  messages: z.array(messageSchema),
  attachments: z.array(attachmentSchema),
  calls: z.array(callSchema),
  contacts: z.array(contactSchema),
  files: z.array(fileSchema),
  gaps: z.array(gapSchema),
  /** Written by the application alone. */
  notes: z.array(noteOnRecord).optional(),
  /** Ids of people who were decided by hand to be one person, or not to be. */
  decisions: z.object({ together: z.array(pair), apart: z.array(pair) }).optional(),
  /**
   * Version 2: what the application keeps of a case beside what was found, so
   * that nothing is lost on the way: name, client, names given, exhibit lists,
   * redactions with their reasons, settings, intake, profiles, the log.
   */
  carried: z.record(z.string(), z.unknown()).optional()
});

export type CaseFile = z.infer<typeof caseFileSchema>;

/** Files that were joined by hand to attachments, by their ids; a part of what a case carries. */
export const joinedFilesSchema = z.record(
  z.string(),
  z.object({
    source: z.string(),
    path: z.string(),
    sha256: z.string(),
    mime: z.string().nullable(),
    bytes: z.number().nullable()
  })
);
