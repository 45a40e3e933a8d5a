import type { CaseIndex, Conversation, Naming } from '$core/case';
import { foldText, type RowList } from '$core/case/lines';
import { STATES } from '$core/records';
import type { ReadFilter } from '../api/protocol';
import type { RowMask } from './row-mask';
import type { Hits } from './text-search';

/** Which lines a filter lets pass. A name that matches lets all lines of its conversation pass. */
export class Passing {
  private readonly states: Uint8Array;
  private readonly query: string;
  private readonly from: number;
  private readonly to: number;
  private readonly named = new Map<Conversation, boolean>();

  constructor(
    private readonly index: CaseIndex,
    private readonly naming: Naming,
    filter: ReadFilter,
    /** Null where no text is looked for. */
    private readonly hits: Hits | null,
    private readonly mask: RowMask | null = null,
    /** Rows whose notes hold the text. */
    private readonly noted: readonly Uint8Array[] = []
  ) {
    this.query = foldText(filter.query.trim());
    this.states = Uint8Array.from(STATES, (state) => (filter.states.includes(state) ? 1 : 0));
    this.from = filter.from ?? -Infinity;
    this.to = filter.to ?? Infinity;
  }

  private get isOpen(): boolean {
    return this.from === -Infinity && this.to === Infinity;
  }

  /** Whether it is told by a summary alone which lines pass: all of some states. */
  passesByState(row: Conversation): boolean {
    return this.isOpen && this.mask === null && this.isNamed(row);
  }

  passesState(state: number): boolean {
    return this.states[state] === 1;
  }

  /** Whether texts do not matter for a conversation, because nothing is looked for or its name matches. */
  private isNamed(row: Conversation): boolean {
    if (this.query === '') return true;
    let known = this.named.get(row);
    if (known === undefined) this.named.set(row, (known = this.nameMatches(row)));
    return known;
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

  private test(place: number, row: Conversation): (row: number) => boolean {
    const marks = this.isNamed(row) ? null : (this.hits?.marks(place) ?? null);
    const noted = this.noted[place];
    const mask = this.mask?.[place] ?? null;
    const { state, sentAt } = this.index.stores[place]!.columns;
    return (at) =>
      (marks === null || marks[at] === 1 || noted?.[at] === 1) &&
      (mask === null || mask[at] === 1) &&
      this.passes(state[at]!, sentAt[at]!);
  }

  private passes(state: number, sentAt: number): boolean {
    return this.states[state] === 1 && (this.isOpen || (sentAt >= this.from && sentAt <= this.to));
  }

  /**
   * Calls for each row that passes and is shown, in conversations that are not
   * told by their summaries; the columns of all stores have to be there.
   */
  each(take: (conversation: number, store: number, row: number) => void): void {
    const { conversations, stores } = this.index;
    const isNamed = conversations.map((row) => this.isNamed(row));
    const isTold = conversations.map((row) => this.passesByState(row));
    const stands = conversations.map((row) =>
      row.copies.row.length > 0 ? this.index.standsOf(row) : null
    );
    for (let place = 0; place < stores.length; place++) {
      const { context, sentAt, state } = stores[place]!.columns;
      const inContext = this.index.conversationsIn(place);
      const mask = this.mask?.[place] ?? null;
      const give = (row: number): void => {
        if (mask !== null && mask[row] !== 1) return;
        const conversation = inContext[context[row]!]!;
        if (conversation < 0 || isTold[conversation]) return;
        if (!this.passes(state[row]!, sentAt[row]!) || stands[conversation]?.isCopy(place, row))
          return;
        take(conversation, place, row);
      };
      if (this.query === '') for (let row = 0; row < state.length; row++) give(row);
      else this.eachHit(place, isNamed, give);
    }
  }

  /** Rows of a store that are hits, and all of conversations whose names match. */
  private eachHit(place: number, isNamed: readonly boolean[], give: (row: number) => void): void {
    const { context } = this.index.stores[place]!.columns;
    const inContext = this.index.conversationsIn(place);
    for (const rows of this.hits?.rows(place) ?? [])
      for (const row of rows) if (!isNamed[inContext[context[row]!]!]) give(row);
    const noted = this.noted[place];
    const marks = noted && this.hits?.marks(place);
    noted?.forEach((isNoted, row) => {
      if (isNoted === 1 && marks?.[row] !== 1 && !isNamed[inContext[context[row]!]!]) give(row);
    });
    this.index.conversations.forEach((conversation, i) => {
      if (!isNamed[i]) return;
      for (const { place: own, range } of this.index.partsOf(conversation))
        if (own === place)
          for (let row = range.start; row < range.start + range.count; row++) give(row);
    });
  }

  private nameMatches(row: Conversation): boolean {
    const { query, naming } = this;
    if (foldText(naming.correspondent(row)).includes(query)) return true;
    const plain = query.replace(/[^\d]/g, '').replace(/^0+/, '');
    const isNumber = /^[\d\s+()/.-]+$/.test(query) && plain.length > 2;
    return row.participants.some((person) =>
      [...naming.known(person)].some(
        (known) =>
          foldText(known).includes(query) ||
          (isNumber && known.replace(/[\s()/.-]/g, '').includes(plain))
      )
    );
  }
}
