import type { Database } from 'sql.js';
import { addressOf, type ScriptLine } from './script';
import type { CharacterKey } from './people';

const SCHEMA = `
CREATE TABLE threads(_id INTEGER PRIMARY KEY AUTOINCREMENT, date INTEGER DEFAULT 0, message_count INTEGER DEFAULT 0, recipient_ids TEXT, snippet TEXT, read INTEGER DEFAULT 1, type INTEGER DEFAULT 0, archived INTEGER DEFAULT 0);
CREATE TABLE canonical_addresses(_id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT);
CREATE TABLE sms(_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, person INTEGER, date INTEGER, date_sent INTEGER DEFAULT 0, protocol INTEGER, read INTEGER DEFAULT 0, status INTEGER DEFAULT -1, type INTEGER, reply_path_present INTEGER, subject TEXT, body TEXT, service_center TEXT, locked INTEGER DEFAULT 0, error_code INTEGER DEFAULT -1, creator TEXT, seen INTEGER DEFAULT 0, sub_id INTEGER DEFAULT -1);
CREATE TABLE pdu(_id INTEGER PRIMARY KEY AUTOINCREMENT, thread_id INTEGER, date INTEGER, date_sent INTEGER DEFAULT 0, msg_box INTEGER, read INTEGER DEFAULT 0, m_id TEXT, sub TEXT, sub_cs INTEGER, ct_t TEXT, m_type INTEGER, seen INTEGER DEFAULT 0);
CREATE TABLE part(_id INTEGER PRIMARY KEY AUTOINCREMENT, mid INTEGER, seq INTEGER DEFAULT 0, ct TEXT, name TEXT, chset INTEGER, cd TEXT, fn TEXT, cid TEXT, cl TEXT, _data TEXT, text TEXT);
CREATE TABLE addr(_id INTEGER PRIMARY KEY, msg_id INTEGER, contact_id INTEGER, address TEXT, type INTEGER, charset INTEGER);
CREATE INDEX typeThreadIdIndex ON sms(type, thread_id);
`;

/** Writes the phone's telephony store: plain messages, and multimedia ones where there is a picture. */
export class PhoneStore {
  private readonly threads = new Map<string, number>();
  private nextSms = 0;

  constructor(private readonly db: Database) {
    db.run('PRAGMA page_size=4096; PRAGMA secure_delete=OFF;');
    db.run(SCHEMA);
  }

  /** Returns the statements that delete the message again. */
  add(line: ScriptLine): string[] {
    const thread = this.threadOf(line.with as CharacterKey);
    return line.picture === null ? this.addPlain(line, thread) : this.addPicture(line, thread);
  }

  private threadOf(partner: CharacterKey): number {
    let thread = this.threads.get(partner);
    if (thread === undefined) {
      thread = this.threads.size + 1;
      this.threads.set(partner, thread);
      this.db.run('INSERT INTO canonical_addresses(address) VALUES(?)', [addressOf(partner)]);
      this.db.run('INSERT INTO threads(date, recipient_ids) VALUES(0, ?)', [String(thread)]);
    }
    return thread;
  }

  private addPlain(line: ScriptLine, thread: number): string[] {
    const own = line.by === 'me';
    const id = ++this.nextSms;
    this.db.run(
      `INSERT INTO sms(_id, thread_id, address, date, date_sent, protocol, read, status, type, reply_path_present, body, service_center, creator, seen, sub_id)
       VALUES(?,?,?,?,?,?,1,-1,?,?,?,?,'messaging',1,1)`,
      [
        id,
        thread,
        addressOf(line.with as CharacterKey),
        line.at,
        own ? 0 : line.at - 1200,
        own ? null : 0,
        own ? 2 : 1,
        own ? null : 0,
        line.text,
        own ? null : '+447700900900'
      ]
    );
    return [`DELETE FROM sms WHERE _id=${id}`];
  }

  private addPicture(line: ScriptLine, thread: number): string[] {
    const own = line.by === 'me';
    this.db.run(
      'INSERT INTO pdu(thread_id, date, date_sent, msg_box, read, ct_t, m_type, seen) VALUES(?,?,?,?,1,?,?,1)',
      [
        thread,
        Math.floor(line.at / 1000),
        Math.floor(line.at / 1000),
        own ? 2 : 1,
        'application/vnd.wap.multipart.related',
        own ? 128 : 132
      ]
    );
    const id = Number(this.db.exec('SELECT last_insert_rowid()')[0]!.values[0]![0]);
    const part =
      'INSERT INTO part(mid, seq, ct, name, chset, cid, cl, _data, text) VALUES(?,?,?,?,?,?,?,?,?)';
    this.db.run(part, [
      id,
      0,
      'text/plain',
      'text.txt',
      106,
      '<text>',
      'text.txt',
      null,
      line.text
    ]);
    this.db.run(part, [
      id,
      1,
      'image/jpeg',
      line.picture,
      null,
      '<image>',
      line.picture,
      `parts/PART_${line.at}_${line.picture}`,
      null
    ]);
    const addr = 'INSERT INTO addr(msg_id, address, type, charset) VALUES(?,?,?,106)';
    const other = addressOf(line.with as CharacterKey);
    this.db.run(addr, [id, own ? 'insert-address-token' : other, 137]);
    this.db.run(addr, [id, own ? other : 'insert-address-token', 151]);
    return [
      `DELETE FROM part WHERE mid=${id}`,
      `DELETE FROM addr WHERE msg_id=${id}`,
      `DELETE FROM pdu WHERE _id=${id}`
    ];
  }
}
