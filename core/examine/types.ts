import type { ByteSource, Scratch } from '../host';
import type {
  CandidateFacts,
  Depth,
  FileRecord,
  Findings,
  JsonChunk,
  JsonFrame,
  MessageBatch,
  Note,
  Source
} from '../records';
import type { Carving } from '../formats/rawimage';
import type { ListedFile } from '../formats';
import type { ReadingProfile } from '../profiles';
import type { CountryCode } from '../messages';
import type { PauseGate } from '../host';
import type { HelperPool } from './helper';

/** A file as it is handed to a pass. */
export interface InputFile extends ByteSource {
  /** Milliseconds since 1970; null or absent when the host does not tell. */
  readonly modifiedAt?: number | null;
  /** Its SHA-256 in hex, where the host has hashed it already. */
  readonly sha256?: string;
  /** Hashes it beside the pass, where the host can; else the pass reads it for that. */
  digest?(): Promise<string>;
}

/** One source of a case as it is handed to a pass. */
export interface SourceInput {
  id: string;
  name: string;
  /** Its files; paths are relative to the source. */
  files: InputFile[];
  /** What finding the source had to say, e.g. that another folder level was taken. */
  notes?: Note[];
}

/** SHA-256 over a stream of bytes, as the host provides it. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  /** Lower-case hex. */
  digest(): string;
}

export const KINDS = ['messages', 'calls', 'contacts', 'media', 'files'] as const;
export type Kind = (typeof KINDS)[number];

/** What a pass looks for; narrowing it saves the work for the rest. */
export interface Want {
  kinds: ReadonlySet<Kind>;
  /** Milliseconds since 1970, both included; null is open. */
  from: number | null;
  to: number | null;
  /** Only conversations with these addresses; empty for all. */
  addresses: readonly string[];
}

export const EVERYTHING: Want = { kinds: new Set(KINDS), from: null, to: null, addresses: [] };

export interface PassRequest {
  input: SourceInput;
  depth: Depth;
  /** Region of national telephone numbers; null to judge it from the store. */
  region: CountryCode | null;
  /** IANA zone of times that are written without one. */
  zone: string;
  hasher: () => Promise<Hasher>;
  /** Report live messages before the search of freed space begins. */
  early: boolean;
  /** Passwords and hex keys, tried in turn; never stored. */
  keys: readonly string[];
  scratch: Scratch;
  want: Want;
  /** Profiles that were saved in this case, each for stores of one shape. */
  profiles: readonly ReadingProfile[];
  /** Profiles that were saved elsewhere: taken where nothing else fits better. */
  offered?: readonly ReadingProfile[];
  /** Tables with more rows are not held in memory; a value of the host's, for small machines and tests. */
  mostHeld?: number;
  /** Other threads that help with large stores. */
  helpers?: HelperPool;
  /** Messages of stores that are not held leave as JSON, as `json` events, each in this frame; without it as batches. */
  frame?: JsonFrame;
  /** Lets the event loop run once; a timer where the host has nothing quicker. */
  turn?: () => Promise<void>;
  signal?: AbortSignal;
  gate?: PauseGate;
}

/** Files that were told by their content within a file of unknown kind. */
export interface CarvedFiles {
  file: ListedFile;
  source: ByteSource;
  carved: Carving;
}

export type Stage =
  'unlock' | 'unpack' | 'hash' | 'carve' | 'rows' | 'declarations' | 'freed' | 'messages' | 'files';

/** How far the pass has come. */
export interface ProgressEvent {
  type: 'progress';
  stage: Stage;
  /** Of the stage, 0 to 1. */
  part: number;
  /** Of the whole, 0 to 1. */
  fraction: number;
  /** The same when the store that is being read was read and what it gave is kept. */
  after: number;
  bytes: number;
  found: number;
}

/**
 * What a pass reports, in order. `progress` comes at most every 100 ms;
 * `found` carries everything known of a store and replaces what an earlier
 * one said of it; of a store that is too large to be held the messages come
 * before that in batches or, if asked for, as `json`; `files` come in batches; `done` is always the last.
 */
export type PassEvent =
  | ProgressEvent
  | { type: 'source'; source: Source }
  | { type: 'candidate'; candidate: CandidateFacts }
  | { type: 'batch'; batch: MessageBatch }
  | { type: 'json'; records: JsonChunk[]; count: number }
  | { type: 'found'; findings: Findings; final: boolean }
  | { type: 'files'; files: FileRecord[] }
  | { type: 'note'; note: Note }
  | { type: 'done'; source: Source; stopped: boolean };
