import assert from 'node:assert/strict';
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, beforeEach, mock, test } from 'node:test';
import { COPY_DEPTHS, CopyError, type CopyDepth } from '../../core/acquire';
import { BENCH, HANDSETS } from '../../demo/devices';
import { BenchRefusal, Handset, type BenchDevice } from '../index';

const folder = mkdtempSync(join(tmpdir(), 'handsets-'));
process.env.XDG_STATE_HOME = folder;
after(() => rmSync(folder, { recursive: true }));
beforeEach(() => BENCH.forEach((device) => device.reset()));

const tern = BENCH.find(({ id }) => id === 'tern-4')!;

async function states(device: BenchDevice, depth: CopyDepth): Promise<Record<string, string>> {
  const { needs } = await device.view();
  return Object.fromEntries(needs[depth].map(({ id, state }) => [id, state]));
}

test('two families, four models of different age, and their first state', async () => {
  assert.equal(new Set(HANDSETS.map(({ family }) => family)).size, 2);
  assert.equal(new Set(HANDSETS.map(({ model }) => model)).size, 4);
  assert.deepEqual(await states(tern, 'file-system'), {
    'data-cable': 'missing',
    battery: 'holds',
    unlocked: 'holds',
    developer: 'missing',
    'let-in': 'missing',
    authorised: 'missing',
    elevated: 'missing'
  });
  const logical = await states(tern, 'logical');
  assert.deepEqual([logical.authorised, logical.elevated], ['not-needed', 'not-needed']);
});

test('each thing that is missing can be mended, and then the copy may begin', async () => {
  for (const model of HANDSETS) {
    const device = BENCH.find(({ id }) => id === model.id)!;
    for (const depth of COPY_DEPTHS.filter((one) => !model.without[one])) {
      device.reset();
      await assert.rejects(device.wire({ depth, kinds: null }, false).list(), CopyError);
      await device.prepare(depth, model.passcode);
      const { files } = await device.wire({ depth, kinds: null }, false).list();
      assert.ok(files.length > 0);
    }
  }
});

test('a question that nobody answers goes away, and is not held for a refusal', async () => {
  await tern.act({ act: 'change-cable' });
  mock.timers.enable({ apis: ['Date'], now: Date.now() });
  try {
    await tern.act({ act: 'ask-let-in' });
    assert.equal((await states(tern, 'logical'))['let-in'], 'asked');
    assert.ok((await tern.view()).question);
    mock.timers.tick(30_001);
    assert.equal((await states(tern, 'logical'))['let-in'], 'unanswered');
    assert.equal((await tern.view()).question, null);
    await tern.act({ act: 'ask-let-in' });
    await tern.act({ act: 'refuse' });
    assert.equal((await states(tern, 'logical'))['let-in'], 'missing');
  } finally {
    mock.timers.reset();
  }
});

test('what cannot be done is refused in a sentence', async () => {
  const refused: [string, string | undefined, RegExp][] = [
    ['ask-let-in', undefined, /unlocked and plugged in/],
    ['allow', '250817', /not asking anything/],
    ['unlock', '', /wants its passcode/],
    ['unlock', '1', /4 tries are left/],
    ['arm', 'flood', /no fault/],
    ['undo-put', undefined, /Nothing was put back/],
    ['dance', undefined, /cannot do/]
  ];
  for (const [act, value, told] of refused) {
    const doing = async (): Promise<void> => tern.act({ act, value });
    await assert.rejects(doing, (error: BenchRefusal) => told.test(error.message), act);
  }
});

test('only some kinds of data are copied, and another choice is another state', async () => {
  await tern.prepare('logical', '250817');
  const listing = async (kinds: string[] | null) =>
    tern.wire({ depth: 'logical', kinds }, false).list();
  const [all, some] = [await listing(null), await listing(['calls'])];
  assert.ok(some.files[0]!.size < all.files[0]!.size / 2);
  assert.notEqual(some.state, all.state);
});

test('what happened to a device is kept for the next process, and only where it belongs', async () => {
  await tern.act({ act: 'change-cable' });
  const again = new Handset(HANDSETS.find(({ id }) => id === 'tern-4')!);
  assert.equal((await states(again, 'logical'))['data-cable'], 'holds');
  assert.deepEqual(readdirSync(join(folder, 'ombudsman', 'bench')), ['tern-4']);
});

test('what was remembered and does not read is put aside and told, and hides no other device', async () => {
  await tern.act({ act: 'change-cable' });
  writeFileSync(join(folder, 'ombudsman', 'bench', 'tern-4', 'state.json'), '{ "plugged": tr');
  const { done } = await tern.view();
  assert.match(done[done.length - 1]!.text, /could not be read and was put aside/);
  assert.ok(existsSync(join(folder, 'ombudsman', 'bench', 'tern-4', 'state.json.unreadable')));
  assert.equal((await states(tern, 'logical'))['data-cable'], 'missing');
});
