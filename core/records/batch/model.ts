import type { Direction, Message, ProofMethod } from '../model';

/** What the messages of one writer in one conversation share. */
export interface BatchContext {
  thread: string;
  /** Person id, or null when it is not known who wrote. */
  sender: string | null;
  direction: Direction;
}

/** What ids that begin alike have in common, and how their number follows. */
export interface IdForm {
  prefix: string;
  number: 'none' | 'decimal' | 'hexadecimal';
}

/** Reasons that differ in one number only: JSON of the list without its brackets. */
export interface ReasonForm {
  before: string;
  after: string;
  hasNumber: boolean;
}

/** What proofs from one file by one method share. */
export interface ProofForm {
  source: string;
  path: string;
  method: ProofMethod;
}

/** What lists, counts and the order of time need of each message. */
export interface LineColumns {
  contexts: BatchContext[];
  /** Which of the contexts. */
  context: Uint32Array;
  /** Milliseconds since 1970; NaN when unknown. */
  sentAt: Float64Array;
  /** Index in `STATES`. */
  state: Uint8Array;
  certainty: Uint8Array;
}

/** What few messages have, beside what all have. */
export type MessageExtra = Pick<
  Message,
  'subject' | 'purgeAt' | 'replaces' | 'attachments' | 'replyTo' | 'reactions' | 'location'
> & {
  /** A text that UTF-8 cannot hold. */
  body?: string;
};

/** What reading shows of each message. */
export interface TextColumns {
  idForms: IdForm[];
  idForm: Uint32Array;
  idNumber: Float64Array;
  /** All texts in well-formed UTF-8, one behind the other, and where each ends. */
  text: Uint8Array;
  ends: Uint32Array;
  /** By index, rising. */
  extras: [index: number, extra: MessageExtra][];
}

/** What each message was read from and how it was judged. */
export interface OriginColumns {
  /** Milliseconds since 1970; NaN when unknown. */
  deliveredAt: Float64Array;
  readAt: Float64Array;
  reasonForms: ReasonForm[];
  reasonForm: Uint32Array;
  /** NaN where the form has none. */
  reasonNumber: Float64Array;
  /** Where the proofs of each message end in the columns below. */
  proofEnds: Uint32Array;
  proofForms: ProofForm[];
  proofForm: Uint32Array;
  /** 0 where there is none: pages are counted from 1. */
  page: Uint32Array;
  offset: Float64Array;
  length: Float64Array;
}

/**
 * Messages of one store as columns: small ones apart from their texts, and
 * both from what few ask for. Can be handed to another thread or kept as it is.
 */
export interface MessageBatch {
  store: string;
  count: number;
  lines: LineColumns;
  texts: TextColumns;
  origins: OriginColumns;
}
