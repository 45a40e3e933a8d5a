import {
  isCut,
  LOST_MARK,
  type CallDirection,
  type Direction,
  type Proof,
  type RecordState
} from '../records';
import type { ZonedTime } from '../shown';
import { mapText, type Text } from './parts';
import type { Area, RedactionCount, RedactionEntry } from './redact';

/** A file that came with a line, as it goes into the package. */
export interface ProductionFile {
  id: string;
  name: Text;
  mime: string | null;
  bytes: number | null;
  sha256: string | null;
  state: RecordState;
  /** The code over the whole file; null where it is shown. */
  code: string | null;
  areas: readonly Area[];
  /** Somebody joined it to its message: the store does not lead to it. */
  byHand: boolean;
  /** The messages that it came with, where it stands by itself; a line says the same of its own. */
  carriers: ProductionCarrier[];
}

/** What is said of a file that somebody joined to its message. */
export const JOINED = 'joined to the message by hand';

/** A message that carries a file. */
export interface ProductionCarrier {
  message: string;
  /** Its line, where it has one in the record. */
  line: number | null;
  at: number | null;
  sender: Text;
  conversation: Text;
  state: RecordState;
}

export interface ProductionReaction {
  who: Text;
  text: Text;
  at: number | null;
}

/** One line of a record, ready to be set: names resolved, redactions applied, times in milliseconds. */
export interface ProductionLine {
  number: number;
  id: string;
  at: number | null;
  sender: Text;
  address: Text;
  direction: Direction;
  body: Text;
  subject: Text;
  state: RecordState;
  certainty: number;
  reasons: string[];
  proofs: Proof[];
  /** The source's name; with the store's path where the conversation is joined from several. */
  source: string;
  /** The path of the store that it was read from, where the case knows it. */
  store: string | null;
  attachments: ProductionFile[];
  /** The line that this one answers, with its first words; null where it answers none that is known. */
  replyTo: { line: number | null; quote: Text } | null;
  reactions: ProductionReaction[];
  place: { lat: number; lon: number; label: Text } | null;
  /** The line whose earlier wording this is. */
  earlierOf: number | null;
  /** Stands there so that a chosen line beside it can be understood. */
  isContext: boolean;
  /** Bytes of the text are lost where the mark stands. */
  isCut: boolean;
  /** What only records for programs hold: moments, and ids of what it refers to. */
  refers: {
    deliveredAt: number | null;
    readAt: number | null;
    purgeAt: number | null;
    senderId: string | null;
    replyTo: string | null;
    replaces: string | null;
  };
}

/** Messages known to have been there and not found. */
export interface ProductionGap {
  /** With whom; null where it is not known or told by where it stands. */
  who: Text | null;
  count: number;
  from: number | null;
  to: number | null;
  reason: string;
}

/** One conversation, or the chosen part of it. */
export interface ProductionThread {
  id: string;
  title: Text;
  participants: { name: Text; address: Text }[];
  isGroup: boolean;
  lines: ProductionLine[];
  /** Gaps by the line that they stand before, and those at the end. */
  gapsBefore: ReadonlyMap<string, ProductionGap[]>;
  gapsAtEnd: ProductionGap[];
  /** Lines of the whole conversation, to say when only a part is produced. */
  of: number;
}

export interface ProductionCall {
  id: string;
  who: Text;
  address: Text;
  direction: CallDirection;
  at: number | null;
  seconds: number | null;
  state: RecordState;
  certainty: number;
  source: string;
  proofs: Proof[];
}

export interface ProductionContact {
  id: string;
  name: Text;
  phones: Text[];
  emails: Text[];
  organisation: Text;
  note: Text;
  state: RecordState;
  certainty: number;
  source: string;
  proofs: Proof[];
}

/** What stands under one heading of a record. */
export type ProductionSection = {
  /** The exhibit that it is, as `E1`; null where the whole case is produced. */
  label: string | null;
  title: Text;
} & (
  | { kind: 'thread'; thread: ProductionThread }
  | { kind: 'calls'; calls: ProductionCall[] }
  | { kind: 'contacts'; contacts: ProductionContact[] }
  | { kind: 'files'; files: ProductionFile[] }
  | { kind: 'gaps'; gaps: ProductionGap[] }
);

export interface ProductionSource {
  id: string;
  name: string;
  kind: string;
  sha256: string;
  bytes: number;
  depth: string;
}

/** What is said of a production as a whole. */
export interface ProductionHead {
  caseName: string;
  title: string;
  reference: string | null;
  preparedBy: string | null;
  preparedFor: string | null;
  /** Moment of production, milliseconds since 1970. */
  made: number;
  /** IANA zone in which times are written. */
  zone: string;
}

