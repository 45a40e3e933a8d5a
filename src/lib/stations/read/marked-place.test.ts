import assert from 'node:assert/strict';
import { test } from 'node:test';
import { placeIn } from './marked-place';

test('marked words are found where they were marked, not where they stand first', () => {
  const body = 'key by the key shed';
  assert.deepEqual(placeIn(body, { text: 'key', before: 'key by the ' }), { from: 11, to: 14 });
  assert.deepEqual(placeIn(body, { text: 'key', before: '' }), { from: 0, to: 3 });
});

test('the sign that stands where a file belongs takes the place of one', () => {
  const body = '\ufffclook at the shed';
  const marked = { text: 'shed', before: '\u2060look at the ' };
  assert.deepEqual(placeIn(body, marked), { from: 13, to: 17 });
  assert.deepEqual(placeIn(body, { text: '\u2060look', before: '' }), { from: 0, to: 5 });
});

test('where a character is drawn otherwise the words are looked for', () => {
  const body = 'bell\u0007 and the shed';
  assert.deepEqual(placeIn(body, { text: 'shed', before: 'bell[U+0007] and the ' }), {
    from: 14,
    to: 18
  });
  assert.equal(placeIn(body, { text: 'yard', before: '' }), null);
  assert.equal(placeIn(body, { text: '', before: '' }), null);
});
