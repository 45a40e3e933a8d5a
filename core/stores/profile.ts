import type { Direction } from '../records';

/**
 * A reading profile says how a store's tables map to messages. It is plain
 * data, so that it can be built in, worked out, corrected and saved alike.
 */
export interface ReadingProfile {
  id: string;
  title: string;
  /** Tables and columns that must be there for the profile to apply. */
  needs: Record<string, string[]>;
  /** Columns that raise the fit when they are there. */
  knows: Record<string, string[]>;
  messages: MessageMapping[];
}

export interface MessageMapping {
  table: string;
  /** Column that other tables refer to; usually the row number. */
  key: string;
  /** Column that stays the same through edits and copies of one message. */
  unique?: string;
  body: Expression;
  subject?: Expression;
  sentAt: TimeField;
  deliveredAt?: TimeField;
  readAt?: TimeField;
  direction: DirectionField;
  /** Address of the writer of an incoming message. */
  sender: Expression;
  thread: ThreadField;
  attachments?: AttachmentField;
  /** Values that a column `address` holds in place of the owner's own number. */
  ownerPlaceholders?: string[];
}

export interface TimeField {
  value: Expression;
  clock: Clock;
}

export type Clock =
  | 'seconds-1970'
  | 'milliseconds-1970'
  | 'microseconds-1970'
  | 'nanoseconds-1970'
  | 'seconds-2001'
  | 'nanoseconds-2001';

export interface DirectionField {
  value: Expression;
  /** From the stored value, as text, to the direction. */
  values: Record<string, Direction>;
  otherwise: Direction;
}

export interface ThreadField {
  /** What tells conversations of the store apart. */
  key: Expression;
  /** Addresses of the others. */
  participants: Expression;
  /** An address that must be among the participants; if it is not, the conversation's number was used again. */
  peer?: Expression;
  title?: Expression;
}

export interface AttachmentField {
  table: string;
  /** Rows of `table` that belong to the message. */
  rows: Lookup;
  name: Expression;
  mime: Expression;
  path: Expression;
  bytes?: Expression;
}

export interface Lookup {
  table: string;
  /** Column compared with `from`. */
  match: string;
  from: Expression;
  /** Only rows whose column holds (`is`) or does not hold (`not`) one of the values, compared as text. */
  where?: { column: string; is?: string[]; not?: string[] };
}

/**
 * An expression gives a list of values for a row; fields take the first one
 * unless they can hold several.
 */
export type Expression =
  | { column: string }
  | { constant: string }
  /** Values of `take` for every row that the lookup finds. */
  | { lookup: Lookup; take: Expression }
  /** The first expression that gives anything. */
  | { first: Expression[] }
  /** Texts cut at blanks. */
  | { words: Expression }
  /** All values as one text, in order. */
  | { joined: Expression; by: string }
  /** Wording inside an archived attributed string. */
  | { typedStream: Expression };

export function column(name: string): Expression {
  return { column: name };
}

/** Shorthand for a lookup by one column. */
export function lookUp(
  table: string,
  match: string,
  from: Expression,
  take: Expression
): Expression {
  return { lookup: { table, match, from }, take };
}
