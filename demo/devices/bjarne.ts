import type { HandsetContents } from '../../bench/handsets/contents';
import { madeStore } from '../../bench/writers/store';
import { CHARACTERS } from '../people';
import { callHistory, contactBook, JOINED_SCHEMA, since2001 } from '../more/phone-backup';
import { media } from '../media';
import { smallTalk } from '../more/talk';

const FROM = Date.UTC(2026, 1, 2, 7);
const AT = Date.UTC(2026, 5, 8, 9);
const EIRIN = '+447700900001';

/** The phone of the chairman, who kept his own side and deleted what he said of the envelope. */
export function bjarnesPhone(): Promise<HandsetContents> {
  return Promise.resolve({
    at: AT,
    stores: [
      { kind: 'messages', owner: 'HomeDomain', path: 'Library/SMS/sms.db', bytes: messages() },
      {
        kind: 'calls',
        owner: 'HomeDomain',
        path: 'Library/CallHistoryDB/CallHistory.storedata',
        bytes: callHistory()
      },
      {
        kind: 'contacts',
        owner: 'HomeDomain',
        path: 'Library/AddressBook/AddressBook.sqlitedb',
        bytes: contactBook()
      }
    ],
    media: ['quay-after-storm.jpg', 'hull-on-slip.jpg'].map((name, i) => ({
      owner: 'MediaDomain',
      path: `Media/DCIM/100/IMG_008${i}.jpg`,
      bytes: media(name)
    })),
    deleted: [media('slip.jpg'), media('out-of-the-harbour.mp4')]
  });
}

const ENVELOPE: [boolean, string][] = [
  [false, 'Were you there when the envelope was counted?'],
  [true, 'I was. Forty, in twenties. Halvard counted it twice.'],
  [false, 'Would you say that to the board?'],
  [true, 'I would rather not have been there.']
];

function messages(): Uint8Array {
  return madeStore((db) => {
    db.run(JOINED_SCHEMA);
    const parties = [EIRIN, CHARACTERS.halvard.address, CHARACTERS.ragna.address];
    parties.forEach((address, i) => {
      db.run('INSERT INTO handle VALUES(?,?)', [i + 1, address]);
      db.run('INSERT INTO chat VALUES(?,?,?,NULL)', [i + 1, `chat-${i + 1}`, address]);
      db.run(`INSERT INTO chat_handle_join VALUES(${i + 1},${i + 1})`);
    });
    let id = 0;
    const add = (chat: number, at: number, own: boolean, text: string): void => {
      db.run(
        `INSERT INTO message(guid,text,handle_id,date,date_read,is_from_me) VALUES(?,?,?,${since2001(at)},0,?)`,
        [`B-${++id}`, text, chat, own ? 1 : 0]
      );
      db.run(`INSERT INTO chat_message_join VALUES(${chat},${id},${since2001(at)})`);
    };
    const talk = [1, 2, 3].flatMap((chat) =>
      smallTalk(chat * 5, FROM + chat * 4e6, 80).map((said) => ({ ...said, chat }))
    );
    for (const { at, own, text, chat } of talk.sort((a, b) => a.at - b.at))
      add(chat, at, own, text);
    ENVELOPE.forEach(([own, text], i) => add(1, AT - 9e8 + i * 240_000, own, text));
    db.run(`DELETE FROM chat_message_join WHERE message_id > ${id - 3}`);
    db.run(`DELETE FROM message WHERE ROWID > ${id - 3} OR ROWID IN (31, 32, 60)`);
    db.run('DELETE FROM chat_message_join WHERE message_id IN (31, 32, 60)');
  });
}
