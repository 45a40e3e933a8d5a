import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import {
  applied,
  chosenOn,
  currentList,
  firstLists,
  inOrder,
  listsOfLines,
  type ExhibitChange,
  type ExhibitLists
} from '.';

function facts(): { groupOf: (id: string) => string; newId: () => string } {
  let n = 0;
  return { groupOf: (id) => id.split('/')[0]!, newId: () => `e${++n}` };
}

function after(changes: ExhibitChange[]): ExhibitLists {
  const known = facts();
  return changes.reduce((lists, change) => applied(lists, change, known), firstLists(known.newId));
}

function told(lists: ExhibitLists): string[] {
  return currentList(lists).entries.map(({ kind, ids }) => `${kind} ${ids.join(' ')}`);
}

test('lines of one conversation are one exhibit, and so are records of one kind', () => {
  const lists = after([
    { type: 'choose', kind: 'lines', ids: ['a/1', 'b/1', 'a/2'] },
    { type: 'choose', kind: 'calls', ids: ['c1'] },
    { type: 'choose', kind: 'lines', ids: ['a/2', 'a/3'] },
    { type: 'choose', kind: 'calls', ids: ['c2'] }
  ]);
  assert.deepEqual(told(lists), ['lines a/1 a/2 a/3', 'lines b/1', 'calls c1 c2']);
});

test('a closed exhibit takes no more, and an empty one goes', () => {
  const first = after([{ type: 'choose', kind: 'lines', ids: ['a/1'] }]);
  const [entry] = currentList(first).entries;
  const known = { ...facts(), newId: () => 'new' };
  const closed = applied(first, { type: 'close', entry: entry!.id, isClosed: true }, known);
  const more = applied(closed, { type: 'choose', kind: 'lines', ids: ['a/2'] }, known);
  assert.deepEqual(told(more), ['lines a/1', 'lines a/2']);
  assert.deepEqual(told(applied(more, { type: 'take-back', ids: ['a/1'] }, known)), ['lines a/2']);
  assert.deepEqual(told(first), ['lines a/1'], 'what was there is left as it is');
});

test('context is given to all exhibits of lines at once, but to those that are closed', () => {
  const lists = after([
    { type: 'choose', kind: 'lines', ids: ['a/5', 'b/2', 'c/1'] },
    { type: 'choose', kind: 'gaps', ids: ['g'] }
  ]);
  const [, second] = currentList(lists).entries;
  const changes: ExhibitChange[] = [
    { type: 'close', entry: second!.id, isClosed: true },
    { type: 'context', entry: null, lines: 3 }
  ];
  const done = changes.reduce((kept, change) => applied(kept, change, facts()), lists);
  assert.deepEqual(
    currentList(done).entries.map(({ kind, context }) => `${kind} ${context}`),
    ['lines 3', 'lines 0', 'lines 3', 'gaps 0']
  );
});

test('exhibits are named, trimmed, given context, arranged by hand and by time', () => {
  const lists = after([
    { type: 'choose', kind: 'lines', ids: ['a/5', 'b/2'] },
    { type: 'choose', kind: 'gaps', ids: ['g'] }
  ]);
  const known = facts();
  const [a, b, gap] = currentList(lists).entries.map(({ id }) => id);
  const changes: ExhibitChange[] = [
    { type: 'name', entry: a!, name: '  The offer ' },
    { type: 'context', entry: a!, lines: 70 },
    { type: 'trim', entry: b!, from: '2026-03-01', to: null },
    { type: 'arrange', entries: [gap!, b!, a!] }
  ];
  const done = changes.reduce((kept, change) => applied(kept, change, known), lists);
  const [first, second, third] = currentList(done).entries;
  assert.deepEqual(
    [first!.kind, second!.from, third!.name, third!.context],
    ['gaps', '2026-03-01', 'The offer', 50]
  );
  const moments = (entry: { ids: string[] }): number | null =>
    entry.ids[0] === 'g' ? null : Number(entry.ids[0]!.slice(2));
  const byTime = applied(done, { type: 'order', by: 'time' }, known);
  assert.deepEqual(
    inOrder(currentList(byTime), moments).map(({ ids }) => ids[0]),
    ['b/2', 'a/5', 'g']
  );
  assert.deepEqual(
    inOrder(currentList(done), moments).map(({ ids }) => ids[0]),
    ['g', 'b/2', 'a/5']
  );
});

test('several lists stand side by side; the last one that is dropped leaves an empty one', () => {
  const lists = after([
    { type: 'choose', kind: 'lines', ids: ['a/1'] },
    { type: 'add-list', name: 'For the other side' },
    { type: 'choose', kind: 'lines', ids: ['b/1'] }
  ]);
  assert.deepEqual(told(lists), ['lines b/1']);
  const known = facts();
  const back = applied(lists, { type: 'use-list', list: lists.lists[0]!.id }, known);
  assert.deepEqual(told(back), ['lines a/1']);
  const dropped = applied(
    applied(back, { type: 'drop-list' }, known),
    { type: 'drop-list' },
    known
  );
  assert.deepEqual([dropped.lists.length, told(dropped)], [1, []]);
});

test('whatever is chosen and taken back, a record is on a list once or not at all', () => {
  const id = fc.constantFrom('a/1', 'a/2', 'a/3', 'b/1', 'b/2');
  const change = fc.oneof(
    fc.array(id).map((ids): ExhibitChange => ({ type: 'choose', kind: 'lines', ids })),
    fc.array(id).map((ids): ExhibitChange => ({ type: 'take-back', ids })),
    fc.nat(5).map((n): ExhibitChange => ({ type: 'close', entry: `e${n}`, isClosed: n % 2 === 0 }))
  );
  fc.assert(
    fc.property(fc.array(change, { maxLength: 30 }), (changes) => {
      const expected = new Set<string>();
      for (const one of changes) {
        if (one.type === 'choose') for (const chosen of one.ids) expected.add(chosen);
        if (one.type === 'take-back') for (const gone of one.ids) expected.delete(gone);
      }
      const list = currentList(after(changes));
      assert.deepEqual(chosenOn(list), new Set([...chosenOn(list)].filter((x) => expected.has(x))));
      assert.equal(list.entries.flatMap(({ ids }) => ids).length, expected.size);
      assert.ok(list.entries.every(({ ids }) => ids.length > 0));
    })
  );
});

test('a list of lines without exhibits becomes exhibits', () => {
  assert.deepEqual(told(listsOfLines(['a/1', 'b/1', 'a/2'], facts())), [
    'lines a/1 a/2',
    'lines b/1'
  ]);
});
