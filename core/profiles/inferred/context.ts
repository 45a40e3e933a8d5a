import type { Link } from './links';
import type { Field, RowFields } from './fields';
import type { SampledTable } from './sample';

/** What the parts of a mapping are, as far as they are known. */
export interface Parties {
  sender: Field | null;
  recipient: Field | null;
  room: Field | null;
}

/** Who takes part, as columns; `peer` names the other party whoever wrote. */
export interface FoundParties extends Parties {
  peer: Field | null;
  /** Of sender and recipient it is not known which is which. */
  isPairOpen?: boolean;
  /** Nothing but the values speaks for them. */
  isGuessed?: boolean;
}

/** What is known while a table is worked out. */
export interface Context {
  root: SampledTable;
  tables: ReadonlyMap<string, SampledTable>;
  links: readonly Link[];
  rows: RowFields;
  fields: readonly Field[];
  /** Where the database lies in its source. */
  path: string;
}

export function nameOf(field: Field): string {
  return `column ${field.name} of ${field.table}`;
}

/** A name in lower case with its words parted by underscores. */
export function plainName(name: string): string {
  return name
    .replace(/^Z(?=[A-Z])/, '')
    .replace(/([a-z\d])([A-Z])/g, '$1_$2')
    .toLowerCase();
}

/** Weighs what speaks for a reading, and says it. */
export class Fit {
  value = 0;
  readonly reasons: string[] = [];

  add(weight: number, reason: string): void {
    this.value += weight;
    this.reasons.push(reason);
  }
}
