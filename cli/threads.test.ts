import assert from 'node:assert/strict';
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { after, test } from 'node:test';
import { writeBackup } from '../bench/writers/backup';
import { caseFileSchema, messageJson } from '../core/records';
import { passOver } from '../core/tests/pass';
import { makeLargeStore } from '../measure/make-large';
import { MOST_HELD } from './examine';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true }));

/** Large enough to be hashed, searched and written by several threads, and to leave as a stream. */
const MEBIBYTES = 22;

test('the command with its threads tells what one thread tells, record by record', async () => {
  const store = join(folder, 'messages.db');
  const count = await makeLargeStore(store, MEBIBYTES);
  const out = join(folder, 'case.json');
  const script = join(import.meta.dirname, '../scripts/examine.mjs');
  const run = spawnSync(process.execPath, [script, store, '--out', out, '--quiet'], {
    encoding: 'utf8'
  });
  assert.equal(run.status, 0, run.stderr);
  const file = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));

  const bytes = readFileSync(store);
  const alone = await passOver({ 'messages.db': bytes }, { mostHeld: MOST_HELD });
  assert.equal(file.sources[0]!.sha256, createHash('sha256').update(bytes).digest('hex'));
  assert.deepEqual(file.stores[0]!.counts, alone.findings.stores[0]!.counts);
  assert.equal(file.messages.length, alone.findings.messages.length);
  assert.ok(file.messages.length > count * 0.99, `${file.messages.length} of ${count}`);

  const expected = new Map(alone.findings.messages.map((m) => [m.id, JSON.parse(messageJson(m))]));
  for (const message of file.messages) assert.deepEqual(message, expected.get(message.id));
  assert.equal(file.gaps.length, alone.findings.gaps.length);
});

test('a store in a tar, in a backup and in a locked one tells what it tells alone', async () => {
  const store = join(folder, 'inner.db');
  await makeLargeStore(store, MEBIBYTES);
  const tar = join(folder, 'inner.tar');
  execFileSync('tar', ['-cf', tar, '-C', folder, 'inner.db']);
  const [first, ...others] = [
    store,
    tar,
    backup('plain', store),
    backup('locked', store, 'low tide')
  ].map((path) => {
    const out = join(folder, 'inner.json');
    const keys = join(folder, 'keys.txt');
    writeFileSync(keys, 'low tide');
    const script = join(import.meta.dirname, '../scripts/examine.mjs');
    const args = [script, path, '--out', out, '--key-file', keys, '--want', 'messages', '--quiet'];
    const run = spawnSync(process.execPath, args, { encoding: 'utf8' });
    assert.equal(run.status, 0, run.stderr);
    const { messages, stores } = caseFileSchema.parse(JSON.parse(readFileSync(out, 'utf8')));
    const said = messages.map(({ body, sentAt, state, certainty, proofs }) =>
      JSON.stringify([body, sentAt, state, certainty, proofs.map(({ offset }) => offset)])
    );
    return { counts: stores[0]!.counts, said: said.sort() };
  });
  assert.ok(first!.counts.recovered > 1000, JSON.stringify(first!.counts));
  for (const other of others) assert.deepEqual(other, first);
});

/** A backup with one store in it, locked where there is a password. */
function backup(name: string, store: string, password?: string): string {
  const root = join(folder, name);
  const at = new Date('2026-04-11T00:00:00Z');
  const device = { name, model: 'Pocket 5', system: '18.2', serial: 'X', phone: '', at };
  const files = writeBackup({
    layout: 'database',
    device,
    files: [{ domain: 'HomeDomain', path: 'inner.db', bytes: readFileSync(store), modifiedAt: 0 }],
    random: randomBytes,
    ...(password ? { password, rounds: 1000 } : {})
  });
  for (const [path, bytes] of Object.entries(files)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), bytes);
  }
  return root;
}
