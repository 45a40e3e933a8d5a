/** What speaks for two addresses being one person's. */
export type JoinReason = 'number' | 'contact' | 'conversation' | 'name' | 'hand';

/** Two addresses that are, or may be, one person's. */
export interface Join {
  /** Ids of people, each one address; `a` sorts before `b`. */
  a: string;
  b: string;
  reason: JoinReason;
  /** What speaks for it, in a sentence. */
  text: string;
  /** Sure ones are made by themselves; of the others somebody has to decide. */
  isSure: boolean;
}

/** What was decided by hand: pairs of ids that are, or are not, one person's. */
export interface Decisions {
  together: [string, string][];
  apart: [string, string][];
}

export const UNDECIDED: Decisions = { together: [], apart: [] };

/** Addresses that are taken for one person's. */
export interface Individual {
  /** Id of the first of its members. */
  id: string;
  members: string[];
  /** Why they were joined. */
  joins: Join[];
}

/** The people of a case. */
export interface JoinedPeople {
  /** Those of more than one address. */
  individuals: Individual[];
  /** Joins that wait for a decision. */
  proposals: Join[];
  /** Sure ones that were taken back by hand. */
  undone: Join[];
}

/** How often two addresses of two stores wrote the same words at the same moment. */
export interface SharedLines {
  a: string;
  b: string;
  count: number;
  /** The smaller of the numbers of lines that could have been shared. */
  of: number;
}
