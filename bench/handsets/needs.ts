import type { CopyDepth } from '../../core/acquire';
import type { NeedView } from '../devices';
import type { HandsetModel } from './models';
import { MOST_WRONG, type HandsetState } from './state';

/** Percent that a copy needs at its beginning. */
const ENOUGH = 20;

/** What must hold before a copy of a depth, in the order in which it is mended. */
export function needsOf(model: HandsetModel, state: HandsetState, depth: CopyDepth): NeedView[] {
  const isDeep = depth !== 'logical';
  const wantsDeveloper = isDeep || model.family === 'telephony';
  return [
    cable(state),
    battery(state),
    unlocked(model, state),
    wantsDeveloper ? developer(state) : notNeeded('developer', 'Developer connection'),
    question(state, 'let-in'),
    isDeep
      ? question(state, 'authorise')
      : notNeeded('authorised', 'Developer connection authorised'),
    isDeep ? elevated(state, depth) : notNeeded('elevated', 'Elevated access')
  ];
}

function notNeeded(id: string, title: string): NeedView {
  return { id, title, state: 'not-needed', told: 'only for the deeper copies', mend: null };
}

function need(
  id: string,
  title: string,
  holds: boolean,
  told: string,
  mend: NeedView['mend']
): NeedView {
  return { id, title, state: holds ? 'holds' : 'missing', told, mend: holds ? null : mend };
}

function cable({ plugged, cable: kind }: HandsetState): NeedView {
  const title = 'Data cable';
  if (!plugged)
    return need('data-cable', title, false, 'not plugged in', { act: 'plug', label: 'Plug it in' });
  if (kind === 'data') return need('data-cable', title, true, 'plugged in, with data', null);
  const told = 'this cable only charges: the phone is not seen';
  return need('data-cable', title, false, told, {
    act: 'change-cable',
    label: 'Take another cable'
  });
}

function battery({ battery: level }: HandsetState): NeedView {
  const mend = { act: 'charge', label: 'Let it charge' };
  const told =
    level > ENOUGH ? `${level} %, charging` : `${level} %: it could run out in the middle`;
  return need('battery', 'Battery above a fifth', level > ENOUGH, told, mend);
}

function unlocked({ passcode }: HandsetModel, { unlocked: isOpen, wrong }: HandsetState): NeedView {
  const mend = {
    act: 'unlock',
    label: passcode === null ? 'Wake it' : 'Unlock it with the passcode'
  };
  if (wrong >= MOST_WRONG)
    return need(
      'unlocked',
      'Unlocked',
      false,
      'accepts no more passcodes after five wrong ones',
      null
    );
  const tries = wrong > 0 ? `, ${MOST_WRONG - wrong} tries left` : '';
  const told = isOpen ? 'stays awake while it is copied' : `locked${tries}`;
  return need('unlocked', 'Unlocked', isOpen, told, mend);
}

function developer({ developer: isOn }: HandsetState): NeedView {
  const mend = { act: 'developer', label: 'The client switches it on' };
  const told = isOn ? 'switched on in its settings' : 'switched off in its settings';
  return need('developer', 'Developer connection', isOn, told, mend);
}

const QUESTIONS = {
  'let-in': { id: 'let-in', title: 'This computer is allowed', ask: 'Ask the phone' },
  authorise: {
    id: 'authorised',
    title: 'Developer connection authorised',
    ask: 'Ask the phone'
  }
} as const;

const ANSWERS: Record<HandsetState['letIn'], string> = {
  no: 'not asked yet',
  yes: 'allowed on the phone',
  refused: 'refused on the phone',
  unanswered: 'nobody answered; it is asked again by itself'
};

function question(state: HandsetState, what: 'let-in' | 'authorise'): NeedView {
  const { id, title, ask } = QUESTIONS[what];
  const answer = what === 'let-in' ? state.letIn : state.authorised;
  if (state.asked?.what === what)
    return {
      id,
      title,
      state: 'asked',
      told: 'the phone asks; it waits for an answer',
      mend: null
    };
  const mend = { act: `ask-${what}`, label: ask };
  if (answer === 'unanswered')
    return { id, title, state: 'unanswered', told: ANSWERS[answer], mend };
  return need(id, title, answer === 'yes', ANSWERS[answer], mend);
}

function elevated({ elevated: isOn }: HandsetState, depth: CopyDepth): NeedView {
  const helper = depth === 'physical' ? 'a loader runs from memory' : 'a helper app is installed';
  const told = isOn ? `${helper} and removed again afterwards` : `not yet; ${helper} for it`;
  return need('elevated', 'Elevated access', isOn, told, { act: 'elevate', label: 'Give it' });
}
