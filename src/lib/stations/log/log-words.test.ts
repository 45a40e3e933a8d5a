import assert from 'node:assert/strict';
import { test } from 'node:test';
import { chained } from '../../../../core/custody';
import { detailText } from './log-words';

const CASES: [what: string, detail: Record<string, unknown>, text: string][] = [
  [
    'selected',
    { list: 'Exhibits', kind: 'lines', count: 14 },
    '14 messages, on the list “Exhibits”'
  ],
  ['selected', { list: 'A', kind: 'gaps', count: 1 }, '1 gap, on the list “A”'],
  [
    'redaction made',
    { code: 'PRIV', what: 'words of a line', message: 'm', from: 5, to: 9, line: 12 },
    'code PRIV, words of a line, line 12'
  ],
  [
    'exhibits changed',
    { list: 'A', change: 'trim', entry: 'e1', from: '2026-03-01', to: null },
    'an exhibit was trimmed on the list “A”, from 2026-03-01'
  ],
  [
    'examination finished',
    { source: 'phone', id: 's1', depth: 'freed', found: { live: 3, held: 0 } },
    'phone, depth existing and deleted, found live 3'
  ],
  [
    'examination finished',
    { source: 'locked', id: 's2', depth: 'whole', found: { live: 0, held: 0 } },
    'locked, depth everything, raw data too'
  ],
  ['case changed', { zone: 'Europe/Oslo' }, 'zone Europe/Oslo']
];

test('acts are told in words', () => {
  for (const [what, detail, text] of CASES)
    assert.equal(detailText(chained({ at: '', what, detail }, null)), text);
});

test('a detail that is withheld says so', () => {
  const entry = chained({ at: '', what: 'name given', detail: { name: 'Mira' } }, null);
  assert.equal(detailText({ ...entry, detail: null }), 'withheld');
});
