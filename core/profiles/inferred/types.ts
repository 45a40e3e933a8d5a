import type { ReadingFacts } from '../../records';
import type { Expression, ReadingProfile } from '../profile';

/** A profile that was worked out from the data, with what speaks for it. */
export interface WorkedOut {
  profile: ReadingProfile;
  fit: number;
  reasons: string[];
  /** What nothing in the data decides: which of two values stands for the owner's own. */
  question: DirectionQuestion | null;
}

/** One that is offered, with the profile that would read it. */
export interface OfferedReading extends ReadingFacts {
  profile: ReadingProfile;
  question: DirectionQuestion | null;
}

/** Lines of either side, to be told apart by whoever knows the owner. */
export interface DirectionQuestion {
  expression: Expression;
  column: string;
  sides: { value: string; lines: string[] }[];
}

/** What is known of a database beside its tables. */
export interface StoreContext {
  /** Where it lies in its source. */
  path?: string;
  /** Tables that a known profile reads, in lower case: they have their meaning already. */
  closed?: ReadonlySet<string>;
}

export interface Ranked extends WorkedOut {
  rank: number;
  /** The table that its texts lie in, where that is another one. */
  partsIn: string | null;
}
