import type { FileRow } from './media-api';
import type { Scope } from '$core/examine';
import {
  STATES,
  type CallDirection,
  type Depth,
  type FileKind,
  type Message,
  type Proof,
  type ProofMethod,
  type RecordState
} from '$core/records';
import type { CellSpan, FreedTotals, LogStretch, RowEvent } from '$core/sqlite';
import type { BrokenLink, CustodyEntry } from '$core/custody';
import type { ChosenKind } from '$core/exhibits';
import type { Reason, Redaction, UndecidedFile } from '$core/produce';
import type { CopyDepth, CopyFault, Exchange } from '$core/acquire';
import type { CopiedFrom } from '$core/case';
import type { CaseRecord, ProductionRecord, SourceRecord } from '../../storage/schema';

export type { FileRow } from './media-api';

/** What is to be copied. */
export interface CopyOrder {
  device: string;
  /** What the source will be called. */
  name: string;
  depth: CopyDepth;
  /** Null for all kinds of data. */
  kinds: string[] | null;
}

export interface CopyView extends CopyOrder {
  state: 'running' | 'paused' | 'waiting';
  path: string;
  done: number;
  total: number;
  rate: number | null;
  secondsLeft: number | null;
}

/** How a copy ended otherwise than well. */
export interface CopyEnd {
  device: string;
  fault: CopyFault | 'stopped';
  message: string;
}

export type EvidenceHandle = FileSystemFileHandle | FileSystemDirectoryHandle;

export interface NamedBlob {
  path: string;
  blob: Blob;
}

/** How a source is added. */
export interface AddHow {
  /** Where files come from that were copied elsewhere. */
  copied?: CopiedFrom;
  /** The name was given by somebody, and is not exchanged for the device's. */
  isNamed?: boolean;
}

/** A source on the disk that the browser has to be asked about. */
export interface ClosedSource {
  id: string;
  name: string;
  handles: EvidenceHandle[];
}

export type AddResult =
  | {
      ok: true;
      source: SourceRecord;
      /** Another source with the same bytes. */
      known: string | null;
      /** It is one that the case had before, without its bytes or removed. */
      met: boolean;
    }
  | { ok: false; reason: string };

/** What a pass is narrowed to, as plain data. */
export type WantSpec = Omit<Scope, 'depth'>;

interface LiveCount {
  live: number;
  notLive: number;
}

export type Facet =
  'messages' | 'calls' | 'contacts' | 'people' | 'media' | 'documents' | 'files' | 'gaps';
export type FacetCounts = Record<Facet, LiveCount>;
export type FileFacet = 'media' | 'documents' | 'files';

export interface CallRow {
  id: string;
  state: RecordState;
  name: string;
  address: string;
  direction: CallDirection;
  day: string;
  time: string;
  seconds: number | null;
  certainty: number;
  source: string;
}

export interface ContactRow {
  id: string;
  state: RecordState;
  name: string;
  phones: string[];
  emails: string[];
  organisation: string | null;
  note: string | null;
  source: string;
}

/** Messages known to have existed and not found. */
export interface GapRow {
  key: string;
  count: number;
  /** With whom; null when it is not known. */
  name: string | null;
  from: string;
  to: string;
  /** The line to go to, and the correspondent whose it is; null when neither neighbour is a line. */
  goTo: { correspondent: string; message: string } | null;
  reason: string;
  source: string;
}

export interface FilePage {
  total: number;
  rows: FileRow[];
}

/** What a mapping would give, before it is saved. */
export interface ProfileTrial {
  total: number;
  lines: {
    time: string;
    side: 'own' | 'other' | 'both';
    sender: string;
    room: string;
    body: string;
  }[];
  error: string | null;
}

export type ProfileImport = { ok: true; title: string } | { ok: false; reason: string };

export interface CaseSummary {
  record: CaseRecord;
  sources: SourceRecord[];
  totals: Record<RecordState, number>;
  /** This tab takes the case's sources and runs its passes; others read. */
  isOwner: boolean;
  exhibits: number;
  productions: ProductionRecord[];
}

