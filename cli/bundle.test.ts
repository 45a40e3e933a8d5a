import assert from 'node:assert/strict';
import { spawnSync } from 'node:child_process';
import {
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { makeDatabase } from '../core/tests/databases';
import { toCaseFile } from '../core/records';
import { caseWithSamples } from '../core/tests/samples';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../core/tests/telephony';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true }));

const project = join(import.meta.dirname, '..');

test('the command runs where nothing was built before', () => {
  const own = ['fonts', 'core', 'cli', 'bench', 'demo', 'scripts'];
  own.push('package.json', 'package-lock.json', 'tsconfig.json');
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

test('the bundled program locks pages, converts every kind of file and checks what it made', () => {
  const made = caseWithSamples(false);
  const given = mkdtempSync(join(tmpdir(), 'bundled-'));
  const at = (name: string): string => join(given, name);
  try {
    const document = toCaseFile(made.sources, made.findings, [], new Date(0), 'Europe/Oslo');
    writeFileSync(at('case.json'), JSON.stringify(document));
    writeFileSync(
      at('settings.json'),
      JSON.stringify({
        formats: ['pdf', 'html', 'xlsx', 'ics', 'vcf', 'mbox', 'media'],
        pdf: { password: 'sesame' }
      })
    );
    mkdirSync(at('files'));
    for (const [sum, bytes] of made.files) writeFileSync(join(at('files'), sum), bytes);
    const program = (...args: string[]): string => {
      const run = spawnSync(process.execPath, ['scripts/ombudsman.mjs', ...args], {
        cwd: folder,
        env: { ...process.env, INIT_CWD: folder },
        encoding: 'utf8'
      });
      assert.equal(run.status, 0, run.stderr.slice(0, 2000));
      return run.stdout;
    };
    const [settings, files, out] = [at('settings.json'), at('files'), at('out')];
    program(
      'produce',
      at('case.json'),
      '--out',
      out,
      '--settings',
      settings,
      '--attachments',
      files,
      '--quiet'
    );
    const copies = readdirSync(join(out, 'data/media/readable')).map((name) => name.slice(-3));
    assert.deepEqual(copies.sort(), ['jpg', 'jpg', 'jpg', 'wav', 'wav', 'wav']);
    const pdf = join(out, 'data/record.pdf');
    assert.notEqual(spawnSync('qpdf', ['--check', pdf]).status, 0, 'it asks for its password');
    assert.equal(spawnSync('qpdf', ['--password=sesame', '--check', pdf]).status, 0);
    assert.match(program('verify', out), /"ok": true/);
  } finally {
    rmSync(given, { recursive: true });
  }
});
