import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { makeDatabase } from '../core/tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true }));

const project = join(import.meta.dirname, '..');

test('the command runs where nothing was built before', () => {
  const own = ['core', 'cli', 'scripts', 'package.json', 'package-lock.json', 'tsconfig.json'];
  for (const name of own) cpSync(join(project, name), join(folder, name), { recursive: true });
  symlinkSync(join(project, 'node_modules'), join(folder, 'node_modules'));
  const store = makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, messages(20, seeded(1)));
  });
  writeFileSync(join(folder, 'store.db'), store);

  const args = ['scripts/examine.mjs', 'store.db', '--out', 'case.json', '--quiet'];
  const env = { ...process.env, INIT_CWD: folder };
  const run = spawnSync(process.execPath, args, { cwd: folder, env, encoding: 'utf8' });
  assert.equal(run.status, 0, run.stderr);
  const file = JSON.parse(readFileSync(join(folder, 'case.json'), 'utf8'));
  assert.equal(file.messages.length, 20);
});
