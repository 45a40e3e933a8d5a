import assert from 'node:assert/strict';
import { test } from 'node:test';
import { besideOf } from './hit-place';

const LINE = {
  body: 'Bring the Rope to the quay',
  subject: null,
  note: '',
  labels: [] as string[],
  sender: 'Åse Holt',
  attachments: [] as { name: string }[]
};

test('a hit that is not in the words says where it is', () => {
  const cases: [query: string, told: Partial<typeof LINE>, where: string | null][] = [
    ['rope', {}, null],
    ['', {}, null],
    ['invoice', { subject: 'An INVOICE' as never }, null],
    ['hull', { attachments: [{ name: 'Hull-plan.png' }] }, 'in the name of a file'],
    ['seen twice', { note: 'Seen twice by the client' }, 'in your note'],
    ['key', { labels: ['key line'] }, 'in a label'],
    ['ase', {}, 'in who wrote'],
    ['90000111', {}, 'in the names or numbers of the conversation']
  ];
  for (const [query, told, where] of cases)
    assert.equal(besideOf({ ...LINE, ...told }, query)?.where ?? null, where, query);
});
