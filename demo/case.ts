import { MORE_SOURCES } from './more';
import { CHARACTERS, OWNER_NAME } from './people';

/** What the demo case is called, and the names that the client gave for the numbers. */
export const DEMO_CASE = {
  name: 'Ferry deposit',
  client: OWNER_NAME,
  zone: 'Europe/Oslo',
  region: 'GB',
  sources: [
    { name: 'Phone of the treasurer', files: ['phone-telephony.db'] },
    { name: 'Tablet from the office', files: ['tablet-chat.db'] },
    ...MORE_SOURCES.map(({ name, folder, files }) => ({ name, folder, files: Object.keys(files) }))
  ],
  intake: {
    lost: {
      kinds: ['messages', 'attachments'],
      app: 'phone messages',
      with: ['Halvard Nystuen'],
      sentFrom: '2026-03-09',
      sentTo: '2026-03-14',
      cloudOnlyApp: false
    },
    deleted: { from: '2026-03-29', to: '2026-04-01', how: 'one-by-one' },
    noticed: '2026-04-02',
    phoneUsedSince: true,
    keepDays: 0,
    syncOn: false,
    copies: [
      { id: 'c1', kind: 'handset', name: 'Phone of the treasurer', deepest: 'file-system' },
      { id: 'c2', kind: 'computer-app', name: 'Office computer' },
      { id: 'c3', kind: 'old-handset', name: 'Old handset', at: '2025-12-20' },
      {
        id: 'c4',
        kind: 'computer-backup',
        name: 'Backup of the new phone',
        at: '2026-05-20',
        encrypted: true,
        keyKnown: true
      },
      { id: 'c5', kind: 'other-party', name: 'Ragna Solheim' }
    ]
  },
  names: Object.fromEntries(
    Object.values(CHARACTERS)
      .filter((character) => character.name !== '')
      .map((character) => [character.address, character.name])
  )
};
