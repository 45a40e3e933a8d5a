import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { TELEPHONY_SCHEMA, seeded, type SentMessage } from '../core/tests/telephony';
import { dialects, type DialectName } from './statements';

/** Average bytes that one message takes in the store, so that 1.2 million make about 320 MiB. */
const BYTES_EACH = 280;
const WORDS = 'tide slip oak ferry tar rope lamp quay gull mast keel anchor herring fog bell'.split(
  ' '
);

/** What a store of some shape is written with. */
interface Script {
  schema: string;
  batches(count: number): Iterable<string>;
  /** Deletes each fifth message. */
  remove: string;
}

function telephony(count: number): Script {
  const remove = 'DELETE FROM sms WHERE (_id * 7919) % 5 = 0;';
  return {
    schema: TELEPHONY_SCHEMA + people(count),
    batches: (messages) => batches(messages, count),
    remove
  };
}

/** Other shapes of stores, which have indexes too. */
const REMOVED: Partial<Record<DialectName, string>> = {
  unknown: 'DELETE FROM entries WHERE (entry_id * 7919) % 5 = 0;',
  'handle–chat':
    'DELETE FROM chat_message_join WHERE (message_id * 7919) % 5 = 0;DELETE FROM message WHERE (ROWID * 7919) % 5 = 0;'
};

function scriptOf(shape: string, people: number): Script {
  if (shape === 'telephony') return telephony(people);
  const remove = REMOVED[shape as DialectName];
  if (remove === undefined) throw new Error(`no large store is made in the shape of ${shape}`);
  const dialect = dialects[shape as DialectName]();
  return {
    schema: dialect.schema,
    remove,
    *batches(count) {
      const random = seeded(20261103);
      for (let from = 0; from < count; from += BATCH) {
        const length = Math.min(BATCH, count - from);
        const rows = Array.from({ length }, (_, i) => dialect.insert(message(from + i, random)));
        yield `BEGIN;${rows.join('')}COMMIT;\n`;
      }
    }
  };
}

/** Writes a store of about `megabytes` with the command-line SQLite, a fifth of its messages deleted; returns how many were written. */
export async function makeLargeStore(
  path: string,
  megabytes: number,
  shape = 'telephony',
  people = PEOPLE
): Promise<number> {
  rmSync(path, { force: true });
  const count = Math.round((megabytes * 1024 * 1024) / BYTES_EACH);
  const { schema, batches: parts, remove } = scriptOf(shape, people);
  const sqlite = spawn('sqlite3', ['-batch', path], { stdio: ['pipe', 'ignore', 'inherit'] });
  const write = async (text: string): Promise<void> => {
    if (!sqlite.stdin.write(text)) await once(sqlite.stdin, 'drain');
  };
  await write(`PRAGMA secure_delete=OFF;PRAGMA synchronous=OFF;PRAGMA journal_mode=OFF;\n`);
  await write(schema);
  for (const batch of parts(count)) await write(batch);
  await write(`${remove}\n`);
  sqlite.stdin.end();
  await once(sqlite, 'close');
  return count;
}

const PEOPLE = 400;

function people(count: number): string {
  const rows = Array.from(
    { length: count },
    (_, i) =>
      `INSERT INTO canonical_addresses(address) VALUES('${addressOf(i)}');INSERT INTO threads(recipient_ids) VALUES('${i + 1}');`
  );
  return `BEGIN;${rows.join('')}COMMIT;\n`;
}

function addressOf(i: number): string {
  return `+44770090${String(1000 + i)}`;
}

const BATCH = 2000;

function* batches(count: number, people: number): Generator<string> {
  const random = seeded(20261103);
  for (let from = 0; from < count; from += BATCH) {
    const rows: string[] = [];
    for (let i = from; i < Math.min(count, from + BATCH); i++) rows.push(row(i, random, people));
    yield `BEGIN;INSERT INTO sms(_id,thread_id,address,date,date_sent,read,type,body) VALUES${rows.join(',')};COMMIT;\n`;
  }
}

function row(i: number, random: () => number, people: number): string {
  const { id, who, address, date, type, body } = message(i, random, people);
  return `(${id},${who + 1},'${address}',${date},${date - 900},1,${type},'${body}')`;
}

function message(i: number, random: () => number, people = PEOPLE): SentMessage & { who: number } {
  const who = Math.floor(random() * people);
  const date = 1_500_000_000_000 + i * 200_000 + Math.floor(random() * 1000);
  const length = 10 + Math.floor(random() * 55);
  const words = Array.from({ length }, () => WORDS[Math.floor(random() * WORDS.length)]!);
  const type = random() < 0.5 ? 1 : 2;
  return { id: i + 1, who, address: addressOf(who), date, type, body: `${i}: ${words.join(' ')}` };
}
