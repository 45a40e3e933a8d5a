import type { Database } from 'sql.js';

/** A message as two stores of one family can be compared by it. */
export interface StoredMessage {
  /** The same for the same message in both. */
  key: string;
  text: string;
  /** Of its row in the store that it comes from. */
  id: number;
  table: string;
}

/** How the messages of a family's stores are listed, and put from one into another. */
export interface Merger {
  tables: readonly string[];
  list(db: Database): StoredMessage[];
  /** Adds rows of messages; returns how many conversations it made. */
  add(from: Database, into: Database, messages: readonly StoredMessage[]): number;
}
