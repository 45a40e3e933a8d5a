import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import { caseFileSchema } from '../core/records';
import { makeDatabase, snapshot } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));

function write(name: string, bytes: Uint8Array | string): string {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
}

function examine(...args: string[]): { code: number | null; stderr: string } {
  const main = join(import.meta.dirname, 'main.ts');
  const run = spawnSync(process.execPath, ['--import', 'tsx', main, ...args], { encoding: 'utf8' });
  return { code: run.status, stderr: run.stderr };
}

const store = write(
  'store.db',
  makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(200, seeded(1)));
    db.run('DELETE FROM sms WHERE _id % 4 = 0');
  })
);

test('a case file is written as the schema says', () => {
  const out = join(folder, 'case.json');
  assert.equal(examine(store, '--out', out, '--zone', 'Europe/Oslo', '--quiet').code, 0);
  const file = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));
  assert.equal(file.zone, 'Europe/Oslo');
  assert.equal(file.messages.length, 200);
  assert.equal(file.messages.filter((m) => m.state === 'recovered').length, 50);
});

test('lines of JSON hold the same records', () => {
  const out = join(folder, 'case.jsonl');
  assert.equal(examine(store, '--out', out, '--quiet').code, 0);
  const lines = readFileSync(out, 'utf8')
    .trim()
    .split('\n')
    .map((row) => JSON.parse(row));
  assert.equal(lines.filter((row) => row.record === 'message').length, 200);
  assert.equal(lines[0].record, 'case');
});

test('exit codes and notes for what cannot be read', () => {
  const out = join(folder, 'bad.json');
  const cases: [string[], number][] = [
    [[], 2],
    [[store], 2],
    [[store, '--out', out, '--depth', 'deep'], 2],
    [[store, '--out', out, '--nonsense'], 2],
    [[write('empty.db', ''), '--out', out], 3],
    [[write('text.txt', 'plain words'), '--out', out], 3],
    [[join(folder, 'missing.db'), '--out', out], 3],
    [[store, write('empty2.db', ''), '--out', out], 3]
  ];
  for (const [args, code] of cases) {
    const run = examine(...args);
    assert.equal(run.code, code, `${args.join(' ')}\n${run.stderr}`);
    assert.ok(!/\n\s+at /.test(run.stderr), run.stderr);
    if (code === 3) {
      const file = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));
      assert.ok(file.sources.some((source) => source.notes.some((note) => note.level === 'error')));
    }
  }
  assert.equal(existsSync(`${out}.partial`), false);
});

test('a log beside the database is found by itself', () => {
  const snap = snapshot(
    `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; ${TELEPHONY_SCHEMA}
INSERT INTO sms(_id, address, date, type, body) VALUES(1,'+447700900111',1700000000000,1,'only in the log');
SNAPSHOT
`,
    'SELECT body FROM sms'
  );
  const path = write('logged.db', snap.main);
  write('logged.db-wal', snap.wal!);
  const out = join(folder, 'logged.json');
  assert.equal(examine(path, '--out', out, '--quiet').code, 0);
  const file = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));
  assert.deepEqual(
    file.messages.map((m) => [m.body, m.proofs[0]!.path]),
    [['only in the log', 'logged.db-wal']]
  );
});
