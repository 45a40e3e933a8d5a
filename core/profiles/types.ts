import type { CallDirection, Direction, Place, Proof, RecordState } from '../records';

/** Proofs before their source is known. */
export type StoreProof = Omit<Proof, 'source'>;

/** A message as its store tells it: addresses not yet joined to people. */
export interface StoreMessage {
  /** Unique within the store and stable for the same bytes. */
  key: string;
  table: string;
  rowid: number | bigint | null;
  /** Value of the profile's unique column, where there is one. */
  unique: string | null;
  direction: Direction;
  sender: string | null;
  sentAt: number | null;
  deliveredAt: number | null;
  readAt: number | null;
  body: string;
  subject: string | null;
  state: RecordState;
  purgeAt: number | null;
  certainty: number;
  reasons: string[];
  proofs: StoreProof[];
  thread: StoreThread;
  attachments: StoreAttachment[];
  /** Unique value or row number of the message that this one answers. */
  replyTo: string | null;
  reactions: StoreReaction[];
  location: Place | null;
  /** Key of the present form, for earlier wordings that the store itself keeps. */
  earlierOf: string | null;
}

export interface StoreThread {
  key: string;
  participants: string[];
  peer: string | null;
  title: string | null;
  /** How many messages the store says the conversation holds; null where it does not count. */
  counted: number | null;
}

export interface StoreAttachment {
  name: string | null;
  mime: string | null;
  path: string | null;
  bytes: number | null;
  width: number | null;
  height: number | null;
  seconds: number | null;
  state: RecordState;
  /** Small picture that the store keeps of it. */
  thumbnail: Uint8Array | null;
}

export interface StoreReaction {
  /** Address; null for the owner. */
  address: string | null;
  text: string;
  at: number | null;
}

export interface StoreCall {
  key: string;
  address: string | null;
  name: string | null;
  direction: CallDirection;
  at: number | null;
  seconds: number | null;
  state: RecordState;
  certainty: number;
  proofs: StoreProof[];
}

export interface StoreContact {
  key: string;
  name: string | null;
  phones: string[];
  emails: string[];
  organisation: string | null;
  note: string | null;
  state: RecordState;
  certainty: number;
  proofs: StoreProof[];
}

/** A table whose row numbers tell what is missing. */
export interface NumberedTable {
  name: string;
  /** Numbers that its rows have, live or freed. */
  numbers: Float64Array;
  /** The last number given, where the table counts (AUTOINCREMENT); else null. */
  last: number | null;
}

/** Everything that a profile reads from a store. */
export interface StoreReading {
  messages: StoreMessage[];
  calls: StoreCall[];
  contacts: StoreContact[];
  /** Address to name, where the store tells. */
  names: Map<string, string>;
  /** The row numbers of the tables that messages were read from. */
  numbered: NumberedTable[];
}
