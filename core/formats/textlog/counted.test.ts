import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { readLog } from '.';

function entries(text: string, zone = 'Etc/UTC'): string[] | null {
  const log = readLog(Buffer.from(text), 'history/ansel.history', zone);
  return (
    log?.entries.map(
      ({ at, side, sender, text: said }) =>
        `${new Date(at!).toISOString().slice(0, 19)}|${side ?? '-'}|${sender ?? ''}|${said}`
    ) ?? null
  );
}

test('an entry takes the lines that it counts, whatever they look like', () => {
  const text = [
    'MR 20240603T09:00:20Z 002 first',
    'MS 20240603T09:00:21Z 000 which only looks like an entry',
    'third',
    'MS 20240603T21:59:56Z 000 short',
    'MI 20240603T22:00:00Z 000 is away',
    'MR 20240604T01:42:04+02:00 001 <Tilda> in a room',
    '',
    'MS 20240604T01:43:00Z 000 '
  ].join('\n');
  assert.deepEqual(entries(text), [
    '2024-06-03T09:00:20|incoming||first\nMS 20240603T09:00:21Z 000 which only looks like an entry\nthird',
    '2024-06-03T21:59:56|outgoing||short',
    '2024-06-03T22:00:00|-||is away',
    '2024-06-03T23:42:04|incoming|Tilda|in a room\n',
    '2024-06-04T01:43:00|outgoing||'
  ]);
});

test('times without a zone are those of the case; kinds in words tell the side too', () => {
  const text = [
    'in 2024-06-03 09:00:20 01 hello',
    'and more',
    'out 2024-06-03 09:01:00 00 yes',
    'in 2024-06-03 09:02:00 00 no'
  ].join('\n');
  assert.deepEqual(entries(text, 'Europe/Oslo'), [
    '2024-06-03T07:00:20|incoming||hello\nand more',
    '2024-06-03T07:01:00|outgoing||yes',
    '2024-06-03T07:02:00|incoming||no'
  ]);
});

test('lines with a number that counts nothing are left to other readers', () => {
  const text = ['Tilda', 'Ansel', 'Tilda', 'Birk']
    .map((name, i) => `${name} 2024-06-03 09:0${i}:00 ${i + 3} boats came`)
    .join('\n');
  assert.equal(entries(text)?.some((line) => line.includes('incoming')) ?? false, false);
});

test('whatever was written comes back, each entry with its bytes', () => {
  const line = fc
    .string({ maxLength: 40 })
    .map((text) => text.replace(/[\r\n\0\ufeff\u2028\u2029\v\f\x85<]/g, ' '));
  const entry = fc.record({
    own: fc.boolean(),
    second: fc.integer({ min: 0, max: 59 }),
    lines: fc.array(line, { minLength: 1, maxLength: 4 })
  });
  fc.assert(
    fc.property(fc.array(entry, { minLength: 3, maxLength: 15 }), (written) => {
      const blocks = written.map(({ own, second, lines }, i) => {
        const [first, ...more] = lines;
        const count = String(more.length).padStart(3, '0');
        const at = `20240603T09:${String(i).padStart(2, '0')}:${String(second).padStart(2, '0')}Z`;
        return `${own ? 'MS' : 'MR'} ${at} ${count} ${[first, ...more].join('\n')}`;
      });
      const bytes = Buffer.from(`${blocks.join('\n')}\n`);
      const log = readLog(bytes, 'a.history', 'Etc/UTC');
      assert.ok(log);
      assert.equal(log.entries.length, written.length);
      log.entries.forEach(({ side, text, sender, offset, length }, i) => {
        const { own, lines } = written[i]!;
        assert.equal(side, own ? 'outgoing' : 'incoming');
        assert.equal(text, lines.join('\n'));
        assert.equal(sender, null);
        assert.equal(bytes.subarray(offset, offset + length).toString(), blocks[i]);
      });
    }),
    { numRuns: 60 }
  );
});