/** What the reading view is narrowed to. */
export interface ReadFilter {
  query: string;
  states: RecordState[];
  /** Milliseconds since 1970, both included; null is open. */
  from: number | null;
  to: number | null;
  /** Id of a source or a store; null for all. */
  place: string | null;
  /** Lines with files of a kind. */
  has: FileKind | 'any' | null;
  /** Lines with a label; with any note where it is empty. */
  label: string | null;
}

/** A filter that lets everything pass. */
export const OPEN_FILTER: ReadFilter = {
  query: '',
  states: [...STATES],
  from: null,
  to: null,
  place: null,
  has: null,
  label: null
};

export interface CorrespondentRow {
  id: string;
  name: string;
  /** The number, or how many are in the group. */
  detail: string;
  group: boolean;
  /** Person to be named by hand; null for groups. */
  person: string | null;
  named: boolean;
  lines: number;
  notLive: number;
  chosen: number;
  /** When the last line was sent; null where that is unknown. */
  last: number | null;
  /** How many addresses are joined in it; 0 for groups. */
  addresses: number;
  /** Codes and advertising: nobody answers, and nobody could. */
  isNotice: boolean;
  /** Lines in each of {@link DENSITY_CELLS} equal stretches of the case's time. */
  density: number[];
  densityNotLive: number[];
}

export const DENSITY_CELLS = 56;

export interface Line {
  id: string;
  /** 0 until the first pass over its source is over. */
  number: number;
  at: number | null;
  /** Heading when the day changes, in the case's zone. */
  day: string | null;
  time: string;
  sender: string;
  side: 'own' | 'other' | 'both';
  /** Name to be set over the line, in groups and when the speaker changes. */
  speaker: string | null;
  body: string;
  subject: string | null;
  state: RecordState;
  certainty: number;
  chosen: boolean;
  note: string;
  labels: string[];
  /** Codes of the redactions made in it and its files. */
  codes: string[];
  attachments: LineFile[];
  /** What is missing before this line, and behind it where it is the last. */
  gapsBefore: LineGap[];
  gapsAfter: LineGap[];
}

/** Messages that are known to be missing beside a line. */
export interface LineGap {
  count: number;
  /** What shows it, in a few words. */
  shownBy: string;
  /** Between which moments, and where; the whole of what is known. */
  bounds: string;
}

/** A file that came with a line, and where its bytes can be had. */
export interface LineFile {
  id: string;
  name: string;
  mime: string | null;
  bytes: number | null;
  sourceId: string;
  path: string;
  /** Its bytes are not in the source. */
  missing: boolean;
  /** Somebody joined the file to the line. */
  byHand: boolean;
  thumbnail: Uint8Array | null;
}

export interface LinePage {
  total: number;
  from: number;
  lines: Line[];
}

export interface River {
  /** Each day of the case's zone by its midnight in UTC, milliseconds since 1970. */
  days: number[];
  /** The moment at which each of them really begins, and that at which the last one ends. */
  starts: number[];
  series: Record<RecordState, number[]>;
}

export interface LineDetail {
  line: number;
  message: Message;
  sender: string;
  /** The address that it was sent from; empty for the owner's. */
  address: string;
  /** Times with their zone. */
  sent: string;
  delivered: string | null;
  read: string | null;
  source: string;
  sourceId: string;
  store: string;
  /** Other stores that hold the same message. */
  also: string[];
  proofs: ProofView[];
  files: LineFile[];
  /** Redactions made in it and its files. */
  redactions: RedactionRow[];
}

export interface ProofView {
  proof: Proof;
  text: string;
  /** Bytes of the record, from its start; null when the source's file is not in this browser. */
  bytes: Uint8Array | null;
}

