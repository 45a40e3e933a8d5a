import type { CallDirection, Direction } from '../records';
import { ID_CLOCKS } from './id-time';
import type { TextForm } from './packed-text';

/**
 * A reading profile says how a store's tables map to messages, calls and
 * contacts. It is plain data, so that it can be built in, worked out,
 * corrected and saved alike. Names of tables may end in or hold one `*`,
 * which stands for any letters and digits.
 */
export interface ReadingProfile {
  id: string;
  title: string;
  /** Tables and columns that must be there for the profile to apply. */
  needs: Record<string, string[]>;
  /** Columns that raise the fit when they are there. */
  knows: Record<string, string[]>;
  messages: MessageMapping[];
  calls?: CallMapping[];
  contacts?: ContactMapping[];
  /** Names that the store itself gives to addresses. */
  names?: NameField[];
  /** The very make of database that it was saved for: see `schemaFingerprint`. */
  fingerprint?: string;
}

export interface MessageMapping {
  table: string;
  /** Every table that `table` matches is one conversation. */
  many?: boolean;
  /** Column that other tables refer to; usually the row number. */
  key: string;
  /** Column that stays the same through edits and copies of one message. */
  unique?: string;
  /** Rows that are messages; all tests must hold. */
  only?: RowTest[];
  /** Rows that the app wrote itself; one test is enough. */
  system?: RowTest[];
  body: Expression;
  subject?: Expression;
  sentAt: TimeField;
  deliveredAt?: TimeField;
  readAt?: TimeField;
  direction: DirectionField;
  /** Address of the writer of an incoming message. */
  sender: Expression;
  thread: ThreadField;
  attachments?: AttachmentField[];
  /** Messages in the app's own holding area: when they were put there, and for how many days. */
  held?: { since: TimeField; days: number };
  /** What names the message that this one answers: another's unique value or key. */
  replyTo?: { value: Expression; names: 'unique' | 'key' };
  /** Rows that are reactions to another message. */
  reactionOf?: ReactionRow;
  /** Reactions kept in a table of their own. */
  reactions?: ReactionField[];
  /** A property list with earlier wordings. */
  edits?: Expression;
  /** Moments at which something was done to a message, told beside it. */
  marks?: { at: TimeField; says: string }[];
  location?: { lat: Expression; lon: Expression; label?: Expression };
  /** Values that a column `address` holds in place of the owner's own number. */
  ownerPlaceholders?: string[];
}

export interface RowTest {
  value: Expression;
  is?: string[];
  not?: string[];
  /** Whether the value is there at all. */
  present?: boolean;
}

export interface ReactionRow {
  when: RowTest;
  /** The unique value of the message that is reacted to. */
  target: Expression;
  text: Expression;
  /** Rows that take a reaction back. */
  removed?: RowTest;
}

export interface ReactionField {
  rows: Lookup;
  text: Expression;
  person: Expression;
  /** Gives anything when it is the owner's own. */
  own?: RowTest;
  at?: TimeField;
}

export interface TimeField {
  value: Expression;
  clock: Clock;
  /** The clock was chosen by hand, so the column's values do not overrule it. */
  fixed?: boolean;
  /** IANA zone of texts that are written without one; set for a pass, never saved. */
  zone?: string;
}

export const CLOCKS_BY_NAME = [
  'seconds-1970',
  'milliseconds-1970',
  'microseconds-1970',
  'nanoseconds-1970',
  'seconds-2001',
  'nanoseconds-2001',
  'microseconds-1601',
  'ticks-1',
  'iso',
  ...ID_CLOCKS
] as const;

export type Clock = (typeof CLOCKS_BY_NAME)[number];

export type DirectionField =
  | {
      value: Expression;
      /** From the stored value, as text, to the direction. */
      values: Record<string, Direction>;
      otherwise: Direction;
    }
  | {
      /** Who wrote it; the owner's own writing is outgoing. */
      author: Expression;
      /** The owner's identities. */
      own?: string[];
      /** A table whose texts are the owner's identities. */
      ownTable?: string;
    };

export interface ThreadField {
  /** What tells conversations of the store apart. */
  key: Expression;
  /** Addresses of the others. */
  participants: Expression;
  /** An address that must be among the participants; if it is not, the conversation's number was used again. */
  peer?: Expression;
  title?: Expression;
  /** How many messages the store says the conversation holds. */
  counted?: Expression;
  /** Participants are all who wrote in the conversation, because the store does not list them. */
  collect?: boolean;
  /** The owner's own addresses, which are no participants. */
  own?: string[];
  ownTable?: string;
}

export interface AttachmentField {
  /** Rows that belong to the message; without it the message's own row tells. */
  rows?: Lookup;
  name: Expression;
  mime?: Expression;
  path: Expression;
  bytes?: Expression;
  width?: Expression;
  height?: Expression;
  seconds?: Expression;
  thumbnail?: Expression;
  /** Rows that stand for a file; without tests any row with a name, path or type does. */
  only?: RowTest[];
}

export interface CallMapping {
  table: string;
  key: string;
  at: TimeField;
  seconds: Expression;
  address: Expression;
  name?: Expression;
  direction: { value: Expression; values: Record<string, CallDirection>; otherwise: CallDirection };
  /** Incoming calls whose value here is among these were missed. */
  missed?: RowTest;
}

export interface ContactMapping {
  table: string;
  key: string;
  only?: RowTest[];
  name: Expression;
  phones: Expression;
  emails: Expression;
  organisation?: Expression;
  note?: Expression;
}

export interface NameField {
  table: string;
  address: Expression;
  name: Expression;
}

export interface Lookup {
  table: string;
  /** Column compared with `from`. */
  match: string;
  from: Expression;
  /** Only rows whose column holds (`is`) or does not hold (`not`) one of the values, compared as text. */
  where?: { column: string; is?: string[]; not?: string[] };
  /** Column by whose numbers several rows are put in order; else they come as they are stored. */
  order?: string;
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
  /** All that the expressions give. */
  | { each: Expression[] }
  /** Texts cut at blanks. */
  | { words: Expression }
  /** Texts cut at commas, semicolons and bars, as lists of addresses are. */
  | { listed: Expression }
  /** All different values as one text, in alphabetical order: the same for the same set. */
  | { sorted: Expression }
  /** All values as one text, in order. */
  | { joined: Expression; by: string }
  /** Wording inside an archived attributed string. */
  | { typedStream: Expression }
  /** Markup as the text that a reader sees. */
  | { plainText: Expression }
  /** Bytes as the text that they stand for. */
  | { textOf: Expression; form: TextForm }
  /** A field inside bytes that are made up of numbered fields, by the numbers on the way to it. */
  | { tagged: Expression; path: number[] }
  /** A field inside a text that is JSON, by the names of the fields around it; nothing where it is not there. */
  | { json: Expression; path: string[] }
  /** The first group of a regular expression, where it matches. */
  | { match: Expression; pattern: string }
  /** The text without what a regular expression matches. */
  | { without: Expression; pattern: string }
  /** `user@server` with digits only before the `@` as an international number. */
  | { jid: Expression }
  /** The text of this store whose MD5 stands in the name of the row's table. */
  | { tableHash: true }
  /** Each value's word in a list; others give nothing. */
  | { map: Expression; values: Record<string, string> }
  /** `then` where the test holds. */
  | { when: RowTest; then: Expression };

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
