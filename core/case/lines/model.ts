/** Rows whose texts are kept together. */
export const CHUNK = 4096;

/** The lines of one conversation of a store: so many, from that row on. */
export interface ThreadRange {
  id: string;
  start: number;
  count: number;
}

/** What is known of a conversation's lines without reading them. */
export interface ThreadSummary extends ThreadRange {
  /** Days since 1970 in UTC, rising; a day is named once for each state that it has lines in. */
  days: Int32Array;
  /** Index in `STATES` of each, and how many lines that are. */
  dayStates: Uint8Array;
  dayCounts: Uint32Array;
  /** Lines whose time is unknown, by state. */
  timeless: Uint32Array;
  /** First and last known moment; NaN where none is known. */
  first: number;
  last: number;
}

/**
 * Columns of all messages of one store, conversation by conversation, each in
 * the order of time; a message is named by its row, its place in them.
 */
export interface RowColumns {
  /** Which of the store's contexts. */
  context: Uint32Array;
  /** Milliseconds since 1970; NaN when unknown. */
  sentAt: Float64Array;
  /** Index in `STATES`. */
  state: Uint8Array;
  certainty: Uint8Array;
  /** Number of the line; 0 where none was given yet. */
  line: Uint32Array;
  /** See `idKey`. */
  idKey: Float64Array;
  /** Place among all messages of the store as they came, by which their origins are kept. */
  origin: Uint32Array;
  /** Of the text and how many files come with it; NaN where there is neither. */
  contentKey: Float64Array;
}

export function emptyColumns(count: number): RowColumns {
  return {
    context: new Uint32Array(count),
    sentAt: new Float64Array(count),
    state: new Uint8Array(count),
    certainty: new Uint8Array(count),
    line: new Uint32Array(count),
    idKey: new Float64Array(count),
    contentKey: new Float64Array(count),
    origin: new Uint32Array(count)
  };
}

/** A line that several stores hold is shown once: the other rows are copies of it. */
export interface Copies {
  /** Places of the stores, and rows, of copies that are not shown. */
  store: Uint32Array;
  row: Uint32Array;
  /** What is shown in their place. */
  forStore: Uint32Array;
  forRow: Uint32Array;
}
