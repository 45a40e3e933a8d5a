import { foldText, type RowList, type Stands } from '$core/lines';
import { STATES } from '$core/records';
import type { CaseIndex } from './case-index';
import type { Conversation } from '../storage/schema';
import type { Naming } from './naming';
import type { ReadFilter } from './protocol';
import type { Hits } from './text-search';

/** Tells whether a row of a store passes a filter. */
type Passes = (row: number) => boolean;

/** Which lines a filter lets pass. A name that matches lets all lines of its conversation pass. */
export class Passing {
  private readonly states: Uint8Array;
  private readonly query: string;

  constructor(
    private readonly index: CaseIndex,
    private readonly naming: Naming,
    private readonly filter: ReadFilter,
    /** Null where no text is looked for. */
    private readonly hits: Hits | null
  ) {
    this.query = foldText(filter.query.trim());
    this.states = Uint8Array.from(STATES, (state) => (filter.states.includes(state) ? 1 : 0));
  }

  /** Whether it is told by summaries alone which lines pass: all of some states. */
  passesByState(row: Conversation): boolean {
    const { from, to } = this.filter;
    return from === null && to === null && (this.query === '' || this.nameMatches(row));
  }

  passesState(state: number): boolean {
    return this.states[state] === 1;
  }

  /** The rows of a list that pass. */
  of(row: Conversation, list: RowList): RowList {
    const tests = this.index.stores.map((_, place) => this.test(place, row));
    const kept = new Uint32Array(list.row.length);
    let count = 0;
    for (let at = 0; at < list.row.length; at++)
      if (tests[list.store[at]!]!(list.row[at]!)) kept[count++] = at;
    if (count === list.row.length) return list;
    const some = kept.subarray(0, count);
    return { store: some.map((at) => list.store[at]!), row: some.map((at) => list.row[at]!) };
  }

  /** Calls for each row of a conversation that passes, in no order; their columns have to be there. */
  each(row: Conversation, take: (store: number, row: number) => void): void {
    const stands: Stands = this.index.standsOf(row);
    for (const { place, range } of this.index.partsOf(row)) {
      const passes = this.test(place, row);
      for (let at = range.start; at < range.start + range.count; at++)
        if (passes(at) && !stands.isCopy(place, at)) take(place, at);
    }
  }

  /** Whether any row of a conversation can pass, as far as hits tell. */
  private test(place: number, row: Conversation): Passes {
    const store = this.index.stores[place]!;
    const { state, sentAt } = store.columns;
    const { states } = this;
    const marks = this.query === '' || this.nameMatches(row) ? null : this.hits?.of(store.id);
    const from = this.filter.from ?? -Infinity;
    const to = this.filter.to ?? Infinity;
    const isOpen = this.filter.from === null && this.filter.to === null;
    return (at) => {
      if (states[state[at]!] === 0 || (marks && marks[at] === 0)) return false;
      return isOpen || (sentAt[at]! >= from && sentAt[at]! <= to);
    };
  }

  private nameMatches(row: Conversation): boolean {
    const { query, naming } = this;
    const names = [naming.correspondent(row), ...row.participants.map((p) => naming.person(p))];
    if (names.some((name) => foldText(name).includes(query))) return true;
    const plain = query.replace(/[^\d]/g, '').replace(/^0+/, '');
    const isNumber = /^[\d\s+()/.-]+$/.test(query) && plain.length > 2;
    return row.participants.some((person) => {
      const address = naming.address(person);
      return foldText(address).includes(query) || (isNumber && address.includes(plain));
    });
  }
}
