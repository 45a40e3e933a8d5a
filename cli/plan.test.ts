import assert from 'node:assert/strict';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { ombudsman } from './ombudsman';
import { plan } from './plan';

const folder = mkdtempSync(join(tmpdir(), 'plan-'));
after(() => rmSync(folder, { recursive: true }));

function intake(name: string, document: unknown): string {
  const path = join(folder, name);
  writeFileSync(path, typeof document === 'string' ? document : JSON.stringify(document));
  return path;
}

const GOOD = {
  format: 'ombudsman-intake',
  version: 1,
  now: '2026-04-03T12:00:00Z',
  lost: { kinds: ['messages'], sentFrom: '2026-03-09', sentTo: '2026-03-14' },
  deleted: { from: '2026-03-29', to: '2026-04-01', how: 'whole-conversation' },
  copies: [{ id: 'b', kind: 'computer-backup', at: '2026-03-15', covers: ['messages'] }]
};

test('a plan is printed, or written to a file', async () => {
  const path = intake('good.json', GOOD);
  let printed = '';
  assert.equal(
    plan(path, null, (text) => (printed += text)),
    0
  );
  const told = JSON.parse(printed) as { routes: { copy: string; rank: number; verdict: string }[] };
  assert.deepEqual(
    told.routes.map(({ copy, rank, verdict }) => [copy, rank, verdict]),
    [['b', 1, 'contains']]
  );
  const out = join(folder, 'plan.json');
  assert.equal(await ombudsman(['plan', path, '--out', out]), 0);
  assert.equal(readFileSync(out, 'utf8'), printed);
});

test('what cannot be planned with ends with one sentence and the right code', () => {
  const cases: [string, number][] = [
    [intake('no.json', 'no json'), 2],
    [intake('format.json', { ...GOOD, format: 'else' }), 2],
    [join(folder, 'nowhere.json'), 3]
  ];
  for (const [path, code] of cases)
    assert.equal(
      plan(path, null, () => undefined),
      code,
      path
    );
  const good = intake('good.json', GOOD);
  assert.equal(plan(good, good), 2, 'an intake is not written over');
  assert.ok(existsSync(good));
});
