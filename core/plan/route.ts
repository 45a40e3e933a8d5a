import type { Verdict } from './forecast';

/** One way to get the messages back. */
export interface Route {
  /** Id of the copy. */
  copy: string;
  /** From 1. */
  rank: number;
  verdict: Verdict;
  /** What a restore of it would overwrite; null where nothing newer would be lost. */
  newerLost: string | null;
  changesEvidence: boolean;
  needs: string[];
  risks: string[];
  reasons: string[];
  /** ISO 8601, UTC; null where nothing presses. */
  doBefore: string | null;
}
