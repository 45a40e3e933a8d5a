import type { FreedFacts, PackedRows, RecordCursor, TableSchema } from '../sqlite';
import type { LiveBounds } from './certainty';
import type { LargeLeaves, Leaves, PlainPlace } from './leaf-rows';
import type { PlainRows } from './plain';
import type { StoreMessage, StoreThread } from './types';

/** Takes ordinary rows as they are, where it can. */
export interface PlainSink {
  /** False when the row has to be read as a message, which then comes next. */
  live(rows: PlainRows, cursor: RecordCursor, place: PlainPlace): boolean;
  /** The same for a freed row that has no copies. */
  freed(rows: PlainRows, cursor: RecordCursor, freed: PlainFreed): boolean;
  /** Who writes a table's rows: the sink itself what it is given here, others the rest. */
  shared(rows: PlainRows, leaves: LargeLeaves, reactedTo: Float64Array): Iterable<SharedStep>;
  /** The same for freed rows that have no copies. */
  sharedFreed(part: FreedPart, indexes: Uint32Array): Iterable<SharedFreedStep>;
}

/** What is left to do while other threads write the rows of a table. */
export type SharedStep =
  /** Leaves that nobody else wrote. */
  | { type: 'own'; leaves: Uint32Array }
  /** One row, or with `start` null all rows of a leaf, that another thread could not write. */
  | { type: 'left'; page: number; start: number | null }
  | Wait;

/** Nothing goes on before that. */
export interface Wait {
  type: 'wait';
  until: Promise<unknown>;
}

/** What freed rows are held against. */
export interface Judged {
  bounds: LiveBounds;
  /** Whether a conversation has live lines. */
  isLinked(thread: StoreThread): boolean;
}

/** What is known of a freed row beside its values. */
export interface PlainFreed extends Judged {
  facts: FreedFacts;
}

/** The freed rows of one table, as other threads can write them. */
export interface FreedPart extends Judged {
  rows: PlainRows;
  /** Those of the table's live rows. */
  leaves: Leaves;
  schema: TableSchema;
  /** Hashes of the names of messages that are reacted to. */
  reactedTo: Float64Array;
  /** All complete rows, and the places of some among them. */
  packed(): PackedRows;
  placesOf(indexes: Uint32Array): Uint32Array;
  factsAt(index: number): FreedFacts;
}

/** What is left to do while other threads write freed rows. */
export type SharedFreedStep =
  /** Rows that nobody else wrote, by their index. */
  { type: 'own'; indexes: Uint32Array } | Wait;

/** Freed messages, read again whenever one is asked for; what tells which are asked for stands in columns. */
export interface FreedMessages {
  readonly count: number;
  /** When each was sent; NaN where that is unknown. */
  readonly moments: Float64Array;
  /** Its row number; NaN where that is unknown. */
  readonly rowids: Float64Array;
  /** A hash of its unique value; NaN where it has none. */
  readonly uniques: Float64Array;
  /** The message, behind its earlier wordings; empty where the row is none. */
  read(index: number): StoreMessage[];
  /** Whether the sink took the row as it is. */
  give(index: number, sink: PlainSink): boolean;
  /** Lets the sink and its helpers write rows that have no copies; what is left to be given or read comes as `own`. */
  share(indexes: Uint32Array, sink: PlainSink): Iterable<SharedFreedStep>;
}
