/** The parts of stores that conversations lie in. */
import type { Strand, ThreadRange } from './lines';
import type { Individual } from './people';
import type { CaseStore } from './model';

/** Where a range of a store's rows belongs. */
export interface StorePart {
  /** Place of the store among the case's. */
  place: number;
  range: ThreadRange;
}

/** The part of each thread, by its id. */
export function partsByThread(stores: readonly CaseStore[]): Map<string, StorePart> {
  const parts = new Map<string, StorePart>();
  stores.forEach(({ record }, place) => {
    for (const range of record.ranges) parts.set(range.id, { place, range });
  });
  return parts;
}

export function strandsOf(parts: readonly StorePart[], stores: readonly CaseStore[]): Strand[] {
  return parts.map(({ place, range }) => ({
    store: place,
    columns: stores[place]!.columns,
    range
  }));
}

/** Persons of more than one address, by each of them. */
export function byMember(individuals: readonly Individual[]): Map<string, Individual> {
  return new Map(individuals.flatMap((one) => one.members.map((id) => [id, one] as const)));
}
