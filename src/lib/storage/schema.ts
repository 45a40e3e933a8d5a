import type { DBSchema } from 'idb';
import type {
  JoinedFile,
  Attachment,
  Call,
  Contact,
  Depth,
  FileRecord,
  Gap,
  Message,
  OriginColumns,
  Person,
  Source,
  SourceGlance,
  Store,
  TextColumns,
  Thread
} from '$core/records';
import type { RowColumns } from '$core/case/lines';
import type { CopiedFrom, IndexRecord, StoreEntry } from '$core/case';
import type { Decisions, NamedAddresses } from '$core/case/people';
import type { Scope } from '$core/examine';
import type { ReadingProfile } from '$core/profiles';
import type { CopyDepth, CopyLogEntry } from '$core/acquire';
import type { CustodyEntry } from '$core/custody';
import type { ExhibitLists } from '$core/exhibits';
import type { IntakeDocument } from '$core/plan';
import type { Reason, Redaction, Settings } from '$core/produce';

/** A case as the casebook lists it. */
export interface CaseRecord {
  id: string;
  name: string;
  client: string;
  /** IANA zone in which times are shown. */
  zone: string;
  /** ISO country that national numbers belong to; null to judge it from the store. */
  region: string | null;
  opened: number;
  /** Names given by hand or by the client: person id to name. */
  names: Record<string, string>;
  /** Which addresses are one person's, decided by hand; absent in cases of earlier versions. */
  decisions?: Decisions;
  /** Files that were joined by hand to attachments, by their ids. */
  fileJoins?: Record<string, JoinedFile>;
  /** Names that were imported from a list of contacts. */
  book?: NamedAddresses[];
  /** The last line number given. */
  lastLine: number;
  /** The last number of a source given; it is never given again. */
  lastSource?: number;
  /** Ids of sources that were removed for good, by the checksums of their lists: the same evidence gets its id again. */
  removedSources?: Record<string, string>;
  /** Set when the case was deleted and may still be brought back. */
  deletedAt: number | null;
  /** It is being imported, and not there before that is over. */
  isComing?: boolean;
  demo: boolean;
  lastProduction: number | null;
}

/** What is looked for; absent where that is everything. */
interface Asked {
  depth: Depth;
  want?: Omit<Scope, 'depth'>;
  startedAt: number;
}

export type PassState =
  | { state: 'none' }
  | (Asked & { state: 'queued' | 'running' })
  | (Asked & { state: 'done' | 'stopped' | 'failed'; endedAt: number });

/** A file that is kept: by itself, or in a pack with others. */
export type BlobRecord =
  { sha256: string; blob: Blob } | { sha256: string; pack: string; from: number; to: number };

/** Where the files of a source that was not copied lie: by themselves, or below a folder. */
export type EvidencePlace =
  | { files: { path: string; handle: FileSystemFileHandle }[] }
  | { folder: FileSystemDirectoryHandle };

/** A source on a case's shelf. Its bytes lie in `blobs`, by checksum, or where they were on the disk. */
export interface SourceRecord {
  key: string;
  caseId: string;
  id: string;
  name: string;
  addedAt: number;
  /** Of a large folder that is read in place checksums are empty, and bytes 0, until it was examined. */
  files: { path: string; bytes: number; sha256: string; modifiedAt?: number | null }[];
  /** Its files are read where they lie on the disk; absent for those that are kept in this browser. */
  isInPlace?: boolean;
  /** What the last pass said of it; null before the first. */
  source: Source | null;
  pass: PassState;
  stores: Store[];
  /** What was seen of it when it was added; absent in cases of earlier versions, null while it is looked at. */
  glance?: SourceGlance | null;
  /** The device that it was copied from; absent for what was added as files. */
  copied?: CopiedFrom;
  /** SHA-256 of its one file, or of its list of files (`listOfFiles`); empty until all are hashed. */
  sum?: string;
  /** Its name was given by somebody, and is not taken from what is found in it. */
  isNamed?: boolean;
  /** IANA zone of the times in it that are written without one; the case's where absent. */
  localZone?: string;
  /** When it was removed; it can be brought back until the case is closed. */
  removedAt?: number;
  /** It came with a case file: its bytes are not here, and were not checked here. */
  isAway?: boolean;
}

/** What examinations found of one store; its columns, texts and origins lie beside under the number of the run that made them. */
export interface StoreRecord extends RunKey, StoreEntry {
  /** Places of the first messages of each part of the origins, among all as they came. */
  originStarts: Uint32Array;
  /** What the examinations looked for whose findings these are. */
  scopes?: Scope[];
}

/** The key of what belongs to a run over a store, and the first part of the keys of its parts. */
export interface RunKey {
  caseId: string;
  sourceId: string;
  store: string;
  run: number;
}

/** Part of the columns of a store's messages. */
export interface ColumnsRecord extends RunKey {
  part: number;
  columns: RowColumns;
}

/** The texts of some messages, and what else of them is searched. */
export interface TextsRecord extends RunKey {
  part: number;
  texts: TextColumns;
  /** Subjects and names of files, by index, rising. */
  beside: [index: number, text: string][];
}

/** What messages were read from, as they came. */
export interface OriginsRecord extends RunKey {
  part: number;
  origins: OriginColumns;
}

/** Attachments of a store, and when their messages were sent; NaN where unknown. */
export interface AttachmentsRecord extends RunKey {
  part: number;
  attachments: Attachment[];
  sentAt: Float64Array;
  /** States of their messages, by their places in `STATES`; absent in cases of earlier versions. */
  states?: Uint8Array;
}

