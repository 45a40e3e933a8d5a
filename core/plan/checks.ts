import type { CopyKind } from './intake';

/** Looks that change nothing, before any route is taken. */
export const FIRST_CHECKS: readonly { id: string; look: string; shows: string }[] = [
  {
    id: 'archived',
    look: 'Is the conversation archived, muted or filtered out of view?',
    shows: 'It is there, and was only out of sight.'
  },
  {
    id: 'bin',
    look: 'Does the app have a bin or a view of what was deleted?',
    shows: 'What was deleted within its days, with the day on which each goes.'
  },
  {
    id: 'keep',
    look: 'How long is the app set to keep messages? Set it to “for ever” now.',
    shows: 'Whether they aged out; and no more are lost.'
  },
  {
    id: 'cloud',
    look: 'Are messages kept in the cloud and merely not loaded here?',
    shows: 'Switching the sync off and on loads them again, unless the deletion was carried over.'
  },
  {
    id: 'daily',
    look: 'Does the app make daily copies on the phone? They are kept about a week.',
    shows: 'Files with dates in their names; one may be from before the deletion.'
  },
  {
    id: 'transfer',
    look: 'Were messages moved to another phone by the app itself?',
    shows: 'The other phone still holds them.'
  }
];

/** What the client must not do until the copy is taken. */
export const MUST_NOT: readonly string[] = [
  'Do not use the phone: no calls, no pictures, no apps. Switch flight mode on.',
  'Do not restore a backup onto the phone, not even to look.',
  'Do not erase the phone, whatever it offers to back up first.',
  'Do not attach the phone to a computer that backs it up by itself.',
  'Do not install or update anything, the app least of all.',
  'If the app asks at its start whether to restore: do not decline, and do not accept yet. Ask us.',
  'Ask nobody to delete anything.'
];

/** What is done to take a route, in order. */
export const STEPS: Record<CopyKind, readonly string[]> = {
  'holding-area': ['ask for the phone', 'copy its file system', 'read what is held'],
  'computer-backup': ['copy the backup’s folder', 'add it as a source', 'examine'],
  'cloud-backup': ['ask for the account', 'fetch the snapshot', 'examine'],
  'cloud-sync': ['ask for the account', 'fetch the messages', 'examine'],
  'app-backup': ['copy the backup’s file', 'ask for its key', 'examine'],
  handset: ['ask for the phone', 'copy as deep as possible', 'examine freed space'],
  'old-handset': ['charge it, no network', 'copy it', 'examine'],
  card: ['put it in the reader', 'read its files', 'examine'],
  'computer-app': ['network off', 'copy the app’s folder', 'examine freed space'],
  disk: ['image the disk', 'add the image', 'examine to the whole depth'],
  'other-party': ['ask for consent', 'take their export or copy', 'examine'],
  'app-export': ['ask for the file', 'add it as a source', 'examine'],
  'screen-captures': ['ask for the originals', 'add them as a source']
};

/** A route in a few words. */
export const ROUTE_TITLES: Record<CopyKind, string> = {
  'holding-area': 'Read the app’s holding area',
  'computer-backup': 'Read the backup on the computer, without restoring it',
  'cloud-backup': 'Fetch the snapshot from the cloud account',
  'cloud-sync': 'Look at what the cloud keeps in sync',
  'app-backup': 'Read the app’s own backup',
  handset: 'Search the phone’s freed space',
  'old-handset': 'Read the old phone',
  card: 'Read the card',
  'computer-app': 'Read the app’s store on the computer',
  disk: 'Examine the disk',
  'other-party': 'Ask the other side for their copy',
  'app-export': 'Read the app’s own export',
  'screen-captures': 'Gather pictures of the screen'
};

export const COPY_TITLES: Record<CopyKind, string> = {
  'holding-area': 'app’s holding area',
  'computer-backup': 'backup on a computer',
  'cloud-backup': 'snapshot in a cloud account',
  'cloud-sync': 'messages synced with a cloud',
  'app-backup': 'app’s own backup',
  handset: 'the phone itself',
  'old-handset': 'old phone',
  card: 'SIM card',
  'computer-app': 'app on a computer',
  disk: 'disk or its image',
  'other-party': 'the other side’s phone',
  'app-export': 'app’s own export',
  'screen-captures': 'pictures of the screen'
};
