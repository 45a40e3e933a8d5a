import type { Database } from '../read/database';

/** A database as far as it could be opened, and what had to be worked out for that. */
export interface OpenedDatabase {
  database: Database;
  /** Plain sentences; empty for a sound file. */
  told: string[];
}
