import type { DemoCopy } from './copies';
import { CHARACTERS, OWNER_NAME } from './people';

/** A source of the demo, as files below its folder. */
export interface DemoSource {
  name: string;
  folder?: string;
  files: string[];
  /** Where it was copied from on the bench. */
  copied?: DemoCopy['copied'];
}

/** What the demo case is called, and the names that the client gave for the numbers. */
export const DEMO_CASE = {
  name: 'Ferry deposit',
  client: OWNER_NAME,
  zone: 'Europe/Oslo',
  region: 'GB',
  intake: {
    lost: {
      kinds: ['messages', 'attachments'],
      app: 'phone messages',
      with: ['Halvard Nystuen'],
      sentFrom: '2026-03-09',
      sentTo: '2026-03-14',
      cloudOnlyApp: false
    },
    deleted: { from: '2026-04-02', to: '2026-04-04', how: 'one-by-one' },
    noticed: '2026-04-05',
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
      { id: 'c5', kind: 'other-party', name: 'Ragna Solheim' },
      // The step that is left: it is taken on the bench.
      { id: 'c6', kind: 'cloud-backup', name: 'eirin@ferry.example', at: '2026-03-29' }
    ]
  },
  names: Object.fromEntries(
    Object.values(CHARACTERS)
      .filter((character) => character.name !== '')
      .map((character) => [character.address, character.name])
  )
};