/** What a database file is made of. */
export interface InsideView {
  name: string;
  sha256: string;
  bytes: number;
  pageSize: number;
  encoding: string;
  /** What had to be worked out because the file is damaged. */
  told: string[];
  /** Kind of each page: places in `PAGE_KINDS`. */
  kinds: Uint8Array;
  /** Pages on which records were recovered, with how many. */
  recovered: [page: number, count: number][];
  space: FreedTotals;
  /** Stretches of the log, oldest first, with records recovered from each. */
  log: (LogStretch & { recovered: number })[];
}

export interface InsidePage {
  number: number;
  /** Offset in the file that holds it. */
  offset: number;
  file: string;
  /** Table or index whose page it is. */
  owner: string | null;
  bytes: Uint8Array;
  sha256: string;
}

export interface InsideField {
  name: string;
  text: string;
  /** The moment that a number stands for. */
  note: string | null;
  kind: 'plain' | 'lost' | 'none';
}

export interface InsideRecord {
  page: InsidePage;
  /** Of the cell, within the page. */
  start: number;
  length: number;
  method: ProofMethod;
  spans: CellSpan[];
  fields: InsideField[];
  /** What the states of the file tell of the row, oldest first; empty where there is one state or the row has no number. */
  life: { what: RowEvent['what']; text: string }[];
  citation: string;
  place: string;
}

/** An exhibit as the exhibit list shows it. */
export interface ExhibitRow {
  id: string;
  kind: ChosenKind;
  name: string;
  /** The name was given by hand. */
  isNamed: boolean;
  count: number;
  /** Lines of the whole conversation; null for what is no conversation. */
  of: number | null;
  notLive: number;
  redacted: number;
  /** Files that go along, and their bytes. */
  files: number;
  bytes: number;
  span: string;
  firstDay: string | null;
  lastDay: string | null;
  /** Days that it is trimmed to. */
  from: string | null;
  to: string | null;
  context: number;
  isClosed: boolean;
  /** Its first line, to go to. */
  first: { correspondent: string; message: string } | null;
}

export interface ExhibitView {
  lists: { id: string; name: string; exhibits: number }[];
  current: string;
  order: 'hand' | 'time';
  rows: ExhibitRow[];
  lines: number;
  files: number;
  bytes: number;
}

export interface RedactionRow {
  redaction: Redaction;
  code: string;
  /** What is covered, in words. */
  text: string;
  /** The line that it is in, to go to. */
  goTo: { correspondent: string; message: string } | null;
}

export interface RedactionView {
  rows: RedactionRow[];
  reasons: Reason[];
}

export interface PersonRow {
  id: string;
  name: string;
  address: string;
}

export interface CustodyView {
  entries: CustodyEntry[];
  broken: BrokenLink | null;
}

/** Printed pages, and the page on which each exhibit begins, by its label. */
export interface PagePreview {
  pdf: Uint8Array;
  pages: number;
  starts: Record<string, number>;
}

export interface ProductionResult {
  record: ProductionRecord;
  name: string;
  /** Null where it was written into a folder. */
  zip: Blob | null;
  /** Whether an earlier production was made again to the byte; null for a new one. */
  isSame: boolean | null;
}

/** Records that were produced, or files of which has to be decided first. */
export type Produced = ProductionResult | { undecided: UndecidedFile[] };

/** What the worker tells the page without being asked. */
export type DeskEvent =
  | { type: 'producing'; what: string; done: number; total: number }
  | { type: 'job'; job: JobView | null }
  | { type: 'copying'; copy: CopyView | null }
  | { type: 'copy-broke'; end: CopyEnd }
  | { type: 'exchange'; said: Exchange }
  | { type: 'changed' }
  /** More is known of what is searched for. */
  | { type: 'hits' }
  /** How many pictures were compared. */
  | { type: 'comparing'; done: number; total: number }
  | { type: 'adding'; name: string; fraction: number }
  | { type: 'failed'; text: string };

export interface JobView {
  sourceId: string;
  name: string;
  depth: Depth;
  stage: string;
  fraction: number;
  found: number;
  /** Bytes a second; null until it can be told. */
  rate: number | null;
  secondsLeft: number | null;
  paused: boolean;
  /** The pass was cut off by a reload and was taken up again. */
  resumed: boolean;
}
