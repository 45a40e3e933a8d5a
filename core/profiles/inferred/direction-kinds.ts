import type { Direction } from '../../records';
import type { Parties } from './context';
import type { WorkedDirection } from './direction';
import { weighGroups, weighWriters } from './evidence';
import type { Field } from './fields';

/** Different values that one column of kinds or states has at most. */
const MOST_KINDS = 10;
/** Share of the rows that each side has at least. */
const LEAST_SIDE = 0.15;
/** What the writers of both sides must show: names of such columns say nothing. */
const SHOWN = 5;

/**
 * A column of several kinds or states of which one stands for a side and all
 * others for the other, as where one state is "received" and the rest are the
 * steps of sending. Only who wrote the rows of each side decides it.
 */
export function byKinds(fields: readonly Field[], parties: Parties): WorkedDirection | null {
  for (const field of fields) {
    const { distinct, filled, rows, blobs, clock } = field.facts;
    if (field.hops > 0 || field.isInside || blobs > 0 || clock) continue;
    if (distinct < 3 || distinct > MOST_KINDS || filled < rows * 0.95) continue;
    if (Object.values(parties).includes(field)) continue;
    for (const [value, count] of field.facts.frequent) {
      if (count < rows * LEAST_SIDE || count > rows * (1 - LEAST_SIDE)) continue;
      const found = sidesBy(field, value, parties);
      if (found) return found;
    }
  }
  return null;
}

function sidesBy(
  field: Field,
  value: string,
  { sender, peer, room }: Parties & { peer?: Field | null }
): WorkedDirection | null {
  const [alone, rest]: [number[], number[]] = [[], []];
  field.values.forEach((stored, i) => (String(stored) === value ? alone : rest).push(i));
  const writer = sender ?? peer ?? null;
  if (!writer) return null;
  const found = [
    weighWriters(alone, rest, writer, room),
    ...(room ? [weighGroups(alone, rest, [writer], room)] : [])
  ];
  const score = found.reduce((sum, part) => sum + part.score, 0);
  if (Math.abs(score) < SHOWN) return null;
  const [own, other]: [Direction, Direction] =
    score > 0 ? ['outgoing', 'incoming'] : ['incoming', 'outgoing'];
  const values = Object.fromEntries(
    [...field.facts.frequent.keys()].map((stored) => [stored, stored === value ? own : other])
  );
  const reasons = found.flatMap((part) => part.reasons);
  return {
    field: { value: field.expression, values, otherwise: 'unknown' },
    weight: 10,
    reason: `column ${field.name} is ${value} on one side: ${reasons.join('; ')}`,
    own: new Set()
  };
}
