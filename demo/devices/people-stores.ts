import type { Database } from 'sql.js';
import { madeStore } from '../../bench/writers/store';
import { CHARACTERS, type CharacterKey } from '../people';
import { Random } from '../random';

/** Contacts and calls as the family with one telephony store keeps them. */
export function telephonyContacts(keys: readonly CharacterKey[], gone: CharacterKey): Uint8Array {
  return madeStore((db) => {
    db.run(`CREATE TABLE raw_contacts(_id INTEGER PRIMARY KEY, contact_id INTEGER, display_name TEXT, deleted INTEGER DEFAULT 0);
      CREATE TABLE mimetypes(_id INTEGER PRIMARY KEY, mimetype TEXT);
      INSERT INTO mimetypes VALUES(1,'vnd.android.cursor.item/phone_v2'),(2,'vnd.android.cursor.item/email_v2');
      CREATE TABLE data(_id INTEGER PRIMARY KEY, mimetype_id INTEGER, raw_contact_id INTEGER, data1 TEXT);`);
    [...keys, gone].forEach((key, i) => {
      const { name, address } = CHARACTERS[key];
      db.run('INSERT INTO raw_contacts VALUES(?,?,?,0)', [i + 1, i + 1, name]);
      const kind = address.includes('@') ? 2 : 1;
      db.run('INSERT INTO data VALUES(?,?,?,?)', [i + 1, kind, i + 1, address]);
    });
    db.run(`DELETE FROM data WHERE raw_contact_id=${keys.length + 1}`);
    db.run(`DELETE FROM raw_contacts WHERE _id=${keys.length + 1}`);
  });
}

/** A log of calls; the last ones were deleted. */
export function telephonyCalls(
  keys: readonly CharacterKey[],
  from: number,
  count: number,
  deleted: number
): Uint8Array {
  return madeStore((db) => {
    db.run(
      'CREATE TABLE calls(_id INTEGER PRIMARY KEY, number TEXT, date INTEGER, duration INTEGER, type INTEGER, name TEXT)'
    );
    addCalls(db, keys, from, count);
    db.run(`DELETE FROM calls WHERE _id > ${count - deleted}`);
  });
}

function addCalls(db: Database, keys: readonly CharacterKey[], from: number, count: number): void {
  const random = new Random(count * 31 + keys.length);
  for (let i = 1; i <= count; i++) {
    const { name, address } = CHARACTERS[random.pick(keys)];
    const type = random.pick([1, 2, 3]);
    const seconds = type === 3 ? 0 : random.int(8, 900);
    const at = from + i * 19_400_000 + random.int(0, 9_000_000);
    db.run('INSERT INTO calls VALUES(?,?,?,?,?,?)', [i, address, at, seconds, type, name]);
  }
}
