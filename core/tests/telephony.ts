import type { Database as SqlJs } from 'sql.js';

export interface SentMessage {
  id: number;
  address: string;
  date: number;
  type: number;
  body: string;
}

export const TELEPHONY_SCHEMA = `
CREATE TABLE threads(_id INTEGER PRIMARY KEY AUTOINCREMENT, date INTEGER DEFAULT 0, recipient_ids TEXT, snippet TEXT);
CREATE TABLE canonical_addresses(_id INTEGER PRIMARY KEY AUTOINCREMENT, address TEXT);
CREATE TABLE sms(_id INTEGER PRIMARY KEY, thread_id INTEGER, address TEXT, person INTEGER, date INTEGER, date_sent INTEGER DEFAULT 0, read INTEGER DEFAULT 0, status INTEGER DEFAULT -1, type INTEGER, subject TEXT, body TEXT, service_center TEXT);
`;

/** A seeded source of numbers below 1. */
export function seeded(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

const WORDS = 'tide slip oak ferry tar rope lamp quay gull mast keel anchor herring fog bell'.split(
  ' '
);

/** Plain messages with ten correspondents; each body is unique. */
export function messages(count: number, random: () => number, words = WORDS): SentMessage[] {
  return Array.from({ length: count }, (_, i) => {
    const length = 3 + Math.floor(random() * 18);
    const said = Array.from({ length }, () => words[Math.floor(random() * words.length)]!);
    return {
      id: i + 1,
      address: `+4477009001${10 + Math.floor(random() * 10)}`,
      date: 1_700_000_000_000 + i * 61_000 + Math.floor(random() * 1000),
      type: random() < 0.5 ? 1 : 2,
      body: `No. ${i + 1}: ${said.join(' ')}${i % 17 === 0 ? ' — ελληνικά 🛶' : ''}`
    };
  });
}

export function insertMessages(db: SqlJs, list: SentMessage[]): void {
  const threads = new Map<string, number>();
  db.run('BEGIN');
  for (const { id, address, date, type, body } of list) {
    let thread = threads.get(address);
    if (thread === undefined) {
      thread = threads.size + 1;
      threads.set(address, thread);
      db.run('INSERT INTO canonical_addresses(address) VALUES(?)', [address]);
      db.run('INSERT INTO threads(recipient_ids) VALUES(?)', [String(thread)]);
    }
    db.run(
      'INSERT INTO sms(_id, thread_id, address, date, date_sent, read, type, body) VALUES(?,?,?,?,?,1,?,?)',
      [id, thread, address, date, date - 900, type, body]
    );
  }
  db.run('COMMIT');
}
