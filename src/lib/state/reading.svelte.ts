import { STATES, type RecordState } from '$core/records';
import type { Facet, ReadFilter } from '../worker/protocol';

interface Place {
  correspondent: string | null;
  message: string | null;
  states: RecordState[];
  from: number | null;
  to: number | null;
  margin: boolean;
  facet: Facet;
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
  private caseId = '';

  filter: ReadFilter = $derived({
    query: this.query,
    states: this.states,
    from: this.from,
    to: this.to
  });

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
  }

  save(): void {
    if (this.caseId === '') return;
    const { correspondent, message, states, from, to, margin, facet } = this;
    const place: Place = { correspondent, message, states, from, to, margin, facet };
    localStorage.setItem(`place ${this.caseId}`, JSON.stringify(place));
  }

  toggleState(state: RecordState): void {
    const on = this.states.includes(state);
    this.states = STATES.filter((s) => (s === state ? !on : this.states.includes(s)));
  }

  /** Only what is not live, or everything again. */
  onlyDeleted(): void {
    const rest = STATES.filter((state) => state !== 'live');
    const already = this.states.length === rest.length && !this.states.includes('live');
    this.states = already ? [...STATES] : rest;
  }
}

export const reading = new Reading();
