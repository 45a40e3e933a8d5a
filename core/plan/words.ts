import type { Copy, CopyKind, Intake } from './intake';
import { momentOf, type Times } from './times';

/** Backups that are made to be put back as a whole. */
const RESTORED: Partial<Record<CopyKind, string>> = {
  'computer-backup': 'everything on the phone that is newer than the backup',
  'cloud-backup': 'everything on the phone that is newer than the backup',
  'app-backup': 'all messages of the app that are newer than its backup'
};

/** What a restore of a copy would overwrite; null where nothing newer would be lost. */
export function overwritten(
  copy: Copy,
  { phoneUsedSince, deleted }: Intake,
  times: Times
): string | null {
  const what = RESTORED[copy.kind];
  if (what === undefined) return null;
  const isEmpty = deleted.how === 'reset' || deleted.how === 'lost-phone';
  // A phone that was reset and not used since holds nothing to be lost.
  if (isEmpty && phoneUsedSince === false) return null;
  const at = momentOf(copy, times.now);
  if (at === null) return `${what} (it is not known when that was made)`;
  return at.from >= times.now ? null : `${what} of ${new Date(at.from).toISOString().slice(0, 10)}`;
}

const NEEDS: Record<CopyKind, string[]> = {
  'holding-area': ['the phone, unlocked, and the app’s view of what was deleted'],
  'computer-backup': ['the folder of the backup, copied as it is'],
  'cloud-backup': ['the account’s name and password', 'the second factor', 'room for the download'],
  'cloud-sync': ['the account’s name and password', 'the second factor'],
  'app-backup': ['the backup’s file, copied from where the app keeps it'],
  handset: [
    'the phone, unlocked',
    'consent on the phone to this computer',
    'battery above a fifth',
    'a data cable'
  ],
  'old-handset': ['the old phone, charged, without a network', 'its passcode'],
  card: ['a card reader', 'the card’s PIN where it has one'],
  'computer-app': ['the computer, with the app closed and the network off', 'the app’s folder'],
  disk: ['the disk behind a write blocker, or an image of it'],
  'other-party': ['the other side’s consent', 'their phone, or an export that they make'],
  'app-export': ['the exported file'],
  'screen-captures': ['the pictures as they were taken, not as they were sent on']
};

export function needsOf({ kind, encrypted, keyKnown }: Copy): string[] {
  const key =
    encrypted === false || keyKnown === true
      ? []
      : encrypted === true
        ? [kind === 'handset' ? 'the passcode that opens its storage' : 'its password or key']
        : [];
  return [...NEEDS[kind], ...key];
}

const RISKS: Record<CopyKind, string[]> = {
  'holding-area': ['What is put back in the app changes the phone: copy first.'],
  'computer-backup': [
    'A restore replaces the phone’s content: read the backup instead.',
    'A new backup of the same phone may take its place.'
  ],
  'cloud-backup': [
    'A restore replaces the phone’s content: fetch and read it instead.',
    'Only the newest few are kept.'
  ],
  'cloud-sync': ['Signing in with another device can carry the deletion there too.'],
  'app-backup': ['The app’s own backup runs again, often daily, and takes its place.'],
  handset: [
    'Each use writes over freed space.',
    'Attaching it and allowing the connection leave traces.'
  ],
  'old-handset': ['Once it has a network it may take over the deletion.'],
  card: ['Wrong PINs lock it.'],
  'computer-app': ['Opened with a network, the app takes over the deletion.'],
  disk: ['Starting the computer writes to the disk.'],
  'other-party': ['They may delete it, or keep it for a time only: ask now.'],
  'app-export': ['It can have been changed since it was made.'],
  'screen-captures': ['A picture proves less than a record: no bytes stand behind it.']
};

export function risksOf({ kind }: Copy, { phoneUsedSince }: Intake): string[] {
  const used =
    kind === 'handset' && phoneUsedSince !== false
      ? ['The phone was used since, or that is not known: a part may be gone.']
      : [];
  return [...RISKS[kind], ...used];
}
