import type { CopyFault } from '../../core/acquire';
import type { HandsetModel } from './models';

/** What a handset asks on its screen. */
export interface Asked {
  what: 'let-in' | 'authorise';
  /** Milliseconds since 1970. */
  at: number;
}

/** How a handset stands. */
export interface HandsetState {
  plugged: boolean;
  cable: 'data' | 'charging-only';
  battery: number;
  unlocked: boolean;
  developer: boolean;
  letIn: 'no' | 'yes' | 'refused' | 'unanswered';
  authorised: 'no' | 'yes' | 'refused' | 'unanswered';
  /** A helper that reads what apps keep was put on. */
  elevated: boolean;
  asked: Asked | null;
  /** Passcodes that were wrong in a row. */
  wrong: number;
  armed: CopyFault | null;
  done: { at: string; text: string }[];
  /** SHA-256 of the store that messages were put back into; null for the first one. */
  store: string | null;
  putBack: number;
}

export function firstState({ first }: HandsetModel): HandsetState {
  return {
    ...first,
    letIn: 'no',
    authorised: 'no',
    elevated: false,
    asked: null,
    wrong: 0,
    armed: null,
    done: [],
    store: null,
    putBack: 0
  };
}

/** Wrong passcodes after which the handset takes no more. */
export const MOST_WRONG = 5;

/** Milliseconds after which a question that nobody answers goes away. */
export const LAPSES = 30_000;

/** A question that nobody answered in time is withdrawn. */
export function withoutLapsed(state: HandsetState, now: number): HandsetState {
  const { asked } = state;
  if (!asked || now - asked.at < LAPSES) return state;
  const part = asked.what === 'let-in' ? { letIn: 'unanswered' } : { authorised: 'unanswered' };
  return { ...state, ...part, asked: null } as HandsetState;
}
