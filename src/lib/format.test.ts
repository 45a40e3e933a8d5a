import assert from 'node:assert/strict';
import { test } from 'node:test';
import { bytes, count, date, duration, errorText, plural, shortHash, zoneLabel } from './format';

test('numbers, sizes and times are written for people', () => {
  assert.equal(count(1234567), '1,234,567');
  assert.deepEqual(
    [0, 1, 2].map((n) => plural(n, 'line')),
    ['0 lines', '1 line', '2 lines']
  );
  assert.equal(plural(2, 'copy', 'copies'), '2 copies');
  const sizes: [number, string][] = [
    [1, '1 byte'],
    [999, '999 bytes'],
    [1000, '1.0 kB'],
    [1_234_000, '1.2 MB'],
    [5_600_000_000, '5.6 GB']
  ];
  for (const [size, text] of sizes) assert.equal(bytes(size), text);
  const times: [number, string][] = [
    [0, '1 s left'],
    [89, '89 s left'],
    [90, '2 min left'],
    [5399, '90 min left'],
    [5400, '1.5 h left']
  ];
  for (const [seconds, text] of times) assert.equal(duration(seconds), text);
  assert.equal(date(Date.UTC(2026, 2, 12, 12)), '12 Mar 2026');
});

test('a checksum is told by its ends', () => {
  assert.equal(shortHash('7afbb3c2e2a1466c09b015eae1f7502855f0'), '7afb b3c2 … 55f0');
  assert.equal(shortHash(''), '');
});

test('a zone is named with its offset of the day', () => {
  const winter = Date.UTC(2026, 0, 5);
  assert.equal(zoneLabel('Europe/Oslo', winter), 'Europe/Oslo, UTC+1');
  assert.equal(zoneLabel('Europe/Oslo', Date.UTC(2026, 6, 5)), 'Europe/Oslo, UTC+2');
  assert.equal(zoneLabel('Atlantic/Reykjavik', winter), 'Atlantic/Reykjavik, UTC+0');
  for (const zone of ['UTC', 'Etc/UTC']) assert.equal(zoneLabel(zone, winter), 'UTC');
});

test('what was thrown is told in its own words', () => {
  assert.equal(errorText(new Error('the file is cut')), 'the file is cut');
  assert.equal(errorText('stopped'), 'stopped');
});
