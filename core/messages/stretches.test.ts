import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { LANES, Stretches, type Doer } from './stretches';

interface Done {
  order: number[];
  own: number[];
  most: number;
}

/** Does all work, the asking side's own at once, and tells who did what. */
async function run(
  count: number,
  doers: (held: { now: number }) => Doer<number>[],
  window: number
): Promise<Done> {
  const held = { now: 0 };
  const done: Done = { order: [], own: [], most: 0 };
  const here = (at: number): number => {
    done.own.push(at);
    held.now++;
    return at * 10;
  };
  for (const step of new Stretches(count, here, doers(held), window).inOrder()) {
    done.most = Math.max(done.most, held.now);
    if (step.type === 'wait') {
      await step.until;
      continue;
    }
    assert.equal(step.value, step.at * 10);
    held.now--;
    done.order.push(step.at);
    if (step.at % 3 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
  return done;
}

/** Answers after some turns of the event loop, and counts what waits to be taken. */
function doer(turns: readonly number[], held: { now: number }): Doer<number> {
  return async (at) => {
    for (let i = 0; i < (turns[at % turns.length] ?? 0); i++)
      await new Promise((resolve) => setTimeout(resolve));
    held.now++;
    return at * 10;
  };
}

const turns = fc.array(fc.nat(2), { minLength: 1, maxLength: 4 });

test('all stretches come once and in order, whoever did them and however long it took', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.nat(25),
      fc.array(turns, { maxLength: 3 }),
      fc.integer({ min: 1, max: 6 }),
      async (count, each, window) => {
        const { order, most } = await run(
          count,
          (held) => each.map((turns) => doer(turns, held)),
          window
        );
        assert.deepEqual(
          order,
          Array.from({ length: count }, (_, i) => i)
        );
        // The one whose turn it is, and those ahead of it.
        assert.ok(most <= window + 1, `${most} results were held`);
      }
    ),
    { numRuns: 40 }
  );
});

test('without others everything is done here', async () => {
  const { own } = await run(5, () => [], 4);
  assert.deepEqual(own, [0, 1, 2, 3, 4]);
});

test('this side works ahead while it would wait', async () => {
  let answer = (): void => undefined;
  const slow: Doer<number> = (at) => new Promise((resolve) => (answer = () => resolve(at * 10)));
  const own: number[] = [];
  const work = new Stretches(9, (at) => (own.push(at), at * 10), [slow], LANES + 1).inOrder();
  for (let i = 0; i < 3; i++) assert.equal(work.next().value!.type, 'wait');
  assert.deepEqual(own, [LANES, LANES + 1], 'none of the other, none past the window');
  answer();
  work.return(undefined);
});

test('others do a share, and this side another', async () => {
  const { own } = await run(40, (held) => [doer([1], held)], 4);
  assert.ok(own.length > 0 && own.length < 30, `${own.length} of 40 were done here`);
});

test('what fails elsewhere is done here, and who failed is asked no more', async () => {
  let asked = 0;
  const failing: Doer<number> = async () => {
    asked++;
    throw new Error('the thread died');
  };
  const { order, own } = await run(12, () => [failing], 4);
  assert.equal(order.length, 12);
  assert.equal(own.length, 12);
  assert.ok(asked <= LANES, `${asked} times asked`);
});