/** Part of a store's messages, in cases of earlier versions; line numbers stand beside, 0 where not yet given. */
export interface ChunkRecord {
  caseId: string;
  sourceId: string;
  store: string;
  part: number;
  threads: Thread[];
  people: Person[];
  messages: Message[];
  lines: number[];
  attachments: Attachment[];
  calls: Call[];
  contacts: Contact[];
  /** Absent in cases of earlier versions of the storage. */
  gaps?: Gap[];
}

/** Part of the list of a source's files. */
export interface FilesRecord {
  caseId: string;
  sourceId: string;
  part: number;
  files: FileRecord[];
}

/** A reading profile that was worked out or corrected: of one case, and offered to all. */
export interface ProfileRecord {
  id: string;
  /** The case that it was saved in; absent for what was imported. */
  caseId?: string;
  /** What tells databases of the same make: see `schemaFingerprint`. */
  fingerprint: string;
  savedAt: number;
  profile: ReadingProfile;
}

export interface ExhibitRecord {
  caseId: string;
  /** Ids of the chosen messages, in cases of earlier versions of the storage. */
  messages?: string[];
  /** Absent in cases of earlier versions. */
  lists?: ExhibitLists;
  redactions?: Redaction[];
  /** Files that hold covered words inside and go along all the same, by their ids. */
  letGo?: string[];
  /** What the codes of redactions stand for. */
  reasons?: Reason[];
  /** How they were last to be produced, without a password. */
  settings?: Settings;
}

/** What was noted of a line or a file. */
export interface NoteRecord {
  caseId: string;
  /** Id of the message, or key of the file. */
  of: string;
  kind: 'line' | 'file';
  text: string;
  labels: string[];
  changedAt: number;
}

/** An entry of a case's custody log. */
export interface CustodyRecord {
  caseId: string;
  n: number;
  entry: CustodyEntry;
}

/** What the client told of a case, as it was typed. */
export interface IntakeRecord {
  caseId: string;
  document: Omit<IntakeDocument, 'now'>;
  /** Steps and checks that are done, as `copy/step` or `check/id`. */
  done: string[];
  /** The source that a copy became, by the copy. */
  sources: Record<string, string>;
  /** Answers that were given and are not in the log yet. */
  unlogged: string[];
}

/** A copy that is being taken, or broke off. Its parts and its log lie beside it. */
export interface CopyRecord {
  key: string;
  caseId: string;
  device: string;
  /** What the source will be called. */
  name: string;
  depth: CopyDepth;
  kinds: string[] | null;
  /** Bytes that are kept, and of the whole; 0 before it was listed. */
  done: number;
  total: number;
  /** Why it broke off; null while it runs, and where it was cut off. */
  message: string | null;
}

export interface CopyPartRecord {
  copy: string;
  path: string;
  n: number;
  blob: Blob;
}

export interface CopyLineRecord {
  copy: string;
  n: number;
  entry: CopyLogEntry;
}

/** Settings of productions that were saved under a name, for all cases. */
export interface PresetRecord {
  id: string;
  title: string;
  settings: Settings;
}

export interface ProductionRecord {
  id: string;
  caseId: string;
  made: number;
  formats: string[];
  zone: string;
  lines: number;
  threads: number;
  /** Of the archive in productions of earlier versions, else of the list by which the package is told. */
  sha256: string;
  bytes: number;
  /** Absent in productions of earlier versions. */
  pages?: number | null;
  first?: string | null;
  last?: string | null;
  /** All that was asked for, exhibits and redactions included, so that it can be done again. */
  settings?: Settings;
  /** Its pages were locked with a password, which is not kept. */
  isLocked?: boolean;
  /** Entries of the custody log that were there when it was made. */
  logged?: number;
}

/** Case, source, store, run and part. */
type PartKey = [string, string, string, number, number];

export interface OmbudsmanDb extends DBSchema {
  cases: { key: string; value: CaseRecord };
  sources: { key: string; value: SourceRecord; indexes: { case: string } };
  chunks: { key: [string, string, string, number]; value: ChunkRecord; indexes: { case: string } };
  blobs: { key: string; value: BlobRecord };
  packs: { key: string; value: { id: string; blob: Blob } };
  places: { key: string; value: { source: string; place: EvidencePlace } };
  exhibits: { key: string; value: ExhibitRecord };
  productions: { key: string; value: ProductionRecord; indexes: { case: string } };
  files: { key: [string, string, number]; value: FilesRecord; indexes: { case: string } };
  profiles: { key: string; value: ProfileRecord };
  custody: { key: [string, number]; value: CustodyRecord; indexes: { case: string } };
  presets: { key: string; value: PresetRecord };
  intakes: { key: string; value: IntakeRecord };
  copies: { key: string; value: CopyRecord; indexes: { case: string } };
  copyParts: { key: [string, string, number]; value: CopyPartRecord };
  copyLines: { key: [string, number]; value: CopyLineRecord };
  stores: { key: [string, string, string]; value: StoreRecord };
  columns: { key: PartKey; value: ColumnsRecord };
  texts: { key: PartKey; value: TextsRecord };
  origins: { key: PartKey; value: OriginsRecord };
  attachments: { key: PartKey; value: AttachmentsRecord };
  indexes: { key: string; value: IndexRecord };
  notes: { key: [string, string]; value: NoteRecord };
}
