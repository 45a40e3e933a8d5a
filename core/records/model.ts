/** The record model. Times are milliseconds since 1970 in UTC, or null when unknown. */

export type RecordState = 'live' | 'held' | 'recovered' | 'fragment' | 'earlier';
export const STATES: readonly RecordState[] = ['live', 'held', 'recovered', 'fragment', 'earlier'];

/** Stands in a body where bytes are lost. */
export const LOST_MARK = '\ufffc';

/**
 * Whether a body's mark stands for lost bytes: apps write the same character
 * where an attachment belongs. Of live rows only damaged ones are not certain.
 */
export function isCut({
  state,
  certainty,
  body
}: {
  state: RecordState;
  certainty: number;
  body: string;
}): boolean {
  return state === 'fragment' || (state === 'live' && certainty < 100 && body.endsWith(LOST_MARK));
}

export type Direction = 'incoming' | 'outgoing' | 'system' | 'unknown';

export type ProofMethod =
  | 'table'
  | 'log'
  | 'journal'
  | 'free-page'
  | 'free-block'
  | 'unallocated'
  | 'carved'
  | 'card'
  | 'text';

/** The bytes that a record was read from. */
export interface Proof {
  source: string;
  path: string;
  page: number | null;
  /** Offset in the file, in bytes. */
  offset: number;
  /** In bytes. */
  length: number;
  method: ProofMethod;
}

const PRESENCE: readonly RecordState[] = ['live', 'held', 'recovered', 'fragment', 'earlier'];

/** The state of what several records hold: the one that is nearest to being there. */
export function mostPresent(states: readonly RecordState[]): RecordState | null {
  return PRESENCE.find((state) => states.includes(state)) ?? null;
}

export interface Message {
  id: string;
  store: string;
  thread: string;
  /** Person id, or null when it is not known who wrote it. */
  sender: string | null;
  direction: Direction;
  sentAt: number | null;
  deliveredAt: number | null;
  readAt: number | null;
  /** Exactly as stored; U+FFFC stands where bytes are lost. */
  body: string;
  subject: string | null;
  state: RecordState;
  purgeAt: number | null;
  /** The message whose earlier wording this is. */
  replaces: string | null;
  certainty: number;
  reasons: string[];
  proofs: Proof[];
  attachments: string[];
  replyTo: string | null;
  reactions: Reaction[];
  location: Place | null;
}

export interface Reaction {
  person: string | null;
  text: string;
  at: number | null;
}

export interface Place {
  lat: number;
  lon: number;
  label: string | null;
}

export interface Attachment {
  id: string;
  /** The message that it came with. */
  message: string;
  name: string | null;
  mime: string | null;
  bytes: number | null;
  sha256: string | null;
  state: RecordState;
  /** Where it lies in the source; where it is missing, the place that the store names. */
  path: string | null;
  width: number | null;
  height: number | null;
  seconds: number | null;
  /** A small picture of it that the store keeps; no part of the case file. */
  thumbnail: Uint8Array | null;
  /** The source of a file that was joined to it by hand; absent where the store itself leads to its file. */
  byHand?: string;
}

/** A file that somebody joined to an attachment of which the source holds no bytes. */
export interface JoinedFile {
  source: string;
  path: string;
  sha256: string;
  mime: string | null;
  bytes: number | null;
}

/** An attachment with the file that was joined to it; as it is where its own file is there. */
export function withJoined(attachment: Attachment, joined: JoinedFile | undefined): Attachment {
  if (!joined || attachment.sha256 !== null) return attachment;
  const { source, path, sha256, mime, bytes } = joined;
  return { ...attachment, path, sha256, bytes, mime: mime ?? attachment.mime, byHand: source };
}

export interface Person {
  id: string;
  name: string | null;
  addresses: string[];
  owner: boolean;
}

export interface Thread {
  id: string;
  store: string;
  title: string | null;
  participants: string[];
  group: boolean;
}

export type CallDirection = 'incoming' | 'outgoing' | 'missed' | 'unknown';

export interface Call {
  id: string;
  store: string;
  person: string | null;
  direction: CallDirection;
  at: number | null;
  seconds: number | null;
  state: RecordState;
  certainty: number;
  proofs: Proof[];
}

export interface Contact {
  id: string;
  store: string;
  /** The person of the contact's first address. */
  person: string | null;
  name: string | null;
  phones: string[];
  emails: string[];
  organisation: string | null;
  note: string | null;
  state: RecordState;
  certainty: number;
  proofs: Proof[];
}

/** A file of a source, by its real path. */
export interface FileRecord {
  id: string;
  source: string;
  path: string;
  name: string | null;
  mime: string | null;
  bytes: number | null;
  sha256: string | null;
  modifiedAt: number | null;
  createdAt: number | null;
  deletedAt: number | null;
  state: RecordState;
  proofs: Proof[];
  /** Of a file that its medium no longer lists: how it was found, and what became of its bytes. */
  deletion?: FileDeletion;
}

/** Whether none of a deleted file's bytes belongs to another file, some do, or where they lie was guessed. */
export const DELETED_CONTENTS = ['intact', 'overwritten', 'unsure'] as const;

export interface FileDeletion {
  how: string;
  contents: (typeof DELETED_CONTENTS)[number];
}

