import { STATES, type RecordState } from '$core/records';
import type { Facet, ReadFilter } from '../service/api/protocol';

export const SORTS = {
  lines: 'most messages first',
  recent: 'latest first',
  recovered: 'most deleted first',
  name: 'by name'
} as const;
export type Sort = keyof typeof SORTS;

export const KINDS = { all: 'everybody', people: 'single people', groups: 'groups' } as const;
export type Kind = keyof typeof KINDS;

export const HITS_AS = {
  context: 'in context',
  alone: 'only the hits',
  list: 'as a list'
} as const;
export type HitsAs = keyof typeof HITS_AS;

type Narrowing = Pick<ReadFilter, 'place' | 'has' | 'label'>;
const WIDE: Narrowing = { place: null, has: null, label: null };

interface Place {
  correspondent: string | null;
  message: string | null;
  states: RecordState[];
  from: number | null;
  to: number | null;
  margin: boolean;
  facet: Facet;
  /** Absent in places that earlier versions kept. */
  narrow?: Narrowing;
  sort?: Sort;
  kind?: Kind;
}

/** Where the reader is and what the view is narrowed to; the place is kept, so that a reload comes back to it. */
class Reading {
  query = $state('');
  states = $state.raw<RecordState[]>([...STATES]);
  from = $state<number | null>(null);
  to = $state<number | null>(null);
  correspondent = $state<string | null>(null);
  /** Message in focus. */
  message = $state<string | null>(null);
  margin = $state(true);
  facet = $state<Facet>('messages');
  narrow = $state.raw<Narrowing>(WIDE);
  sort = $state<Sort>('lines');
  kind = $state<Kind>('all');
  /** Whose details are shown among the people. */
  person = $state<string | null>(null);
  /** Hits of a search stand among the lines around them, alone, or in one as a list. */
  hitsAs = $state<HitsAs>('context');
  private caseId = '';

  filter: ReadFilter = $derived({
    query: this.query,
    states: this.states,
    from: this.from,
    to: this.to,
    ...this.narrow
  });

  /** What the lines of a conversation are narrowed to: with their context, hits are shown among the others. */
  lineFilter: ReadFilter = $derived(
    this.hitsAs === 'alone' ? this.filter : { ...this.filter, query: '' }
  );

  /** Something other than a search narrows the view. */
  isNarrow = $derived(
    this.from !== null ||
      this.to !== null ||
      this.narrow.place !== null ||
      this.narrow.has !== null ||
      this.narrow.label !== null ||
      this.states.length < STATES.length
  );

  /** Shows everything again. */
  widen(): void {
    this.query = '';
    this.states = [...STATES];
    this.from = this.to = null;
    this.narrow = WIDE;
    this.kind = 'all';
  }

  enter(caseId: string): void {
    if (this.caseId === caseId) return;
    this.caseId = caseId;
    const saved = localStorage.getItem(`place ${caseId}`);
    const place = saved ? (JSON.parse(saved) as Place) : null;
    this.query = '';
    this.states = place?.states ?? [...STATES];
    this.from = place?.from ?? null;
    this.to = place?.to ?? null;
    this.correspondent = place?.correspondent ?? null;
    this.message = place?.message ?? null;
    // A narrow page has no room beside the lines: there the margin is asked for.
    this.margin = place?.margin ?? innerWidth > 820;
    this.facet = place?.facet ?? 'messages';
    this.narrow = place?.narrow ?? WIDE;
    this.sort = place?.sort ?? 'lines';
    this.kind = place?.kind ?? 'all';
  }

  save(): void {
    if (this.caseId === '') return;
    const { correspondent, message, states, from, to, margin, facet, narrow, sort, kind } = this;
    const where = { correspondent, message, margin, facet };
    const place: Place = { ...where, states, from, to, narrow, sort, kind };
    localStorage.setItem(`place ${this.caseId}`, JSON.stringify(place));
  }

  toggleState(state: RecordState): void {
    const on = this.states.includes(state);
    this.states = STATES.filter((s) => (s === state ? !on : this.states.includes(s)));
  }

  /** Nothing but one state. */
  onlyState(state: RecordState): void {
    this.states = [state];
  }

  allStates(): void {
    this.states = [...STATES];
  }
}

export const reading = new Reading();
