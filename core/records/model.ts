/** The record model. Times are milliseconds since 1970 in UTC, or null when unknown. */

export type RecordState = 'live' | 'held' | 'recovered' | 'fragment' | 'earlier';
export const STATES: readonly RecordState[] = ['live', 'held', 'recovered', 'fragment', 'earlier'];

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
  message: string;
  name: string | null;
  mime: string | null;
  bytes: number | null;
  sha256: string | null;
  state: RecordState;
  /** Where the store says that the file lies. */
  path: string | null;
  width: number | null;
  height: number | null;
  seconds: number | null;
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
  /** Why not more was found. */
  limits: string[];
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
}

export const OWNER = 'owner';

export function emptyFindings(): Findings {
  return { stores: [], people: [], threads: [], messages: [], attachments: [] };
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

export function countStates(messages: readonly Message[]): Counts {
  const counts = emptyCounts();
  for (const message of messages) counts[message.state]++;
  return counts;
}
