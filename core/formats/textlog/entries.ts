import type { LogSide } from './flags';

/** One entry of a log, as it is written. */
export interface LogEntry {
  /** Milliseconds since 1970; null when the log does not tell. */
  at: number | null;
  /** Null for what the program wrote itself. */
  sender: string | null;
  /** Who wrote it, where a mark in the log says so. */
  side: LogSide | null;
  text: string;
  /** Place in the file, in bytes. */
  offset: number;
  length: number;
}

/** A log that was read. */
export interface ChatLog {
  path: string;
  entries: LogEntry[];
  /** Name of the conversation or of the other party, where the log tells. */
  title: string | null;
  /** Times were written without a zone. */
  zoneless: boolean;
  /** What decided the order of day and month, in plain words; null where nothing was open. */
  order: string | null;
  /** It has so few entries that only other logs beside it show that it is one. */
  isShort: boolean;
}

/** A piece of a text with its place in the file. */
export interface TextLine {
  text: string;
  offset: number;
  length: number;
}
