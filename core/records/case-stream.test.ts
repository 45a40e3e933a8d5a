import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { caseParts, CaseStreamError, type CasePart } from './case-stream';

async function* inChunks(text: string, size: number): AsyncGenerator<Uint8Array> {
  const bytes = new TextEncoder().encode(text);
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

async function partsOf(text: string, size: number): Promise<CasePart[]> {
  const parts: CasePart[] = [];
  for await (const part of caseParts(inChunks(text, size), () => true)) parts.push(part);
  return parts;
}

test('a document gives its records whatever the chunks in which it comes', async () => {
  const value = fc.letrec((tie) => ({
    any: fc.oneof(
      { maxDepth: 3 },
      fc.string(),
      fc.integer(),
      fc.boolean(),
      fc.constant(null),
      fc.array(tie('any'), { maxLength: 3 }),
      fc.dictionary(fc.string(), tie('any'), { maxKeys: 3 })
    )
  })).any;
  const document = fc.dictionary(
    fc.string(),
    fc.oneof(fc.array(value, { maxLength: 4 }), fc.string(), fc.integer(), fc.object()),
    { maxKeys: 5 }
  );
  await fc.assert(
    fc.asyncProperty(
      document,
      fc.integer({ min: 1, max: 40 }),
      fc.boolean(),
      async (made, size, spaced) => {
        const text = JSON.stringify(made, null, spaced ? 2 : 0);
        const expected = Object.entries(JSON.parse(text) as object).flatMap(([section, found]) =>
          Array.isArray(found)
            ? found.map((one: unknown) => ({ section, value: one }))
            : [{ section, value: found as unknown }]
        );
        assert.deepEqual(await partsOf(text, size), expected);
      }
    )
  );
});

test('records of lines are read alike, and sections that nobody asks for are passed over', async () => {
  const lines = [
    { record: 'case', format: 'f', version: 1 },
    { record: 'message', id: 'a' },
    { record: 'person', id: 'b' }
  ].map((line) => JSON.stringify(line));
  for (const size of [1, 7, 1000])
    assert.deepEqual(await partsOf(`${lines.join('\n')}\n`, size), [
      { section: 'format', value: 'f' },
      { section: 'version', value: 1 },
      { section: 'messages', value: { id: 'a' } },
      { section: 'people', value: { id: 'b' } }
    ]);
  const parts: CasePart[] = [];
  const text = '{"messages":[{"broken": nonsense}],"zone":"UTC"}';
  for await (const part of caseParts(inChunks(text, 5), (section) => section === 'zone'))
    parts.push(part);
  assert.deepEqual(parts, [{ section: 'zone', value: 'UTC' }]);
});

test('what is cut off, empty or something else is refused', async () => {
  for (const text of [
    '',
    '{"a":[1,2',
    '{"a":1',
    'tea',
    '[1]',
    '{"a":1}}',
    '{"a" 1}',
    '{1:2}',
    '{"a":[tea]}'
  ])
    await assert.rejects(partsOf(text, 3), CaseStreamError, text);
});
