import { straightened } from './contradictions';
import { forecast, type Forecast, type Verdict } from './forecast';
import { spanOf, type Copy, type CopyKind, type Intake } from './intake';
import type { Route } from './route';
import { isoOf, momentOf, timesOf, type Times } from './times';
import { warningsOf, type Warning } from './warnings';
import { needsOf, overwritten, risksOf } from './words';

export interface Plan {
  routes: Route[];
  warnings: Warning[];
}

/** The routes of an intake, the best first. */
export function planOf(asked: Intake): Plan {
  const { intake, warnings } = straightened(asked);
  const times = timesOf(intake);
  const weighed = intake.copies.map((copy, i) => weigh(copy, i, intake, times));
  weighed.sort(byWorth);
  const routes = weighed.map(({ copy, found, until }, i): Route => ({
    copy: copy.id,
    rank: i + 1,
    verdict: found.verdict,
    newerLost: overwritten(copy, intake, times),
    changesEvidence: CHANGES.has(copy.kind),
    needs: needsOf(copy),
    risks: risksOf(copy, intake),
    reasons: found.reasons,
    doBefore: until === null ? null : isoOf(until)
  }));
  return { routes, warnings: [...warnings, ...warningsOf(intake, routes, times)] };
}

interface Weighed {
  copy: Copy;
  found: Forecast;
  until: number | null;
  /** Milliseconds since 1970; what has no moment of its own counts as now, what is not known as long ago. */
  at: number;
  /** Place among the copies, so that equal ones keep their order. */
  place: number;
}

function weigh(copy: Copy, place: number, intake: Intake, times: Times): Weighed {
  const found = forecast(copy, intake, times);
  const runsOut = copy.willBeOverwrittenBy === null ? null : spanOf(copy.willBeOverwrittenBy).from;
  const ends = [found.until, runsOut].filter((end) => end !== null && end > times.now) as number[];
  const isUseful = found.verdict === 'contains' || found.verdict === 'may-contain';
  return {
    copy,
    found,
    until: isUseful && ends.length > 0 ? Math.min(...ends) : null,
    at: momentOf(copy, times.now)?.from ?? -Infinity,
    place
  };
}

const ORDER: Record<Verdict, number> = {
  contains: 0,
  'may-contain': 1,
  'too-late': 2,
  'too-early': 3,
  cannot: 4
};

/** Copies that cannot be taken without changing something on the phone. */
const CHANGES: ReadonlySet<CopyKind> = new Set(['handset', 'old-handset']);

/** Where a copy of a kind is only likely to hold something, how soon it is worth the trouble. */
const EFFORT: Record<CopyKind, number> = {
  'holding-area': 0,
  'computer-backup': 1,
  'cloud-backup': 1,
  'app-backup': 1,
  'computer-app': 2,
  'app-export': 2,
  disk: 2,
  'cloud-sync': 3,
  'old-handset': 3,
  handset: 4,
  'other-party': 5,
  card: 6,
  'screen-captures': 6
};

/** What surely holds it first; then what changes nothing, the newest, what runs out soonest. */
function byWorth(a: Weighed, b: Weighed): number {
  const verdict = ORDER[a.found.verdict] - ORDER[b.found.verdict];
  if (verdict !== 0) return verdict;
  const effort = EFFORT[a.copy.kind] - EFFORT[b.copy.kind];
  if (a.found.verdict === 'may-contain' && effort !== 0) return effort;
  const changes = Number(CHANGES.has(a.copy.kind)) - Number(CHANGES.has(b.copy.kind));
  if (changes !== 0) return changes;
  if (a.at !== b.at) return b.at - a.at;
  const ends = (a.until ?? Infinity) - (b.until ?? Infinity);
  return Number.isNaN(ends) || ends === 0 ? a.place - b.place : ends;
}
