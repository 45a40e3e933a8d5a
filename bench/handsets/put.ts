import { createHash } from 'node:crypto';
import { BenchRefusal } from '../devices';
import { askStore, hasTable, withStore } from '../writers/store';
import { joinedMerger } from './put-joined';
import { telephonyMerger } from './put-telephony';
import type { Merger, StoredMessage } from './merger';
import type { Family } from './models';

/** What putting messages back does, or would do. */
export interface PutReport {
  /** Messages of the file that the handset does not have. */
  added: number;
  /** Messages of the file that it has already. */
  present: number;
  /** Messages of the handset before; all of them stay as they are. */
  before: number;
  after: number;
  /** The first of those that are added, as text. */
  samples: string[];
  /** Conversations that had to be made again. */
  threads: number;
  /** What was compared after it was done, in a sentence; null for a dry run. */
  checked: string | null;
}

const MERGERS: Record<Family, Merger> = { telephony: telephonyMerger, joined: joinedMerger };

/**
 * Merges the messages of a store into another of its family: those that are
 * there stay as they are, those that are not are added, each as often as the
 * file has it. The result is read back and compared before it is given.
 * @throws BenchRefusal when the file is no store of the family, or the result is not what it has to be
 */
export function putInto(
  family: Family,
  own: Uint8Array,
  from: Uint8Array
): { bytes: Uint8Array; sha256: string; report: PutReport } {
  const merger = MERGERS[family];
  const wanted = messagesOf(merger, from);
  const before = askStore(own, (db) => merger.list(db));
  const missing = notIn(before, wanted);
  let threads = 0;
  const bytes = askStore(from, (source) =>
    withStore(own, (db) => {
      db.run('BEGIN');
      threads = merger.add(source, db, missing);
      db.run('COMMIT');
    })
  );
  const report: PutReport = {
    added: missing.length,
    present: wanted.length - missing.length,
    before: before.length,
    after: before.length + missing.length,
    samples: missing.slice(0, 5).map(({ text }) => text),
    threads,
    checked: compared(merger, bytes, before, missing)
  };
  return { bytes, sha256: createHash('sha256').update(bytes).digest('hex'), report };
}

function messagesOf(merger: Merger, file: Uint8Array): StoredMessage[] {
  try {
    return askStore(file, (db) => {
      const lacking = merger.tables.find((name) => !hasTable(db, name));
      if (lacking !== undefined)
        throw new BenchRefusal(
          `The file is not a store of this handset's family: table ${lacking} is missing.`
        );
      return merger.list(db);
    });
  } catch (error) {
    if (error instanceof BenchRefusal) throw error;
    const reason = error instanceof Error ? error.message : String(error);
    throw new BenchRefusal(`The file cannot be read as a store: ${reason}.`);
  }
}

/** Messages of the second list that the first does not have as often. */
function notIn(have: readonly StoredMessage[], want: readonly StoredMessage[]): StoredMessage[] {
  const counts = new Map<string, number>();
  for (const { key } of have) counts.set(key, (counts.get(key) ?? 0) + 1);
  return want.filter(({ key }) => {
    const left = counts.get(key) ?? 0;
    if (left > 0) counts.set(key, left - 1);
    return left === 0;
  });
}

/** Reads the result back: everything that was there, and everything that was added, once each. */
function compared(
  merger: Merger,
  bytes: Uint8Array,
  before: readonly StoredMessage[],
  added: readonly StoredMessage[]
): string {
  const { after, told } = askStore(bytes, (db) => ({
    after: merger.list(db),
    told: String(db.exec('PRAGMA integrity_check')[0]?.values[0]?.[0])
  }));
  const expected = [...before, ...added].map(({ key }) => key).sort();
  const found = after.map(({ key }) => key).sort();
  const isSame = expected.length === found.length && expected.every((key, i) => key === found[i]);
  if (!isSame || told !== 'ok')
    throw new BenchRefusal(
      'The store with the messages put back is not what it has to be; nothing was changed.'
    );
  return `Read back and compared: ${before.length} messages as before, ${added.length} added, the store is sound.`;
}
