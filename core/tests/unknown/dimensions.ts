/** Where the text of a message lies. */
const TEXTS = [
  'text',
  'blob utf-8',
  'blob utf-16',
  'field in json',
  'record in json',
  'markup',
  'packed blob',
  'own table',
  'parts'
] as const;

/** Where and how the time is kept. */
const TIMES = [
  'seconds',
  'milliseconds',
  'microseconds',
  'nanoseconds',
  'seconds 2001',
  'nanoseconds 2001',
  'microseconds 1601',
  'ticks',
  'iso T Z',
  'iso blank',
  'iso fraction',
  'iso +02:00',
  'iso +0200',
  'iso T',
  'date and time',
  'parent row',
  'in a uuid',
  'in a ulid'
] as const;

/** What tells who wrote. */
const DIRECTIONS = [
  'own flag',
  'other flag',
  'neutral flag',
  'numbers',
  'words',
  'account table',
  'folder',
  'every conversation',
  'two tables',
  'delivery columns'
] as const;

/** What tells conversations apart. */
const CONVERSATIONS = [
  'peer',
  'one join',
  'members',
  'three joins',
  'address pair',
  'rooms with nicknames'
] as const;

/** Rows of the same table that are no messages. */
const OTHERS = ['none', 'status', 'joins', 'calls', 'edits', 'deletions'] as const;

export interface Plan {
  label: string;
  seed: number;
  text: (typeof TEXTS)[number];
  time: (typeof TIMES)[number];
  direction: (typeof DIRECTIONS)[number];
  conversation: (typeof CONVERSATIONS)[number];
  others: (typeof OTHERS)[number];
  style: 'snake' | 'camel' | 'upper' | 'cryptic';
  addresses: 'mail' | 'phone' | 'handle';
}

/** Steps without a common divisor with the lengths, so that kinds meet in ever new company. */
const STEPS = { text: 1, time: 5, direction: 3, conversation: 1, others: 5 };

/** Plans of so many stores; `offset` moves on to others. */
export function plans(count: number, offset: number): Plan[] {
  return Array.from({ length: count }, (_, i) => planOf(i + offset));
}

function planOf(n: number): Plan {
  const take = <T>(list: readonly T[], step: number, shift = 0): T =>
    list[(n * step + shift + Math.floor(n / list.length)) % list.length]!;
  const direction = take(DIRECTIONS, STEPS.direction);
  const wanted = take(CONVERSATIONS, STEPS.conversation, 2);
  const plan = {
    seed: 1000 + n * 7,
    text: take(TEXTS, STEPS.text),
    time: take(TIMES, STEPS.time),
    direction,
    conversation: fitting(wanted, direction),
    others: direction === 'two tables' ? ('none' as const) : take(OTHERS, STEPS.others),
    style: n % 7 === 6 ? ('cryptic' as const) : (['snake', 'camel', 'upper'] as const)[n % 3]!,
    addresses: (['mail', 'phone', 'handle'] as const)[Math.floor(n / 2) % 3]!
  };
  const { text, time, conversation, others, style } = plan;
  return {
    ...plan,
    label: `${n}: ${text}; ${time}; ${direction}; ${conversation}; ${others}; ${style}`
  };
}

/** Some kinds cannot meet: a delivery column needs the other party, a sender that decides needs a name for everybody. */
function fitting(
  conversation: Plan['conversation'],
  direction: Plan['direction']
): Plan['conversation'] {
  if (direction === 'delivery columns' || direction === 'two tables')
    return conversation === 'address pair' || conversation === 'rooms with nicknames'
      ? 'peer'
      : conversation === 'members'
        ? 'one join'
        : conversation;
  return conversation;
}
