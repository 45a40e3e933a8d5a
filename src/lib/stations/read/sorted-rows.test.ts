import assert from 'node:assert/strict';
import { test } from 'node:test';
import { nextOrder, sortedRows, type Sorter } from './sorted-rows';

interface Row {
  name: string;
  bytes: number | null;
}
const ROWS: Row[] = [
  { name: 'b10', bytes: 5 },
  { name: 'b9', bytes: null },
  { name: 'a', bytes: 70 }
];
const SORTERS: Sorter<Row>[] = [(row) => row.name, (row) => row.bytes, null];

function names(rows: readonly Row[]): string {
  return rows.map(({ name }) => name).join(' ');
}

test('texts stand by the numbers in them, numbers by their value, the unknown last', () => {
  assert.equal(names(sortedRows(ROWS, SORTERS, { column: 0, isDown: false })), 'a b9 b10');
  assert.equal(names(sortedRows(ROWS, SORTERS, { column: 0, isDown: true })), 'b10 b9 a');
  assert.equal(names(sortedRows(ROWS, SORTERS, { column: 1, isDown: false })), 'b10 a b9');
  assert.equal(names(sortedRows(ROWS, SORTERS, { column: 1, isDown: true })), 'a b10 b9');
});

test('without an order, or by a column that has none, rows stay as they were', () => {
  for (const order of [null, { column: 2, isDown: false }])
    assert.equal(names(sortedRows(ROWS, SORTERS, order)), 'b10 b9 a');
});

test('a heading orders up, then down, then not at all', () => {
  const up = nextOrder(null, 1);
  assert.deepEqual(up, { column: 1, isDown: false });
  const down = nextOrder(up, 1);
  assert.deepEqual(down, { column: 1, isDown: true });
  assert.equal(nextOrder(down, 1), null);
  assert.deepEqual(nextOrder(down, 0), { column: 0, isDown: false });
});

test('rows of one value keep the order that they had, whichever way they are sorted', () => {
  const rows = ['first', 'second', 'third'].map((name): Row => ({ name, bytes: 1 }));
  for (const isDown of [false, true])
    assert.equal(names(sortedRows(rows, SORTERS, { column: 1, isDown })), 'first second third');
});
