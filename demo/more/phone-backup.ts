import initSqlJs from 'sql.js';
import { writeBackup } from '../../bench/writers/backup';
import { CHARACTERS, GROUPS, OWNER_NAME } from '../people';
import { Random } from '../random';
import { contactCard, media, placeCard } from '../media';
import { smallTalk } from './talk';

/** Opens the phone's backup; the README tells it to whoever tries the demo. */
export const BACKUP_PASSWORD = 'winter tide';

const SQL = await initSqlJs();
const EPOCH_2001 = 978_307_200_000;
export const JOINED_SCHEMA = `
CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, handle_id INTEGER DEFAULT 0, attributedBody BLOB, date INTEGER, date_read INTEGER, date_delivered INTEGER, is_from_me INTEGER DEFAULT 0, item_type INTEGER DEFAULT 0, thread_originator_guid TEXT, associated_message_guid TEXT, associated_message_type INTEGER DEFAULT 0);
CREATE TABLE handle (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, id TEXT NOT NULL);
CREATE TABLE chat (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, chat_identifier TEXT, display_name TEXT);
CREATE TABLE chat_message_join (chat_id INTEGER, message_id INTEGER, message_date INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_recoverable_message_join (chat_id INTEGER, message_id INTEGER, delete_date INTEGER, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER, UNIQUE(chat_id, handle_id));
CREATE TABLE attachment (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, filename TEXT, mime_type TEXT, transfer_name TEXT, total_bytes INTEGER DEFAULT 0);
CREATE TABLE message_attachment_join (message_id INTEGER, attachment_id INTEGER, UNIQUE(message_id, attachment_id));
`;

const FROM = Date.UTC(2026, 3, 4, 7);

interface Sent {
  name: string;
  mime: string;
  bytes: () => Uint8Array;
  chat: 1 | 2;
  own: boolean;
  text: string;
}

/** What was sent with a file in the last days, in this order. */
const SENT: readonly Sent[] = [
  sent('quay-after-storm.jpg', 'image/jpeg', 1, true, 'Here, and the next two.'),
  sent('quay.webp', 'image/webp', 1, true, ''),
  sent('harbour-morning.jpg', 'image/jpeg', 1, true, 'And as it was in May.'),
  sent('hull-on-slip.jpg', 'image/jpeg', 1, false, 'This is what your deposit looks like.'),
  sent(
    'out-of-the-harbour.mp4',
    'video/mp4',
    2,
    false,
    'She sails. Somebody else’s, but she sails.'
  ),
  sent('voice-note.ogg', 'audio/ogg', 2, false, ''),
  sent('grant-letter.heic', 'image/heic', 2, true, 'The letter, so that you have it too.'),
  sent('slip.jpg', 'image/jpeg', 2, true, 'And his slip. Forty, it says.'),
  sent('quote.pdf', 'application/pdf', 1, false, 'The quote again, since you ask.'),
  sent('hull-plan.png', 'image/png', 1, false, 'Ingrid’s plan, frames four and five.'),
  {
    name: 'Ingrid Mo.vcf',
    mime: 'text/vcard',
    bytes: () => contactCard('Ingrid Mo', CHARACTERS.ingrid.address, 'Mo boat drawings'),
    chat: 2,
    own: true,
    text: 'Ask Ingrid, here is her card.'
  },
  {
    name: 'Slip three.loc.vcf',
    mime: 'text/x-vlocation',
    bytes: () => placeCard('Slip three, inner harbour', 58.9712, 5.7331),
    chat: 2,
    own: false,
    text: 'I am here.'
  },
  sent('gull.webp', 'image/webp', 2, false, '')
];

function sent(name: string, mime: string, chat: 1 | 2, own: boolean, text: string): Sent {
  return { name, mime, bytes: () => media(name), chat, own, text };
}

/** Where the phone keeps the file of a message. */
function placeOf(i: number, name: string): string {
  const folder = String(i).padStart(2, '0');
  return `~/Library/SMS/Attachments/${folder}/${folder}/${name}`;
}

