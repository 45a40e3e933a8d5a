import type { HandsetContents } from '../../bench/handsets/contents';
import { madeStore } from '../../bench/writers/store';
import { media } from '../media';
import { parley } from '../more/handset';
import { picture } from '../more/pictures';
import { smallTalk } from '../more/talk';
import { PhoneStore } from '../phone';
import { telephonyCalls, telephonyContacts } from './people-stores';

const FROM = Date.UTC(2025, 5, 2, 8);
const AT = Date.UTC(2025, 11, 20, 12);

/** The handset from the drawer: its owner tidied it before the new one came. */
export function oldHandset(): Promise<HandsetContents> {
  return Promise.resolve({
    at: AT,
    stores: [
      {
        kind: 'messages',
        owner: 'org.example.telephony',
        path: 'databases/mmssms.db',
        bytes: messages()
      },
      {
        kind: 'calls',
        owner: 'org.example.calls',
        path: 'databases/calllog.db',
        bytes: telephonyCalls(['halvard', 'ragna', 'yevhen'], FROM, 44, 5)
      },
      {
        kind: 'contacts',
        owner: 'org.example.contacts',
        path: 'databases/contacts2.db',
        bytes: telephonyContacts(['halvard', 'ragna', 'yevhen', 'bjarne'], 'haru')
      },
      { kind: 'apps', owner: 'org.example.parley', path: 'databases/parley.db', bytes: parley() }
    ],
    media: [
      { owner: 'org.example.parley', path: 'files/received/slip-1.png', bytes: picture(21) },
      { owner: 'org.example.parley', path: 'files/received/slip-2.png', bytes: picture(22) },
      { owner: 'shared', path: 'Pictures/havsule.jpg', bytes: media('hull-on-slip.jpg') }
    ],
    deleted: [media('slip.jpg'), media('voice-note.ogg'), media('grant-letter.heic'), picture(24)]
  });
}

function messages(): Uint8Array {
  return madeStore((db) => {
    const store = new PhoneStore(db);
    const undo: string[] = [];
    for (const [n, key] of (['halvard', 'yevhen', 'ragna'] as const).entries()) {
      for (const [i, { at, own, text }] of smallTalk(3 + n * 4, FROM + n * 5e6, 90).entries()) {
        const deleted = n === 0 && i > 70;
        const by = own ? 'me' : key;
        const line = { at, store: 'phone', with: key, by, text, deleted, picture: null } as const;
        const statements = store.add(line);
        if (deleted) undo.push(...statements);
      }
    }
    for (const statement of undo) db.run(statement);
  });
}
