import assert from 'node:assert/strict';
import { test } from 'node:test';
import { setTimeout as wait } from 'node:timers/promises';
import { messageRecord } from '../../../../core/tests/records';
import { findingsOf, keptCase } from '../tests/kept-case';
import { TextHolder } from './text-holder';

async function holderOver(bodies: string[]): Promise<TextHolder> {
  const messages = bodies.map((body, n) =>
    messageRecord({ id: `a/m/${n}`, store: 'a', thread: 'a/t/x', sentAt: 1000 * n, body })
  );
  const { keeper } = await keptCase([findingsOf('a', { messages })]);
  const holder = new TextHolder();
  holder.hold(
    keeper.index.stores.map(({ record }) => record),
    0,
    1
  );
  return holder;
}

test('a search is not over before what it found has arrived, however long that takes', async () => {
  const holder = await holderOver(['the slip', 'nothing', 'this is the slip again']);
  const arrived: number[] = [];
  await holder.tell('the slip', async (found) => {
    await wait(50);
    for (const { rows } of found) arrived.push(...rows);
  });
  assert.deepEqual(arrived, [0, 2]);
});

test('a search that another one follows gives no more than it has', async () => {
  const holder = await holderOver(['the slip']);
  const told: string[] = [];
  await Promise.all([
    holder.tell('slip', () => told.push('first')),
    holder.tell('the', () => told.push('second'))
  ]);
  assert.ok(told.includes('second'));
});
