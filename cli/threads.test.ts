import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
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
