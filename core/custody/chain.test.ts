import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { brokenEntry, brokenLink, chained, withheld, type CustodyEntry } from '.';

function log(length: number, salt = ''): CustodyEntry[] {
  const entries: CustodyEntry[] = [];
  for (let i = 0; i < length; i++) {
    const act = { at: `2026-11-27T10:0${i}:00Z`, what: 'chosen', detail: { count: i } };
    entries.push(chained(act, entries.at(-1) ?? null, salt));
  }
  return entries;
}

const written = (entries: readonly CustodyEntry[]): string =>
  entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');

test('a hash can be made again by anyone, as the documents say', () => {
  const [first, second] = log(2, 'a1b2');
  const sum = (value: unknown): string =>
    createHash('sha256').update(JSON.stringify(value)).digest('hex');
  const { n, at, what, salt, detail, before } = second!;
  assert.equal(before, first!.hash);
  assert.equal(second!.hash, sum({ n, at, what, detail: sum([salt, detail]), before }));
});

test('details can be withheld, and the chain holds; what was withheld cannot be exchanged', () => {
  const entries = log(4, 'a1b2');
  const extract = entries.map((entry, i) => (i % 2 === 0 ? withheld(entry) : entry));
  assert.equal(brokenLink(written(extract)), null);
  assert.equal(extract[0]!.salt, undefined);
  assert.deepEqual(withheld(extract[0]!), extract[0]);
  const forged = extract.map((entry, i) =>
    i === 2 ? { ...entry, withheld: '0'.repeat(64) } : entry
  );
  assert.equal(brokenEntry(forged)?.line, 3);
});

test('an entry that is changed, left out or put elsewhere breaks the chain where it was', () => {
  const entries = log(4);
  const changed = entries.map((entry, i) => (i === 1 ? { ...entry, detail: { count: 9 } } : entry));
  assert.equal(brokenEntry(changed)?.line, 2);
  assert.equal(brokenEntry(entries.filter((_, i) => i !== 2))?.line, 3);
  assert.equal(brokenEntry([entries[1]!, entries[0]!])?.line, 1);
  assert.equal(brokenLink('{"n":1}\n')?.line, 1);
  assert.equal(brokenLink('null\n')?.line, 1);
});

test('logs of the first packages still hold', () => {
  const act = { n: 1, at: '2026-11-27T10:00:00Z', what: 'source', detail: { name: 'phone' } };
  const before = '0'.repeat(64);
  const hash = createHash('sha256')
    .update(JSON.stringify({ ...act, before }))
    .digest('hex');
  assert.equal(brokenEntry([{ ...act, before, hash }]), null);
  assert.equal(brokenEntry([{ ...act, detail: { name: 'tablet' }, before, hash }])?.line, 1);
});
