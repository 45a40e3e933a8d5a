import 'fake-indexeddb/auto';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { CaseExhibits } from './exhibits';

async function exhibitsOf(caseId: string): Promise<CaseExhibits> {
  const exhibits = new CaseExhibits(caseId, async () => new Map());
  await exhibits.load();
  return exhibits;
}

const covering = (message: string): Parameters<CaseExhibits['redact']>[0] => [
  { message, whole: true, code: 'ID' }
];

test('what was asked for before holds for what is asked next, whether it is written by then or not', async () => {
  const exhibits = await exhibitsOf('c1');
  const asked = [
    exhibits.redact(covering('m1'), 1),
    exhibits.setReasons([{ code: 'ID', reason: 'a third person' }]),
    exhibits.redact(covering('m2'), 2)
  ];
  assert.equal(exhibits.redactions.length, 0, 'nothing is written at once');
  await exhibits.settled();
  assert.deepEqual(exhibits.redactions, [...covering('m1'), ...covering('m2')]);
  assert.deepEqual(exhibits.reasons, [{ code: 'ID', reason: 'a third person' }]);
  await Promise.all(asked);
  const again = await exhibitsOf('c1');
  assert.deepEqual(again.redactions, exhibits.redactions);
});

test('a redaction that is taken back leaves the others, and another case its own', async () => {
  const exhibits = await exhibitsOf('c2');
  for (const message of ['m1', 'm2', 'm1']) await exhibits.redact(covering(message), 1);
  await exhibits.takeBack(covering('m1')[0]!);
  assert.deepEqual(
    exhibits.redactions.flatMap((one) => ('message' in one ? [one.message] : [])),
    ['m2', 'm1']
  );
  assert.equal((await exhibitsOf('c3')).redactions.length, 0);
});
