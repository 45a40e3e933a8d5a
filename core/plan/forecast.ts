import type { Copy, CopyKind, Intake, Span } from './intake';
import { momentOf, purgeOf, standingOf, type Standing, type Times } from './times';

export type Verdict = 'contains' | 'may-contain' | 'too-early' | 'too-late' | 'cannot';

/** What a copy can hold of what was lost, and why. */
export interface Forecast {
  verdict: Verdict;
  reasons: string[];
  /** Last moment, in milliseconds since 1970, at which it still does; null where it does not run out. */
  until: number | null;
}

/** Copies that hold what an app keeps on the phone. */
const OF_PHONE: readonly CopyKind[] = [
  'holding-area',
  'computer-backup',
  'cloud-backup',
  'app-backup',
  'handset',
  'old-handset',
  'disk',
  'card'
];

export function forecast(copy: Copy, intake: Intake, times: Times): Forecast {
  const never = impossible(copy, intake);
  if (never !== null) return { verdict: 'cannot', reasons: [never], until: null };
  const found = byKind(copy, intake, times);
  const partial = missingKinds(copy, intake);
  if (partial.length === 0 || found.verdict !== 'contains') return found;
  return {
    ...found,
    verdict: 'may-contain',
    reasons: [...found.reasons, `It does not hold ${partial.join(' and ')}.`]
  };
}

/** Why a copy cannot help whatever its moment; null where it can. */
function impossible(copy: Copy, { lost, deleted }: Intake): string | null {
  const { kind, covers, encrypted, keyKnown, deepest } = copy;
  if (covers !== null && lost.kinds.length > 0 && !lost.kinds.some((one) => covers.includes(one)))
    return 'It holds nothing of the kind that was lost.';
  if (lost.cloudOnlyApp === true && OF_PHONE.includes(kind))
    return 'The app keeps its messages in its own cloud only: none of them is here.';
  if (encrypted === true && keyKnown === false) return 'It is encrypted, and its key is not known.';
  if (deleted.how === 'lost-phone' && (kind === 'handset' || kind === 'holding-area'))
    return 'It went with the phone.';
  if (deleted.how === 'reset' && kind === 'holding-area') return 'The reset emptied it.';
  if (deleted.how === 'reset' && kind === 'handset') {
    if (encrypted === true) return 'The reset threw away the key of its storage.';
    if (deepest !== 'physical')
      return 'After a reset only the raw storage can still hold anything.';
  }
  if (
    kind === 'card' &&
    lost.app !== null &&
    !/^(phone messages|sms|text messages?)$/i.test(lost.app)
  )
    return 'A card holds the phone’s own text messages only.';
  return null;
}

function missingKinds({ covers }: Copy, { lost }: Intake): string[] {
  return covers === null ? [] : lost.kinds.filter((kind) => !covers.includes(kind));
}

function byKind(copy: Copy, intake: Intake, times: Times): Forecast {
  switch (copy.kind) {
    case 'holding-area':
      return inHolding(copy, intake, times);
    case 'cloud-sync':
      return inSync(copy, intake, times);
    case 'handset':
      return onHandset(copy, intake, times);
    case 'other-party':
      return ofOther(copy, times);
    case 'card':
      return onCard(copy, times);
    case 'old-handset':
    case 'computer-app':
    case 'disk':
      return inUse(copy, times);
    case 'computer-backup':
    case 'cloud-backup':
    case 'app-backup':
    case 'app-export':
    case 'screen-captures':
      return asSnapshot(copy, times);
  }
}

const STANDINGS: Record<Standing, [Verdict, string]> = {
  whole: ['contains', 'It was made after the last of them was sent and before they were deleted.'],
  part: [
    'may-contain',
    'It was made while they were still being sent, or being deleted: it can hold a part.'
  ],
  unknown: ['may-contain', 'Too little is known about when they were sent and deleted to be sure.'],
  'too-early': ['too-early', 'It was made before the first of them was sent.'],
  'too-late': ['too-late', 'It was made after they had been deleted.']
};

function told(standing: Standing, until: number | null = null): Forecast {
  const [verdict, reason] = STANDINGS[standing];
  return { verdict, reasons: [reason], until };
}

