import assert from 'node:assert/strict';
import { test } from 'node:test';
import { passOver } from '../../tests/pass';
import { ZONE } from '../../tests/unknown/build';
import { isRight, judge } from '../../tests/unknown/judge';
import { builtLogs, LOG_FAMILIES } from '../../tests/unknown/logs';
import { placeOf } from './conversation';

for (const family of LOG_FAMILIES) {
  test(`logs are read right: ${family.label}`, async () => {
    const { talk, files } = builtLogs(family, 47);
    const result = await passOver(files, { zone: ZONE });
    const verdict = judge({ live: talk.said, deleted: [] }, result);
    assert.ok(isRight(verdict), JSON.stringify(verdict));
    for (const { proofs } of result.findings.messages)
      for (const { path, offset, length } of proofs)
        assert.ok(offset >= 0 && length > 0 && offset + length <= files[path]!.length);
  });
}

test('the place of a log says of which conversation it is, whatever it says of the day', () => {
  const cases: [string, string, string][] = [
    ['logs/net/quay/2024-03-05.log', 'logs/net/quay', 'quay'],
    ['logs/me/ansel/2024-03-05.140322+0100CET.txt', 'logs/me/ansel', 'ansel'],
    ['history/2024/03/05/Ansel.txt', 'history/Ansel', 'Ansel'],
    ['history/2024/03/Ansel/05.txt', 'history/Ansel', 'Ansel'],
    ['Ansel 2024-03-05.txt', 'Ansel', 'Ansel'],
    ['chat with Ansel.txt', 'chat with Ansel', 'chat with Ansel'],
    ['20240305.log', '20240305', '20240305']
  ];
  for (const [path, key, name] of cases) {
    const place = placeOf(path);
    assert.deepEqual([place.key, place.name], [key, name], path);
  }
});

test('a text in UTF-16, in JSON and as a page, is cited where it lies', async () => {
  const line = (i: number): string => `2024-03-05T14:0${i}:00Z`;
  const json = JSON.stringify(
    [0, 1, 2, 3].map((i) => ({
      at: line(i),
      from: i % 2 ? 'Ansel' : 'me',
      chat: 'c',
      text: `füßt ${i} words here`
    }))
  );
  const page = `<html><body>${[0, 1, 2, 3].map((i) => `<p>2024-03-05 14:0${i}:00 ${i % 2 ? 'Ansel' : 'me'}: größe ${i}</p>`).join('\n')}</body></html>`;
  for (const [name, text] of [
    ['a.json', json],
    ['a.html', page]
  ] as const) {
    const bytes = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]);
    const { findings } = await passOver({ [name]: bytes });
    assert.equal(findings.messages.length, 4, name);
    for (const { proofs, body } of findings.messages) {
      const { offset, length } = proofs[0]!;
      const cited = bytes.subarray(offset, offset + length).toString('utf16le');
      assert.ok(cited.includes(body), `${name}: ${cited}`);
    }
  }
});

test('texts that are damaged, nested without end or without line ends end well', async () => {
  const deep = `${'['.repeat(4000)}${']'.repeat(4000)}`;
  const cases: Record<string, Uint8Array> = {
    'deep.json': Buffer.from(deep),
    'lines.jsonl': Buffer.from(`${deep}\n`.repeat(5)),
    'open.html': Buffer.from(`<html><body>${'<div class="x">14:03 a: b '.repeat(20_000)}`),
    'deep.xml': Buffer.from(`<?xml version="1.0"?>${'<a b="c">'.repeat(20_000)}`),
    'hex.txt': Buffer.from('0a1b2c'.repeat(40_000)),
    'word.txt': Buffer.from(`2024-03-05 14:03 Ansel: ${'a'.repeat(300_000)}\n`.repeat(3)),
    'names.txt': Buffer.from(
      Array.from({ length: 150_000 }, (_, i) => `2024-03-05 14:03:22 name${i}: words`).join('\n')
    ),
    'quote.csv': Buffer.from(`a,b,c\n"${'x,y,z\n'.repeat(60_000)}`)
  };
  const begun = Date.now();
  for (const [name, bytes] of Object.entries(cases)) {
    const { findings, source } = await passOver({
      [name]: bytes,
      'beside.txt': Buffer.from('plain')
    });
    assert.ok(
      source.notes.every(({ code }) => code !== 'failed'),
      `${name}: ${JSON.stringify(source.notes)}`
    );
    for (const { proofs } of findings.messages)
      for (const { offset, length } of proofs) assert.ok(offset + length <= bytes.length, name);
  }
  // Not a measurement: what hangs took minutes.
  assert.ok(Date.now() - begun < 120_000);
});
