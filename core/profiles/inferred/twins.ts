import type { Direction } from '../../records';
import type { DirectionField, MessageMapping } from '../profile';
import { plainName } from './context';
import type { SampledTable } from './sample';
import type { Ranked } from './types';

const INBOX = /(^|_)(inbox|incoming|received|recv|rcvd|inbound|in)(_|$)|msg_?in$|^in_?msg/;
const OUTBOX = /(^|_)(outbox|outgoing|sent|send|outbound|out)(_|$)|msg_?out$|^out_?msg/;

/** Columns that two tables must share to be two boxes of one store. */
const LEAST_SHARED = 0.7;

/**
 * Where what was sent and what came in lie in tables of their own, alike but
 * for their names, the names say who wrote.
 */
export function withTwin(
  first: Ranked,
  others: readonly Ranked[],
  tables: ReadonlyMap<string, SampledTable>
): Ranked {
  const table = tableOf(first, tables);
  const twin = others.find((other) => isTwin(table, tableOf(other, tables)));
  if (!twin) return first;
  const sides = sidesOf(table.name, tableOf(twin, tables).name);
  if (!sides) return first;
  const [own, other] = [boxed(first, sides[0]), boxed(twin, sides[1])];
  const reason = `tables ${table.name} and ${tableOf(twin, tables).name} are alike: one holds what was sent, the other what came in`;
  const undecided = 'value' in mappingOf(first).direction && first.fit <= BEFORE_TWIN;
  return {
    ...first,
    fit: Math.min(100, first.fit + (undecided ? TWIN_WEIGHT : 0)),
    question: null,
    reasons: [
      ...first.reasons.filter((text) => !text.startsWith('nothing shows who wrote')),
      reason
    ],
    profile: {
      ...first.profile,
      messages: [own, other],
      names: [...(first.profile.names ?? []), ...(twin.profile.names ?? [])]
    }
  };
}

/** What the names add where nothing else told the direction. */
const TWIN_WEIGHT = 12;
const BEFORE_TWIN = 80;

function mappingOf({ profile }: Ranked): MessageMapping {
  return profile.messages[0]!;
}

function tableOf(worked: Ranked, tables: ReadonlyMap<string, SampledTable>): SampledTable {
  return tables.get(mappingOf(worked).table)!;
}

function isTwin(a: SampledTable, b: SampledTable): boolean {
  const names = new Set(a.columns.map(({ name }) => name.toLowerCase()));
  const shared = b.columns.filter(({ name }) => names.has(name.toLowerCase())).length;
  return shared >= LEAST_SHARED * Math.max(a.columns.length, b.columns.length);
}

function sidesOf(a: string, b: string): [Direction, Direction] | null {
  const [first, second] = [plainName(a), plainName(b)];
  if (OUTBOX.test(first) && INBOX.test(second)) return ['outgoing', 'incoming'];
  if (INBOX.test(first) && OUTBOX.test(second)) return ['incoming', 'outgoing'];
  // One table says it by its name, the other is simply called messages.
  if (OUTBOX.test(first) !== OUTBOX.test(second))
    return OUTBOX.test(first) ? ['outgoing', 'incoming'] : ['incoming', 'outgoing'];
  if (INBOX.test(first) !== INBOX.test(second))
    return INBOX.test(first) ? ['incoming', 'outgoing'] : ['outgoing', 'incoming'];
  return null;
}

function boxed(worked: Ranked, side: Direction): MessageMapping {
  const direction: DirectionField = {
    value: { constant: 'box' },
    values: { box: side },
    otherwise: side
  };
  return { ...mappingOf(worked), direction };
}