function asSnapshot(copy: Copy, times: Times): Forecast {
  const at = momentOf(copy, times.now);
  if (at === null)
    return { verdict: 'may-contain', reasons: ['It is not known when it was made.'], until: null };
  const found = told(standingOf(at, times));
  if (found.verdict !== 'too-late' || copy.deepest === null || copy.deepest === 'logical')
    return found;
  const rest = 'Its databases may still hold parts of what was deleted, in their freed space.';
  return { ...found, reasons: [...found.reasons, rest] };
}

/** The app's own holding area: for so many days after the deletion. */
function inHolding(copy: Copy, { holdingDays }: Intake, times: Times): Forecast {
  if (holdingDays === 0)
    return { verdict: 'cannot', reasons: ['The app keeps nothing that was deleted.'], until: null };
  const at = momentOf(copy, times.now)!;
  if (at.to < times.deleted.from) return told('too-early');
  if (holdingDays === null)
    return {
      verdict: 'may-contain',
      reasons: [
        'It is not known for how long the app keeps what was deleted; often it is a month.'
      ],
      until: null
    };
  const purge = purgeOf(times, holdingDays);
  if (at.from >= purge.to)
    return {
      verdict: 'too-late',
      reasons: [`Deleted messages are dropped after ${holdingDays} days, and those days are over.`],
      until: null
    };
  const isWhole = at.to < purge.from && at.from >= times.deleted.to;
  return {
    verdict: isWhole ? 'contains' : 'may-contain',
    reasons: [
      isWhole
        ? `Deleted messages stay here for ${holdingDays} days, which are not over yet.`
        : `Deleted messages stay here for ${holdingDays} days, which may be over for some of them.`
    ],
    until: purge.from > times.now ? purge.from : purge.to
  };
}

/** What is kept in step carries deletions on. */
function inSync(copy: Copy, { syncOn }: Intake, times: Times): Forecast {
  if (copy.at !== null) return asSnapshot(copy, times);
  const isGone = times.now >= times.deleted.to;
  if (syncOn === true && isGone)
    return {
      verdict: 'too-late',
      reasons: ['The deletion was carried over with the next sync.'],
      until: null
    };
  const reason =
    syncOn === false
      ? 'The sync is off: the deletion may not have been carried over.'
      : 'It is not known whether the deletion was carried over.';
  return { verdict: 'may-contain', reasons: [reason], until: null };
}

function onHandset(copy: Copy, { phoneUsedSince, deleted }: Intake, times: Times): Forecast {
  const at: Span = momentOf(copy, times.now)!;
  const standing = standingOf(at, times);
  if (standing !== 'too-late') return told(standing);
  if (deleted.how === 'reset')
    return {
      verdict: 'may-contain',
      reasons: ['The raw storage may still hold parts of what the reset dropped.'],
      until: null
    };
  if (copy.deepest === 'logical')
    return {
      verdict: 'too-late',
      reasons: ['They are deleted, and a logical copy holds only what the phone hands out.'],
      until: null
    };
  const used =
    phoneUsedSince === false
      ? 'The phone has not been used since: its freed space is probably untouched.'
      : 'Every use of the phone writes over freed space.';
  const depth =
    copy.deepest === null
      ? 'They are deleted; a copy of the file system or deeper may still find them in freed space.'
      : 'They are deleted, and may still lie in the freed space of the databases.';
  return { verdict: 'may-contain', reasons: [depth, used], until: null };
}

/** Things that go on being used: before the deletion they are copies, after it their freed space may help. */
function inUse(copy: Copy, times: Times): Forecast {
  const found = asSnapshot({ ...copy, deepest: null }, times);
  if (found.verdict !== 'too-late' || copy.deepest === 'logical') return found;
  return {
    verdict: 'may-contain',
    reasons: ['It was used after the deletion; freed space may still hold what was deleted.'],
    until: null
  };
}

/** A deletion on one phone is none on the other. */
function ofOther(copy: Copy, times: Times): Forecast {
  const at = momentOf(copy, times.now);
  if (at !== null && at.to < times.sent.from) return told('too-early');
  return {
    verdict: 'may-contain',
    reasons: ['The other side has its own copy of each message, unless it was deleted there too.'],
    until: null
  };
}

function onCard(copy: Copy, times: Times): Forecast {
  const at = momentOf(copy, times.now);
  if (at !== null && at.to < times.sent.from) return told('too-early');
  return {
    verdict: 'may-contain',
    reasons: [
      'A card keeps the records of deleted texts until others are written over them; it holds few.'
    ],
    until: null
  };
}