/** Messages known to have existed and not found. */
export interface Gap {
  store: string;
  /** Null when it is not known which conversation they belong to. */
  thread: string | null;
  count: number;
  /** The lines between which they are missing. */
  after: string | null;
  before: string | null;
  /** Milliseconds since 1970. */
  from: number | null;
  to: number | null;
  reason: string;
}

/** Tells a gap from others of its case; the same for the same findings. */
export function gapId({ store, thread, after, before, from, to }: Gap): string {
  return `${store}/gap/${[thread, after, before, from, to].map((part) => part ?? '').join('|')}`;
}

export type Counts = Record<RecordState, number>;

export interface Store {
  id: string;
  source: string;
  path: string;
  /** Id of the reading profile. */
  profile: string;
  /** How well the profile suits the store, 0 to 100. */
  fit: number;
  counts: Counts;
  /** Those of them that are calls and contacts; no part of the case file, absent in cases of earlier versions. */
  others?: Counts;
  /** Why not more was found. */
  limits: string[];
  /** First and last known moment; no part of the case file. */
  span: { from: number; to: number } | null;
}

/** What of a store's records are messages. */
export function messagesIn({ counts, others }: Pick<Store, 'counts' | 'others'>): Counts {
  if (!others) return counts;
  const states = Object.keys(counts) as RecordState[];
  return Object.fromEntries(
    states.map((state) => [state, counts[state] - others[state]])
  ) as Record<RecordState, number>;
}

export interface Note {
  level: 'info' | 'warning' | 'error';
  code: string;
  text: string;
  path: string | null;
}

export type Depth = 'indexed' | 'freed' | 'whole';

export interface SourcePart {
  path: string;
  bytes: number;
  sha256: string;
}

export interface Source {
  id: string;
  name: string;
  kind: string;
  bytes: number;
  sha256: string;
  parts: SourcePart[];
  depth: Depth;
  device: Device;
  notes: Note[];
  inside: Inside;
}

/** What was found inside a source before its stores were read. */
export interface Inside {
  files: number;
  packages: PackageFacts[];
  /** Databases and logs, whether or not they hold messages. */
  candidates: CandidateFacts[];
}

export interface PackageFacts {
  path: string;
  kind: string;
  files: number;
  /** What opens it; null when it is open. */
  lock: { reason: 'key-needed' | 'wrong-key'; wants: 'password' | 'password-or-hex-key' } | null;
}

/** What is seen of a source before it is examined. */
export interface SourceGlance {
  /** As {@link Source.kind}. */
  kind: string;
  files: number;
  packages: PackageFacts[];
  parts: GlancedPart[];
  /** Where there are no parts: why, in one sentence. */
  says: string | null;
  /** Whether examining it may find anything. */
  worth: boolean;
  /** How deep it has to be examined to find something; absent where the usual depth will do. */
  depth?: Depth;
}

/** A store, a card or a log that was recognised. */
export interface GlancedPart {
  path: string;
  /** What it is, in words. */
  title: string;
  what: 'messages' | 'calls' | 'contacts';
  count: number;
  /** There are more than were counted. */
  isMore: boolean;
  /** Milliseconds since 1970; null where not known. */
  from: number | null;
  to: number | null;
  /** What lies beside it, in words. */
  beside: string[];
}

export interface CandidateFacts {
  path: string;
  bytes: number;
  modifiedAt: number | null;
  /** Title of the profile that reads it, or that is offered for it. */
  profile: string | null;
  fit: number;
  /** It was read; otherwise the profile is only offered. */
  read: boolean;
  reasons: string[];
  /** Who wrote is left open, and one answer at the profile desk would tell it; absent in cases of earlier versions. */
  asks?: boolean;
  /** Where nothing reads it: tables that may hold messages all the same; absent where there are none. */
  readings?: ReadingFacts[];
}

/** A table with dated texts, and what a reading of it would give. */
export interface ReadingFacts {
  table: string;
  rows: number;
  /** There are more rows than were counted. */
  more: boolean;
  fit: number;
  /** What speaks for messages. */
  reasons: string[];
  /** What the table looks like instead. */
  against: string | null;
  lines: { at: number; text: string }[];
}

export interface Device {
  name: string | null;
  model: string | null;
  system: string | null;
  serial: string | null;
  phoneNumber: string | null;
  backedUpAt: number | null;
}

/** Everything that one or more passes found. */
export interface Findings {
  stores: Store[];
  people: Person[];
  threads: Thread[];
  messages: Message[];
  attachments: Attachment[];
  calls: Call[];
  contacts: Contact[];
  gaps: Gap[];
}

export const OWNER = 'owner';

export function emptyFindings(): Findings {
  return {
    stores: [],
    people: [],
    threads: [],
    messages: [],
    attachments: [],
    calls: [],
    contacts: [],
    gaps: []
  };
}

export function emptyCounts(): Counts {
  return { live: 0, held: 0, recovered: 0, fragment: 0, earlier: 0 };
}

export function emptyDevice(): Device {
  return {
    name: null,
    model: null,
    system: null,
    serial: null,
    phoneNumber: null,
    backedUpAt: null
  };
}

export function emptyInside(): Inside {
  return { files: 0, packages: [], candidates: [] };
}