/** The treasurer's new phone: encrypted backup with messages, pictures, contacts and calls. */
export function phoneBackup(): Record<string, Uint8Array> {
  const random = new Random(77);
  return writeBackup({
    layout: 'database',
    password: BACKUP_PASSWORD,
    rounds: 60_000,
    random: (length) => Buffer.from(Array.from({ length }, () => random.int(0, 255))),
    device: {
      name: `${OWNER_NAME}’s phone`,
      model: 'Pocket 5',
      system: '18.2',
      serial: 'HVS20260411',
      phone: '+44 7700 900001',
      at: new Date(Date.UTC(2026, 3, 11, 21, 4))
    },
    files: [
      {
        domain: 'HomeDomain',
        path: 'Library/SMS/sms.db',
        bytes: messages()
      },
      {
        domain: 'HomeDomain',
        path: 'Library/AddressBook/AddressBook.sqlitedb',
        bytes: contactBook()
      },
      {
        domain: 'HomeDomain',
        path: 'Library/CallHistoryDB/CallHistory.storedata',
        bytes: callHistory()
      },
      ...SENT.map(({ name, bytes }, i) => ({
        domain: 'MediaDomain',
        path: placeOf(i, name).slice(2),
        bytes: bytes(),
        modifiedAt: FROM + i * 3_600_000
      }))
    ]
  });
}

function made(fill: (db: InstanceType<typeof SQL.Database>) => void): Uint8Array {
  const db = new SQL.Database();
  db.run('PRAGMA secure_delete=OFF');
  fill(db);
  const bytes = db.export();
  db.close();
  return bytes;
}

export function since2001(at: number): string {
  return `${BigInt(at - EPOCH_2001) * 1_000_000n}`;
}

function messages(): Uint8Array {
  return made((db) => {
    db.run(JOINED_SCHEMA);
    const handles = ['halvard', 'ragna', 'sunniva', 'bjarne', 'ingrid'] as const;
    handles.forEach((key, i) =>
      db.run('INSERT INTO handle VALUES(?,?)', [i + 1, CHARACTERS[key].address])
    );
    db.run('INSERT INTO chat VALUES(1,?,?,NULL),(2,?,?,NULL),(3,?,?,?)', [
      'chat-halvard',
      CHARACTERS.halvard.address,
      'chat-ragna',
      CHARACTERS.ragna.address,
      'chat-committee',
      'chat-committee',
      GROUPS.committee.title
    ]);
    db.run('INSERT INTO chat_handle_join VALUES(1,1),(2,2),(3,1),(3,2),(3,3),(3,4),(3,5)');
    let id = 0;
    const add = (chat: number, handle: number, at: number, own: boolean, text: string): number => {
      db.run(
        `INSERT INTO message(guid,text,handle_id,date,date_read,is_from_me) VALUES(?,?,?,${since2001(at)},${own ? 0 : since2001(at + 60_000)},?)`,
        [`M-${++id}`, text, handle, own ? 1 : 0]
      );
      db.run(`INSERT INTO chat_message_join VALUES(${chat},${id},${since2001(at)})`);
      return id;
    };
    for (const { at, own, text } of smallTalk(5, FROM, 60)) add(1, 1, at, own, text);
    for (const { at, own, text } of smallTalk(9, FROM + 3_600_000, 44)) add(2, 2, at, own, text);
    const asked = add(
      1,
      1,
      FROM + 6 * 86_400_000,
      false,
      'You never sent me a photo of the quay after the storm.'
    );
    SENT.forEach(({ name, mime, bytes, chat, own, text }, i) => {
      const at = FROM + 6 * 86_400_000 + (i + 1) * 70_000;
      const sent = add(chat, chat, at, own, text);
      const place = placeOf(i, name);
      db.run('INSERT INTO attachment VALUES(?,?,?,?,?,?)', [
        i + 1,
        `A-${i}`,
        place,
        mime,
        name,
        bytes().length
      ]);
      db.run(`INSERT INTO message_attachment_join VALUES(${sent},${i + 1})`);
      if (i === 0)
        db.run(`UPDATE message SET thread_originator_guid='M-${asked}' WHERE ROWID=${sent}`);
    });
    const lost = add(2, 2, FROM + 5 * 86_400_000, false, 'And the boat in the fog.');
    db.run(
      `INSERT INTO attachment VALUES(99,'A-99','~/Library/SMS/Attachments/77/07/fog.heic','image/heic','fog.heic',2301155)`
    );
    db.run(`INSERT INTO message_attachment_join VALUES(${lost},99)`);
    id++;
    db.run(
      `INSERT INTO message(guid,handle_id,date,is_from_me,associated_message_guid,associated_message_type) VALUES('R-1',1,${since2001(FROM + 6 * 86_400_000 + 400_000)},0,'p:0/M-${asked + 1}',2001)`
    );
    hold(
      db,
      add(
        1,
        1,
        FROM + 6.5 * 86_400_000,
        false,
        'About the envelope: let us agree that there was none.'
      )
    );
    hold(
      db,
      add(1, 1, FROM + 6.5 * 86_400_000 + 90_000, true, 'There was one, and you counted it twice.')
    );
    db.run(`DELETE FROM message WHERE ROWID IN (12, 13, 40)`);
  });
}

