/** What is known of a case's lines: its stores, its conversations, and where each lies. */
import type { Copies, RowColumns, ThreadRange, ThreadSummary } from './lines';
import type { JoinedPeople, SharedLines } from './people';
import type {
  Attachment,
  BatchContext,
  Call,
  Contact,
  Gap,
  Message,
  Person,
  Store,
  TextColumns,
  Thread
} from '../records';
import type { Correspondent } from '../messages';

/** What was found of one store, but for its messages, whose columns, texts and origins lie beside. */
export interface StoreEntry {
  sourceId: string;
  store: string;
  /** The examination that it comes from: whenever a store is read again it is another. */
  run: number;
  count: number;
  facts: Store;
  contexts: BatchContext[];
  /** The rows of each conversation, in their order. */
  ranges: ThreadRange[];
  threads: Thread[];
  people: Person[];
  calls: Call[];
  contacts: Contact[];
  gaps: PlacedGap[];
  attachments: number;
}

/** A gap, and the conversations and rows of the lines beside it; null where there is none. */
export interface PlacedGap {
  gap: Gap;
  before: { thread: string; row: number } | null;
  after: { thread: string; row: number } | null;
}

/** A person or a group over all stores of a case. */
export interface Conversation extends Correspondent {
  /** Of the lines that are shown. */
  summary: ThreadSummary;
  /** The owner wrote in it. */
  isAnswered: boolean;
  copies: Copies;
  /** The runs over stores that this was worked out from. */
  runs: number[];
}

/** What opening a case reads: its conversations, worked out whenever a store changed. */
export interface IndexRecord {
  caseId: string;
  /** Ids of the stores, as copies name them by their places. */
  stores: string[];
  conversations: Conversation[];
  people: Person[];
  /** How addresses are joined to people; absent in cases of earlier versions, whose index is worked out anew. */
  joined?: JoinedPeople;
  /** Who wrote the same in several stores. */
  shared?: SharedLines[];
}

/** Attachments of a store, and what their messages say of them. */
export interface ToldAttachments {
  attachments: readonly Attachment[];
  /** When their messages were sent; NaN where unknown. */
  sentAt: Float64Array;
  /** States of their messages, by their places in `STATES`. */
  states?: Uint8Array;
}

/** The lines of one store, wherever they are kept. */
export interface CaseStore {
  readonly id: string;
  readonly record: StoreEntry;
  /** Of rows that were not loaded they say nothing. */
  readonly columns: RowColumns;
  /** Makes sure that the columns of some rows are there, all where none are named. */
  load(from?: number, to?: number): Promise<void>;
  /** Rows of the messages of these ids, by the key of the id. */
  rowsOf(keys: ReadonlySet<number>): Iterable<[key: number, row: number]>;
  /** Texts of the rows from `chunk * CHUNK` on. */
  texts(chunk: number): Promise<TextColumns>;
  /** The record of a row, whose columns have to be there. */
  message(row: number): Promise<Message>;
  attachments(): Promise<readonly ToldAttachments[]>;
}
