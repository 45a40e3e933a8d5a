import { spanOf, type Copy, type Intake, type Span } from './intake';

const DAY = 86_400_000;

/** What is known of when things happened, in milliseconds since 1970. */
export interface Times {
  now: number;
  /** When the lost messages were sent. */
  sent: Span;
  /** When they were deleted, at the earliest and at the latest. */
  deleted: Span;
  /** Days after which each message goes by itself; null where they do not, or it is not known. */
  keep: number | null;
}

export function timesOf({ now: written, lost, deleted, noticed, keepDays }: Intake): Times {
  const now = spanOf(written).to;
  const sent = {
    from: lost.sentFrom === null ? -Infinity : spanOf(lost.sentFrom).from,
    to: lost.sentTo === null ? Infinity : spanOf(lost.sentTo).to
  };
  const keep =
    deleted.how === 'aged-out' && keepDays !== null && keepDays > 0 ? keepDays * DAY : null;
  // What is gone was gone when that was noticed, and was sent before.
  const latest = noticed === null ? now : Math.min(now, spanOf(noticed).to);
  const told = {
    from: deleted.from === null ? sent.from : spanOf(deleted.from).from,
    to: deleted.to === null ? latest : Math.min(latest, spanOf(deleted.to).to)
  };
  const aged =
    keep === null ? told : { from: sent.from + keep, to: Math.min(latest, sent.to + keep) };
  return { now, sent, deleted: aged, keep };
}

/** How a state of the messages at a moment stands to what was lost. */
export type Standing = 'whole' | 'part' | 'unknown' | 'too-early' | 'too-late';

/** What a copy of this moment holds of the lost messages as live ones. */
export function standingOf(at: Span, { sent, deleted, keep }: Times): Standing {
  if (at.to < sent.from) return 'too-early';
  if (keep !== null) return agedStanding(at, sent, keep);
  if (at.from >= deleted.to) return 'too-late';
  const isBefore = at.to < deleted.from;
  if (at.from >= sent.to) return isBefore ? 'whole' : 'unknown';
  if (sent.to === Infinity) return 'unknown';
  return 'part';
}

/** Messages that go by themselves are there for so long after each was sent. */
function agedStanding(at: Span, sent: Span, keep: number): Standing {
  if (sent.to === Infinity || sent.from === -Infinity) return 'unknown';
  if (at.from >= sent.to + keep) return 'too-late';
  return at.from >= sent.to && at.to < sent.from + keep ? 'whole' : 'part';
}

/** The moment of a copy; now for what has no moment of its own, null where it is not known. */
export function momentOf({ at, kind }: Copy, now: number): Span | null {
  if (at !== null) return spanOf(at);
  return kind === 'holding-area' || kind === 'handset' || kind === 'cloud-sync'
    ? { from: now, to: now }
    : null;
}

/** The time in which the app's own holding area drops what was deleted. */
export function purgeOf({ deleted }: Times, holdingDays: number): Span {
  return { from: deleted.from + holdingDays * DAY, to: deleted.to + holdingDays * DAY };
}

export function isoOf(at: number): string | null {
  return Number.isFinite(at) ? new Date(at).toISOString() : null;
}
