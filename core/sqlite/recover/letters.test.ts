import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import {
  firstForeign,
  judgeLetters,
  learnLetters,
  noLetters,
  overwrittenAt,
  type Letters
} from './letters';

function known(texts: readonly string[]): Letters {
  const letters = noLetters();
  for (const text of texts) learnLetters(letters, text);
  return letters;
}

const judge = (letters: Letters, text: string): number => {
  const bytes = Buffer.from(text);
  return judgeLetters(letters, bytes, 0, bytes.length, 'utf-8');
};

const dates = Array.from({ length: 30 }, (_, i) =>
  new Date(Date.UTC(2024, i % 12, 1 + (i % 27), i % 24)).toISOString().slice(0, 19)
);
const numbers = Array.from({ length: 40 }, (_, i) => `+44770090${1000 + i * 37}`);
const PROSE = 'The slip is wet, mind your step. Where was the gull before noon?'.split(' ');
const talk = Array.from(
  { length: 60 },
  (_, i) => `${PROSE.slice(i % 5, 5 + (i % 8)).join(' ')} ${i}`
);

const CASES: [name: string, texts: string[], fine: string[], odd: string[]][] = [
  ['dates', dates, ['2019-11-30T23:59:59'], ['x019-11-30T23:59:5', '2019-11-30 23:59:59 ']],
  ['numbers', numbers, ['+447700901999'], ['447700901999m', 'm447700901999']],
  ['prose', talk, ['Something else entirely!', 'ÄÖÜ', '漢字'], []]
];

for (const [name, texts, fine, odd] of CASES) {
  test(`texts of a column that holds ${name} are told from shifted ones`, () => {
    const letters = known(texts);
    for (const text of fine) assert.equal(judge(letters, text), 0, text);
    for (const text of odd) assert.ok(judge(letters, text) < 0, text);
  });
}

test('a few texts say nothing against others, unless they are built alike', () => {
  assert.equal(judge(known(numbers.slice(0, 3)), 'anything'), 0);
  assert.equal(judge(known(talk.slice(0, 10)), 'Öland'), 0);
  assert.ok(judge(known(dates.slice(0, 8)), 'x024-01-01T00:00:0') < 0);
});

test('no text that was learned is ever odd', () => {
  fc.assert(
    fc.property(fc.array(fc.string({ minLength: 1 }), { minLength: 25 }), (texts) => {
      const letters = known(texts);
      for (const text of texts) assert.equal(judge(letters, text), 0);
    })
  );
});

test('a text that was written over ends where letters of many scripts begin', () => {
  const letters = known(Array.from({ length: 12 }, () => talk).flat());
  const cut = 'The slip is we\u6709\u1247\u0108\u1d8d\u0859';
  assert.equal(overwrittenAt(letters, cut), 14);
  assert.equal(firstForeign(letters, cut), 14);
  // One strange script is what somebody wrote.
  assert.equal(overwrittenAt(letters, 'The sign says \u6e2f\u53e3, the harbour'), -1);
  assert.equal(firstForeign(letters, '\u6e2f\u53e3'), -1);
});
