import { LOST_MARK } from '../../records';
import type { Tpdu } from './tpdu';

/** Where a record of the card lies. */
export interface CardPlace {
  path: string;
  offset: number;
  length: number;
}

export interface CardRecord {
  tpdu: Tpdu;
  /** The record is marked free: it was deleted. */
  deleted: boolean;
  place: CardPlace;
}

/** A whole message of the card, of one record or of several parts. */
export interface CardMessage {
  direction: 'incoming' | 'outgoing';
  address: string;
  sentAt: number | null;
  text: string;
  deleted: boolean;
  report: boolean;
  /** Numbers of the parts that are not on the card. */
  missing: number[];
  parts: number;
  unsure: boolean;
  places: CardPlace[];
}

/** Parts of one message arrive close to each other; the same reference later means another message. */
const APART = 3 * 86_400_000;

/**
 * Joins parts by reference, address, direction and status, in any order.
 * A part that is there twice with another text begins another message.
 */
export function joinParts(records: CardRecord[]): CardMessage[] {
  const groups: CardRecord[][] = [];
  const open = new Map<string, CardRecord[][]>();
  for (const record of records) {
    const key = groupKey(record);
    if (key === null) {
      groups.push([record]);
      continue;
    }
    const candidates = open.get(key) ?? [];
    const group = candidates.find((known) => takes(known, record));
    if (group) group.push(record);
    else {
      const fresh = [record];
      groups.push(fresh);
      open.set(key, [...candidates, fresh]);
    }
  }
  return groups.map(joined);
}

function groupKey({ tpdu, deleted }: CardRecord): string | null {
  const { part, address, direction } = tpdu;
  if (!part) return null;
  return [part.reference, part.wide, part.total, address, direction, deleted].join('/');
}

function takes(group: CardRecord[], record: CardRecord): boolean {
  const { part, sentAt, text } = record.tpdu;
  return group.every(({ tpdu }) => {
    if (tpdu.part!.number === part!.number) return tpdu.text === text;
    return sentAt === null || tpdu.sentAt === null || Math.abs(sentAt - tpdu.sentAt) < APART;
  });
}

function joined(group: CardRecord[]): CardMessage {
  const first = group[0]!;
  const { direction, address, report, part } = first.tpdu;
  const total = part?.total ?? 1;
  const texts: string[] = [];
  const missing: number[] = [];
  for (let number = 1; number <= total; number++) {
    const found = group.find(({ tpdu }) => (tpdu.part?.number ?? 1) === number);
    if (found) texts.push(found.tpdu.text);
    else {
      missing.push(number);
      texts.push(LOST_MARK);
    }
  }
  const times = group.flatMap(({ tpdu }) => tpdu.sentAt ?? []);
  return {
    direction,
    address,
    report,
    sentAt: times.length > 0 ? Math.min(...times) : null,
    text: texts.join(''),
    deleted: first.deleted,
    missing,
    parts: total,
    unsure: group.some(({ tpdu }) => tpdu.unsure),
    places: group.map(({ place }) => place)
  };
}
