import type { ProxyMarked } from 'comlink';
import type { FileDeletion, FileKind, RecordState } from '$core/records';

/** What the page asks about the files of a case as things to be seen and heard. */
export interface MediaApi extends ProxyMarked {
  /** Days with how many files each has, and what the files can be narrowed to. */
  sheet(filter: MediaFilter): Promise<MediaSheet>;
  /** Files of the sheet by their places. */
  rows(filter: MediaFilter, from: number, to: number): Promise<MediaRow[]>;
  /** Keys of files of the sheet, to be chosen. */
  keys(filter: MediaFilter, from: number, to: number): Promise<string[]>;
  /** A small picture; null where there is none. */
  small(sourceId: string, path: string): Promise<Blob | null>;
  /** Compares all pictures; false where that was ended by another call. */
  compare(): Promise<boolean>;
  preview(file: FilePlace): Promise<Preview>;
  facts(file: FilePlace): Promise<FileFacts>;
  /** Files that could be the one of an attachment whose bytes are missing. */
  candidates(attachment: string, query: string): Promise<FileRow[]>;
  /** Lines of a conversation that say where they were written. */
  places(correspondent: string): Promise<PlacedLine[]>;
}

export interface FilePlace {
  sourceId: string;
  path: string;
  name: string;
}

export interface MediaFilter {
  query: string;
  kinds: FileKind[];
  /** Id of a correspondent; null for all. */
  person: string | null;
  state: 'all' | 'live' | 'not live';
  message: 'all' | 'with' | 'without';
  /** A label; empty for any note or label, null for all files. */
  label: string | null;
  /** Least size in bytes. */
  least: number;
  /** Most bits of 64 by which two pictures that are shown as one differ; null where each is shown. */
  alike: number | null;
}

export interface MediaDay {
  day: string;
  from: number;
  count: number;
}

export interface MediaSheet {
  total: number;
  days: MediaDay[];
  /** Files by kind, whatever kinds are asked for. */
  kinds: Partial<Record<FileKind, number>>;
  people: { id: string; name: string; count: number }[];
  /** Pictures that were compared, of how many. */
  compared: number;
  pictures: number;
}

/** What somebody noted of a file. */
export interface FileNote {
  note: string;
  labels: string[];
}

export interface FileRow extends FileNote {
  key: string;
  sourceId: string;
  source: string;
  path: string;
  name: string;
  mime: string | null;
  bytes: number | null;
  sha256: string | null;
  state: RecordState;
  /** When it was made or sent, with its zone; null when nothing tells. */
  at: string | null;
  day: string;
  /** It is named by a message, but its bytes are not in the source. */
  missing: boolean;
  /** How it was found where its medium no longer lists it. */
  deletion: FileDeletion | null;
  thumbnail: Uint8Array | null;
  /** Other places that hold the same bytes. */
  copies: number;
  /** Messages that carry it. */
  messages: string[];
}

export interface MediaRow extends FileRow {
  kind: FileKind;
  /** With whom it was exchanged; empty where not attached to a message. */
  person: string;
  /** Pictures that look like it and are not shown by themselves. */
  alike: number;
}

export type Preview =
  | { kind: 'picture' | 'sound' | 'video'; blob: Blob; isConverted: boolean }
  | { kind: 'pdf'; bytes: Uint8Array }
  /** Of a document laid out by a program, `isWordsAlone`: what it looks like is not shown. */
  | { kind: 'text'; text: string; isCut: boolean; isWordsAlone: boolean }
  | { kind: 'cards'; cards: { name: string; phones: string[]; emails: string[] }[] }
  | { kind: 'events'; events: CalendarEntry[] }
  | { kind: 'none'; reason: string; head: Uint8Array };

export interface CalendarEntry {
  summary: string;
  starts: string;
  ends: string;
  place: string;
  attendees: string[];
}

/** What is known of a file. */
export interface FileFacts {
  bytes: number | null;
  sha256: string | null;
  /** Its type by its first bytes, and by the end of its name; null where nothing tells. */
  byContent: string | null;
  byName: string | null;
  camera: string | null;
  /** By the camera's own clock, without a zone. */
  takenAt: string | null;
  place: { lat: number; lon: number } | null;
  source: string;
  path: string;
  key: string | null;
  /** Lines that carry it. */
  lines: { line: number; with: string; correspondent: string; message: string; at: string }[];
  /** Other places of the same bytes. */
  copies: number;
}

export interface PlacedLine {
  message: string;
  line: number;
  lat: number;
  lon: number;
  label: string | null;
  at: string;
}
