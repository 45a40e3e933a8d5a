import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { SharedWork, type PartDoer } from './shared-work';

/** Does everything that is left in this thread, resting after each part; gives the order in which it did it. */
async function doRest(work: SharedWork<string>): Promise<number[]> {
  const own: number[] = [];
  const doOne = async (part: number): Promise<void> => {
    own.push(part);
    work.found[part] ??= `own ${part}`;
    await Promise.resolve();
  };
  for (let part = work.next(); part >= 0; part = work.next()) await doOne(part);
  for (let part = work.unfinished(); part >= 0; part = work.unfinished()) await doOne(part);
  return own;
}

test('every part is done, whoever does it and whoever fails', async () => {
  const kinds = fc.array(fc.constantFrom('quick', 'slow', 'dies', 'never'), { maxLength: 3 });
  await fc.assert(
    fc.asyncProperty(fc.nat(40), kinds, async (count, doers) => {
      const work = new SharedWork<string>(
        count,
        doers.map((kind): PartDoer<string> => async (part) => {
          if (kind === 'dies' && part % 2 === 1) throw new Error('the thread died');
          if (kind === 'never') await new Promise(() => undefined);
          if (kind === 'slow') await new Promise((resolve) => setTimeout(resolve));
          return `${kind} ${part}`;
        })
      );
      await doRest(work);
      assert.equal(work.found.length, count);
      work.found.forEach((value, part) => assert.match(value!, new RegExp(` ${part}$`)));
    })
  );
});

test('what others took and did not give back is done last, the last of it first', async () => {
  const never: PartDoer<string> = () => new Promise(() => undefined);
  const own = await doRest(new SharedWork<string>(10, [never]));
  const taken = 10 - own.indexOf(9);
  assert.ok(taken > 1, 'the other took some');
  assert.deepEqual(
    own.slice(-taken),
    [...own.slice(-taken)].sort((a, b) => b - a)
  );
});
