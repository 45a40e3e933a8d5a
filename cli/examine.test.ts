import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  symlinkSync,
  writeFileSync
} from 'node:fs';
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

test('nothing is written where evidence lies', () => {
  const evidence = join(folder, 'evidence');
  mkdirSync(evidence);
  const inner = join(evidence, 'inner.db');
  copyFileSync(store, inner);
  const hard = join(folder, 'hard.db');
  linkSync(inner, hard);
  const soft = join(folder, 'soft.json');
  symlinkSync(inner, soft);
  const before = readFileSync(inner);
  const outs: [string, string][] = [
    [inner, inner],
    [inner, `${inner}-wal`],
    [inner, `${inner}-journal`],
    [inner, hard],
    [inner, soft],
    [evidence, join(evidence, 'case.json')],
    [evidence, join(evidence, '..', 'evidence', 'deep', 'case.json')],
    [inner, evidence],
    [inner, '/dev/null']
  ];
  for (const [input, out] of outs) assert.equal(examine(input, '--out', out).code, 2, out);
  const media = examine(evidence, '--out', join(folder, 'm.json'), '--attachments', evidence);
  assert.equal(media.code, 2);
  assert.ok(readFileSync(inner).equals(before));
  assert.deepEqual(readdirSync(evidence), ['inner.db']);
});

test('a file that looks like a half-written result is read and left as it is', () => {
  const path = join(folder, 'x.json.partial');
  copyFileSync(store, path);
  const before = readFileSync(path);
  const out = join(folder, 'x.json');
  assert.equal(examine(path, '--out', out, '--quiet').code, 0);
  assert.ok(readFileSync(path).equals(before));
  assert.equal(readdirSync(folder).filter((name) => /^\.x\.json/.test(name)).length, 0);
});

test('names that are no UTF-8, empty and damaged files and pipes hinder nothing', () => {
  const mixed = join(folder, 'mixed');
  mkdirSync(mixed);
  const bytes = readFileSync(store);
  writeFileSync(
    Buffer.concat([Buffer.from(`${mixed}/na`), Buffer.from([0xff]), Buffer.from('me.db')]),
    bytes
  );
  writeFileSync(join(mixed, 'empty.zip'), '');
  writeFileSync(join(mixed, 'cut.db'), bytes.subarray(0, 60));
  const out = join(folder, 'mixed.json');
  const run = examine(mixed, '--out', out, '--quiet');
  assert.equal(run.code, 0, run.stderr);
  const file = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));
  assert.equal(file.messages.length, 200);
  assert.equal(file.messages[0]!.proofs[0]!.path, 'na\\xffme.db');

  const pipe = join(folder, 'pipe');
  spawnSync('python3', ['-c', 'import os,sys; os.mkfifo(sys.argv[1])', pipe]);
  assert.equal(examine(pipe, '--out', out).code, 3);
});

test('a name with controls in it is told by their codes', () => {
  const named = write('a\u001b[2Jb\nc.db', 'nothing that is known, again and again and again');
  const { stderr } = examine(named, '--out', join(folder, 'named.json'));
  assert.match(stderr, /a\[U\+001B\]\[2Jb\[U\+000A\]c\.db/);
  assert.ok(!stderr.includes('\u001b'));
});
