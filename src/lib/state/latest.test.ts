import assert from 'node:assert/strict';
import { test } from 'node:test';
import { answersFor, latest } from './latest';

/** An answer that comes when it is told to. */
function later<T>(): { promise: Promise<T>; come: (value: T) => void; fail: (why: Error) => void } {
  let come!: (value: T) => void;
  let fail!: (why: Error) => void;
  const promise = new Promise<T>((resolve, reject) => ([come, fail] = [resolve, reject]));
  return { promise, come, fail };
}

const settled = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

test('what was asked first and answered last is not shown', async () => {
  const shown: string[] = [];
  const last = latest();
  const [first, second] = [later<string>(), later<string>()];
  const waits = [first, second].map(({ promise }) => last(promise, (value) => shown.push(value)));
  second.come('second');
  await waits[1];
  first.come('first');
  await waits[0];
  assert.deepEqual(shown, ['second']);
});

test('answers come in their order where nothing was asked meanwhile', async () => {
  const shown: number[] = [];
  const last = latest();
  for (const value of [1, 2, 3]) await last(Promise.resolve(value), (told) => shown.push(told));
  assert.deepEqual(shown, [1, 2, 3]);
});

test('where asking fails the view says so and keeps what it showed', async () => {
  const view = { failure: null as string | null };
  let shown = '';
  const answers = answersFor(() => view);
  answers(Promise.resolve('a'), (value) => (shown = value));
  await settled();
  answers(Promise.reject<string>(new Error('the store is closed')), (value) => (shown = value));
  await settled();
  assert.equal(shown, 'a');
  assert.match(view.failure!, /the store is closed/);
});

test('two views of one case do not take each other’s answers for late', async () => {
  const view = { failure: null as string | null };
  const shown: string[] = [];
  const [one, other] = [answersFor(() => view), answersFor(() => view)];
  const slow = later<string>();
  one(slow.promise, (value) => shown.push(value));
  other(Promise.resolve('other'), (value) => shown.push(value));
  await settled();
  slow.come('one');
  await settled();
  assert.deepEqual(shown, ['other', 'one']);
});
