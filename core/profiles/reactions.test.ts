import assert from 'node:assert/strict';
import { test } from 'node:test';
import { storeMessage } from '../tests/store-messages';
import { foldReactions, react, type PendingReaction } from './reactions';
import type { StoreMessage } from './types';
import { Writers } from './stream';

function pending(
  target: string,
  address: string | null,
  text: string,
  at: number,
  more: Partial<PendingReaction> = {}
): PendingReaction {
  const line = storeMessage({ key: `r/${target}/${at}`, body: text, sentAt: at });
  return { target, reaction: { address, text, at }, removed: false, line, ...more };
}

function texts(message: StoreMessage): string[] {
  return message.reactions.map(({ text }) => text);
}

test('reactions stand on the message that they name, the last of each person', () => {
  const one = storeMessage({ unique: 'a' });
  const other = storeMessage({ unique: 'b' });
  const found = foldReactions(
    [one, other],
    [
      pending('a', '+1', 'laughs', 30),
      pending('a', '+1', 'hearts', 10),
      pending('a', null, 'likes', 20),
      pending('b', '+2', 'asks', 5)
    ]
  );
  assert.deepEqual(found, [one, other]);
  assert.deepEqual(texts(one), ['likes', 'laughs']);
  assert.deepEqual(texts(other), ['asks']);
});

test('one that was taken back goes, one that names nothing stays a line', () => {
  const one = storeMessage({ unique: 'a' });
  const lost = pending('gone', '+1', 'hearts', 3);
  const found = foldReactions(
    [one],
    [pending('a', '+1', 'hearts', 1), pending('a', '+1', 'hearts', 2, { removed: true }), lost]
  );
  assert.deepEqual(found, [one, lost.line]);
  assert.deepEqual(texts(one), []);
});

test('a deleted reaction says nothing of a live message, a live one does of a deleted message', () => {
  const live = storeMessage({ unique: 'a' });
  const freed = storeMessage({ unique: 'b', state: 'recovered' });
  const line = storeMessage({ state: 'recovered' });
  foldReactions(
    [live, freed],
    [
      pending('a', '+1', 'hearts', 1, { line }),
      pending('b', '+1', 'laughs', 1, { line }),
      pending('b', '+2', 'likes', 2)
    ]
  );
  assert.deepEqual(texts(live), []);
  assert.deepEqual(texts(freed), ['laughs', 'likes']);
});

test('the first of several messages with one name takes the reactions', () => {
  const first = storeMessage({ unique: 'a', key: 'x/1' });
  const copy = storeMessage({ unique: 'a', key: 'x/2' });
  foldReactions([first, copy], [pending('a', '+1', 'hearts', 1)]);
  assert.deepEqual([texts(first), texts(copy)], [['hearts'], []]);
});

test('taking back what is not there changes nothing', () => {
  const one = storeMessage({});
  react(one, { address: '+1', text: 'hearts', at: 1 }, true);
  react(one, { address: '+2', text: 'likes', at: 2 }, false);
  react(one, { address: '+1', text: 'likes', at: 3 }, true);
  assert.deepEqual(texts(one), ['likes']);
});

test('those who wrote in a conversation are its participants', () => {
  const writers = new Writers();
  const thread = { key: '7', participants: ['7'], peer: null, title: null, counted: null };
  for (const sender of ['+1', null, '', '+2', '+1']) writers.add(thread, sender);
  writers.tell(thread);
  assert.deepEqual(thread.participants, ['+1', '+2']);
  // What was told stays: lines of one conversation share it.
  writers.add(thread, '+3');
  writers.tell(thread);
  assert.deepEqual(thread.participants, ['+1', '+2']);
});

test('where nobody is known to have written, the title tells a conversation', () => {
  const writers = new Writers();
  const titled = { key: '8', participants: ['8'], peer: null, title: 'Crew', counted: null };
  const bare = { key: '9', participants: ['9'], peer: null, title: null, counted: null };
  writers.add(titled, null);
  writers.tell(titled);
  writers.tell(bare);
  assert.deepEqual([titled.participants, bare.participants], [['Crew'], ['9']]);
});