/** Puts a message into the holding area, where it stays for thirty days. */
function hold(db: InstanceType<typeof SQL.Database>, id: number): void {
  db.run(`DELETE FROM chat_message_join WHERE message_id=${id}`);
  db.run(
    `INSERT INTO chat_recoverable_message_join VALUES(1,${id},${since2001(FROM + 7 * 86_400_000)})`
  );
}

export function contactBook(): Uint8Array {
  return made((db) => {
    db.run(`CREATE TABLE ABPerson(ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, Middle TEXT, Organization TEXT, Note TEXT, Nickname TEXT);
      CREATE TABLE ABMultiValue(UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, identifier INTEGER, label INTEGER, value TEXT);`);
    Object.values(CHARACTERS).forEach(({ name, address }, i) => {
      if (name === '') return;
      const [first, ...last] = name.split(' ');
      db.run('INSERT INTO ABPerson(ROWID,First,Last,Organization) VALUES(?,?,?,?)', [
        i + 1,
        first!,
        last.join(' '),
        i % 3 ? null : 'Havsule ferry association'
      ]);
      const mail = address.includes('@');
      const national = address.replace(/^\+44/, '0').replace(/(\d{5})(\d{6})/, '$1 $2');
      db.run('INSERT INTO ABMultiValue(record_id,property,value) VALUES(?,?,?)', [
        i + 1,
        mail ? 4 : 3,
        mail ? address : national
      ]);
    });
    db.run('DELETE FROM ABPerson WHERE ROWID=4');
  });
}

export function callHistory(): Uint8Array {
  return made((db) => {
    db.run(
      `CREATE TABLE ZCALLRECORD(Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZANSWERED INTEGER, ZORIGINATED INTEGER, ZDATE TIMESTAMP, ZDURATION FLOAT, ZADDRESS TEXT, ZNAME TEXT, ZUNIQUE_ID TEXT);`
    );
    const random = new Random(31);
    const parties = [CHARACTERS.halvard, CHARACTERS.ragna, CHARACTERS.bjarne, CHARACTERS.second];
    for (let i = 1; i <= 38; i++) {
      const at = FROM + i * 4.3 * 3_600_000;
      const own = random.int(0, 1);
      const answered = own || random.int(0, 3) > 0 ? 1 : 0;
      db.run('INSERT INTO ZCALLRECORD VALUES(?,1,1,?,?,?,?,?,NULL,?)', [
        i,
        answered,
        own,
        at / 1000 - EPOCH_2001 / 1000,
        answered ? random.int(12, 900) : 0,
        random.pick(parties).address,
        `call-${i}`
      ]);
    }
    db.run('DELETE FROM ZCALLRECORD WHERE Z_PK IN (9, 10, 11)');
  });
}
