import type { CopyKind, Intake } from './intake';
import type { Route } from './route';
import type { Times } from './times';

/** A disaster that is near at hand, told plainly. */
export interface Warning {
  code: string;
  text: string;
}

const SOON = 14 * 86_400_000;

interface Sight {
  intake: Intake;
  routes: readonly Route[];
  times: Times;
  has: (...kinds: CopyKind[]) => boolean;
}

/** Each with when it is due. */
const WARNINGS: (Warning & { isDue: (sight: Sight) => boolean })[] = [
  {
    code: 'stop-using-phone',
    text: 'Do not use the phone until the copy is taken: every use writes over what was deleted. Switch flight mode on, and do not let it sync while it charges.',
    isDue: ({ intake }) => intake.deleted.how !== 'lost-phone' && intake.lost.cloudOnlyApp !== true
  },
  {
    code: 'restore-overwrites',
    text: 'Do not restore the whole phone to read one conversation: everything newer than the backup is overwritten. Read the backup first.',
    isDue: ({ routes }) => routes.some(({ newerLost }) => newerLost !== null)
  },
  {
    code: 'erase-replaces-backup',
    text: 'Do not erase the phone with “back up first” ticked: the new backup takes the place of the one that still holds the messages.',
    isDue: ({ has }) => has('computer-backup', 'cloud-backup')
  },
  {
    code: 'backup-will-be-replaced',
    text: 'A copy that may hold the messages will be replaced soon: copy it, or stop what replaces it, before anything else.',
    isDue: ({ intake, routes, times }) =>
      intake.copies.some(({ id, willBeOverwrittenBy }) => {
        const route = routes.find(({ copy }) => copy === id);
        const isUseful = route?.verdict === 'contains' || route?.verdict === 'may-contain';
        return (
          isUseful && willBeOverwrittenBy !== null && Date.parse(willBeOverwrittenBy) > times.now
        );
      })
  },
  {
    code: 'sync-carries-deletion',
    text: 'The sync is on: it carries the deletion to other devices and can overwrite the last backup. Take them off the network first.',
    isDue: ({ intake, has }) =>
      intake.syncOn === true ||
      (intake.syncOn === null && has('cloud-sync', 'computer-app', 'old-handset'))
  },
  {
    code: 'restore-offer',
    text: 'At its first start the app offers to restore its backup once: do not decline that offer, it is not made twice.',
    isDue: ({ intake, has }) =>
      has('app-backup') && ['reset', 'lost-phone', 'update', 'unknown'].includes(intake.deleted.how)
  },
  {
    code: 'keep-setting',
    text: 'Set the app to keep messages for ever now: more are lost every day.',
    isDue: ({ intake }) =>
      intake.deleted.how === 'aged-out' || (intake.keepDays !== null && intake.keepDays > 0)
  },
  {
    code: 'holding-runs-out',
    text: 'The app drops what was deleted within two weeks: bring it back from its holding area before that.',
    isDue: ({ intake, routes, times }) =>
      routes.some(
        ({ copy, doBefore }) =>
          intake.copies.some(({ id, kind }) => id === copy && kind === 'holding-area') &&
          doBefore !== null &&
          Date.parse(doBefore) - times.now < SOON
      )
  },
  {
    code: 'cloud-only',
    text: 'The app keeps its messages in its own cloud: what remains are its export, pictures of the screen, and the other side.',
    isDue: ({ intake }) => intake.lost.cloudOnlyApp === true
  },
  {
    code: 'no-copy',
    text: 'No copy is known that can hold the messages. Ask for more: an old phone, a computer where the app ran, the other side.',
    isDue: ({ routes }) =>
      !routes.some(({ verdict }) => verdict === 'contains' || verdict === 'may-contain')
  }
];

export function warningsOf(intake: Intake, routes: readonly Route[], times: Times): Warning[] {
  const kinds = new Set(intake.copies.map(({ kind }) => kind));
  const has = (...wanted: CopyKind[]): boolean => wanted.some((kind) => kinds.has(kind));
  const sight = { intake, routes, times, has };
  return WARNINGS.filter(({ isDue }) => isDue(sight)).map(({ code, text }) => ({ code, text }));
}
