import type { Database } from '../read/database';

/** A stretch of frames of the write-ahead log. */
export interface LogStretch {
  /** `commit` frames make up the present state, `open` ones were never committed, `older` ones a restart left behind. */
  kind: 'commit' | 'open' | 'older';
  /** First frame, counted from 0, and how many. */
  first: number;
  frames: number;
  /** Offsets in the log of the first frame's page and behind the last one's. */
  from: number;
  to: number;
}

/** The log as a sequence of states, oldest commit first. */
export function logStretches({ log }: Database): LogStretch[] {
  if (!log) return [];
  const out: LogStretch[] = [];
  let current = null as LogStretch | null;
  for (const { index, offset, commitSize, valid } of log.frames) {
    const kind = index < log.committed ? 'commit' : valid ? 'open' : 'older';
    if (current === null || current.kind !== kind) {
      current = { kind, first: index, frames: 0, from: offset, to: offset };
      out.push(current);
    }
    current.frames++;
    current.to = offset + log.pageSize;
    if (commitSize > 0) current = null;
  }
  return out;
}
