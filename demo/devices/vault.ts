import { writeBackup } from '../../bench/writers/backup';
import type { VaultSnapshot } from '../../bench';
import { askStore, madeStore } from '../../bench/writers/store';
import { CHARACTERS, OWNER_NAME, type CharacterKey } from '../people';
import { callHistory, contactBook, JOINED_SCHEMA, since2001 } from '../more/phone-backup';
import { media } from '../media';
import { Random } from '../random';
import { writeScript, type ScriptLine } from '../script';

/** Opens the newest snapshot; the bench tells it. */
const SNAPSHOT_PASSWORD = 'winter tide';

export const SNAPSHOTS: readonly VaultSnapshot[] = [
  { id: '2026-03-29', system: '18.1', at: Date.UTC(2026, 2, 29, 1, 12), password: null },
  { id: '2026-06-14', system: '18.2', at: Date.UTC(2026, 5, 14, 0, 47), password: null },
  {
    id: '2026-10-30',
    system: '18.2',
    at: Date.UTC(2026, 9, 30, 2, 3),
    password: SNAPSHOT_PASSWORD
  }
].map((snapshot) => ({ device: `${OWNER_NAME}’s phone`, ...snapshot }));

/** Snapshots that were there before; the vault keeps the newest three. */
export const DROPPED_SNAPSHOTS = 2;

const WITH: readonly CharacterKey[] = ['halvard', 'ragna', 'sunniva', 'bjarne'];
const DELETED_ON = Date.UTC(2026, 3, 3, 8, 30);
const NOW = Date.UTC(2026, 10, 1, 18);

/** The phone's store of messages as it stood at a moment. */
function storeAt(at: number): Uint8Array {
  const lines = writeScript().filter(
    (line) => line.at <= at && WITH.includes(line.with as CharacterKey)
  );
  return madeStore((db) => {
    db.run(JOINED_SCHEMA);
    WITH.forEach((key, i) => {
      db.run('INSERT INTO handle VALUES(?,?)', [i + 1, CHARACTERS[key].address]);
      db.run('INSERT INTO chat VALUES(?,?,?,NULL)', [
        i + 1,
        `chat-${key}`,
        CHARACTERS[key].address
      ]);
      db.run(`INSERT INTO chat_handle_join VALUES(${i + 1},${i + 1})`);
    });
    const gone: number[] = [];
    const before = lines.filter((line) => line.at <= DELETED_ON);
    const after = lines.slice(before.length);
    const add = (line: ScriptLine, id: number): void => {
      const chat = WITH.indexOf(line.with as CharacterKey) + 1;
      db.run(
        `INSERT INTO message(ROWID,guid,text,handle_id,date,date_read,is_from_me) VALUES(${id},?,?,${chat},${since2001(line.at)},0,${line.by === 'me' ? 1 : 0})`,
        [`V-${id}`, line.text]
      );
      db.run(`INSERT INTO chat_message_join VALUES(${chat},${id},${since2001(line.at)})`);
      if (line.deleted) gone.push(id);
    };
    before.forEach((line, i) => add(line, i + 1));
    if (at > DELETED_ON)
      for (const id of gone) {
        db.run(`DELETE FROM chat_message_join WHERE message_id=${id}`);
        db.run(`DELETE FROM message WHERE ROWID=${id}`);
      }
    after.forEach((line, i) => add(line, before.length + i + 1));
  });
}

/** A snapshot as the folder of a backup, narrowed to some kinds of data. */
export function snapshotFiles(
  { device, system, at, password }: VaultSnapshot,
  isWanted: (kind: string) => boolean
): Record<string, Uint8Array> {
  const random = new Random(Math.floor(at / 1000));
  const files = [
    { kind: 'messages', path: 'Library/SMS/sms.db', make: () => storeAt(at) },
    { kind: 'contacts', path: 'Library/AddressBook/AddressBook.sqlitedb', make: contactBook },
    { kind: 'calls', path: 'Library/CallHistoryDB/CallHistory.storedata', make: callHistory },
    { kind: 'media', path: 'Media/DCIM/100/IMG_0091.jpg', make: () => media('slip.jpg') },
    {
      kind: 'media',
      path: 'Media/DCIM/100/IMG_0092.heic',
      make: () => media('grant-letter.heic')
    }
  ].filter(({ kind }) => isWanted(kind));
  return writeBackup({
    layout: 'database',
    device: {
      name: device,
      model: 'Pocket 5',
      system,
      serial: 'HVS20260411',
      phone: '',
      at: new Date(at)
    },
    files: files.map(({ kind, path, make }) => ({
      domain: kind === 'media' ? 'MediaDomain' : 'HomeDomain',
      path,
      bytes: make(),
      modifiedAt: at
    })),
    random: (length) => Buffer.from(Array.from({ length }, () => random.int(0, 255))),
    ...(password === null ? {} : { password, rounds: 20_000 })
  });
}

/** Messages that are kept the same on all devices: a deletion on one is one on all. */
export function syncedMessages(): Uint8Array {
  const rows = askStore(
    storeAt(NOW),
    (db) =>
      db.exec(
        `SELECT m.guid, h.id, m.is_from_me, CAST(m.date / 1000000000 + 978307200 AS INTEGER), m.text
         FROM message m JOIN handle h ON h.ROWID = m.handle_id ORDER BY m.date`
      )[0]!.values
  );
  const messages = rows.map(([id, who, own, at, text]) => ({
    id,
    conversation: who,
    from: own ? 'me' : who,
    to: own ? who : 'me',
    sent: new Date(Number(at) * 1000).toISOString(),
    text
  }));
  return Buffer.from(`${JSON.stringify({ account: 'eirin@ferry.example', messages }, null, 1)}\n`);
}