export interface Production {
  head: ProductionHead;
  sources: ProductionSource[];
  /** Everything, in the order in which it is read. */
  sections: ProductionSection[];
  /** What the sections hold, by kind. */
  threads: ProductionThread[];
  calls: ProductionCall[];
  contacts: ProductionContact[];
  /** Files that stand by themselves, without a line. */
  files: ProductionFile[];
  /** Gaps that stand by themselves. */
  gaps: ProductionGap[];
  redactions: RedactionCount[];
  /** Each redaction with where it is and why it was made, never what it covers. */
  redacted: RedactionEntry[];
}

/** The parts of a production by kind. */
export function partsOf(
  sections: readonly ProductionSection[]
): Pick<Production, 'threads' | 'calls' | 'contacts' | 'files' | 'gaps'> {
  return {
    threads: sections.flatMap((part) => (part.kind === 'thread' ? [part.thread] : [])),
    calls: sections.flatMap((part) => (part.kind === 'calls' ? part.calls : [])),
    contacts: sections.flatMap((part) => (part.kind === 'contacts' ? part.contacts : [])),
    files: sections.flatMap((part) => (part.kind === 'files' ? part.files : [])),
    gaps: sections.flatMap((part) => (part.kind === 'gaps' ? part.gaps : []))
  };
}

/** All files of a production: those of its lines, and those that stand by themselves. */
export function filesOf({
  threads,
  files
}: Pick<Production, 'threads' | 'files'>): ProductionFile[] {
  const ofLines = threads.flatMap(({ lines }) => lines.flatMap((line) => line.attachments));
  return [...ofLines, ...files];
}

export const STATE_MARKS: Record<RecordState, { mark: string; word: string; means: string }> = {
  live: { mark: '●', word: 'live', means: 'in the store as the app shows it' },
  held: {
    mark: '◔',
    word: 'recently deleted',
    means: 'in the app’s own holding area, to be purged'
  },
  recovered: { mark: '◆', word: 'recovered', means: 'deleted, and recovered in full' },
  fragment: { mark: '◇', word: 'fragment', means: 'deleted, and recovered in part' },
  earlier: { mark: '↶', word: 'earlier version', means: 'an older wording of a message' }
};

/** Where bytes are lost the stored text has U+FFFC; readers see this instead. Apps put the same sign where a file belongs: it is never drawn. */
export const LOST_TEXT = '[…]';

/** A line's wording as readers see it. */
export function shownBody({ body, isCut }: Pick<ProductionLine, 'body' | 'isCut'>): Text {
  return mapText(body, (text) => text.replaceAll(LOST_MARK, isCut ? LOST_TEXT : ''));
}

export function isTornText(line: { state: RecordState; certainty: number; body: string }): boolean {
  return isCut(line);
}

/** Lines before which the store changes, with its path, in a conversation that is joined from several. */
export function storeChanges(lines: readonly ProductionLine[]): ReadonlyMap<string, string> {
  const changes = new Map<string, string>();
  if (new Set(lines.map(({ store }) => store)).size < 2) return changes;
  let last: string | null = null;
  for (const { id, store } of lines) {
    if (store !== null && store !== last) changes.set(id, store);
    last = store;
  }
  return changes;
}

/** What a message says that carries a file, in one line. */
export function carrierText(
  { line, at, sender, conversation, state }: ProductionCarrier,
  time: ZonedTime
): Text {
  return [
    ...(sender.length === 0 ? [] : [{ text: 'from ' }, ...sender, { text: ', ' }]),
    { text: `${at === null ? 'time unknown' : time.full(at)}, in ` },
    ...conversation,
    { text: `${line === null ? '' : `, line ${line}`}, ${STATE_MARKS[state].word}` }
  ];
}

export function proofText(proof: Proof): string {
  const page = proof.page === null ? '' : `, page ${proof.page}`;
  const offset = `0x${proof.offset.toString(16).toUpperCase()}`;
  return `${proof.path}${page}, offset ${offset}, ${proof.length} bytes, ${METHOD_WORDS[proof.method]}`;
}

/** Ways in which records are read, in words. */
export const METHOD_WORDS: Record<Proof['method'], string> = {
  table: 'table row',
  log: 'write-ahead log',
  journal: 'rollback journal',
  'free-page': 'free page',
  'free-block': 'free block',
  unallocated: 'unallocated space',
  carved: 'carved',
  card: 'card record',
  text: 'text file'
};
