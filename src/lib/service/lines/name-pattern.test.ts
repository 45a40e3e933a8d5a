import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { pathMatcher } from './name-pattern';

const PATH = 'card.img/partition 1/deleted/Backup/Messages (march).db';

for (const [query, isFound] of [
  ['', true],
  ['march', true],
  ['backup/messages', true],
  ['april', false],
  ['*.db', true],
  ['messages*.db', true],
  ['*.DB', true],
  ['*.d', false],
  ['essages*.db', false],
  ['messages (?arch).db', true],
  ['messages (??arch).db', false],
  ['backup/*.db', true],
  ['deleted/*.db', true],
  ['card.img/*.db', true],
  ['up/*.db', false],
  ['[m]essages*', false]
] as const)
  test(`${JSON.stringify(query)} ${isFound ? 'finds' : 'does not find'} the path`, () =>
    assert.equal(pathMatcher(query)(PATH), isFound));

test('any words are found in the path that they are of, and any pattern ends soon', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 30 }), fc.string({ maxLength: 10 }), (path, query) => {
      const words = query.replace(/[*?]/g, '').trim();
      assert.equal(pathMatcher(words)(`a/${path}${words}b`), true);
      pathMatcher(`${query}${'*'.repeat(20)}${query}`)('x'.repeat(2000));
    })
  );
});
