import assert from 'node:assert/strict';
import { test } from 'node:test';
import { brokenLink, chained, type CustodyEntry } from '../custody';
import { gapId } from '../records';
import { madeCase } from '../tests/production-case';
import { produced } from '../tests/produced';
import { ChoiceError } from './choose';
import { Secrets } from './redact';

interface RecordLine {
  record: string;
  id: string;
  context?: boolean;
}

function records(text: string): RecordLine[] {
  return text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as RecordLine);
}

test('exhibits stand in their order, with names, context, calls, contacts, files and gaps', async () => {
  const made = madeCase({ messages: 120 });
  const { messages, attachments, gaps, calls, contacts } = made.findings;
  const inRoom = (room: number): string[] =>
    messages.filter(({ thread }) => thread === `s1.1/t/${room}`).map(({ id }) => id);
  const exhibits = [
    { kind: 'calls', name: 'Calls of the night', calls: [calls[1]!.id] },
    { kind: 'lines', messages: [inRoom(2)[4]!], context: 1 },
    { kind: 'gaps', gaps: [gapId(gaps[0]!)] },
    { kind: 'files', name: 'The slipway', files: [attachments[0]!.id] },
    { kind: 'contacts', contacts: [contacts[0]!.id] },
    { kind: 'lines', name: 'What Mira wrote', messages: inRoom(0).slice(0, 3) }
  ];
  const { text, files } = await produced(made, {
    formats: ['html', 'jsonl', 'txt', 'xlsx', 'media', 'ics', 'vcf'],
    exhibits
  });
  const index = text('data/pages/index.html');
  const places = [
    'Calls of the night',
    'Petra Vann',
    'missing',
    'The slipway',
    'Contacts',
    'What Mira wrote'
  ];
  const at = places.map((word) => index.indexOf(word));
  assert.deepEqual(
    [...at].sort((a, b) => a - b),
    at,
    at.join()
  );
  assert.ok(at.every((place) => place >= 0));
  assert.match(index, /E1[^]*E2[^]*E6/);
  const all = records(text('data/records.jsonl'));
  const lines = all.filter(({ record }) => record === 'message');
  assert.deepEqual(
    lines.map(({ id }) => id),
    [...inRoom(2).slice(3, 6), ...inRoom(0).slice(0, 3)]
  );
  assert.deepEqual(
    lines.map(({ context }) => context),
    [true, false, true, false, false, false]
  );
  assert.equal(all.filter(({ record }) => record === 'call').length, 1);
  assert.equal(all.filter(({ record }) => record === 'file').length, 1);
  const told = all.filter(({ record }) => record === 'gap');
  // One stands by itself, the other beside its line.
  assert.deepEqual(told.map((gap) => 'thread' in gap).sort(), [false, true]);
  assert.equal([...files.keys()].filter((path) => path.startsWith('data/text/')).length, 6);
  assert.ok([...files.keys()].some((path) => /^data\/media\/[^/]+$/.test(path)));
});

test('a message whose conversation is not listed is produced all the same', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const { findings } = made;
  const of = (thread: string): number =>
    findings.messages.filter((message) => message.thread === thread).length;
  const lost = ['s1.1/t/1', 's1.1/t/4'];
  findings.threads = findings.threads.filter(({ id }) => !lost.includes(id));
  const all = records((await produced(made, { formats: ['jsonl'] })).text('data/records.jsonl'));
  assert.equal(all.filter(({ record }) => record === 'message').length, findings.messages.length);
  const threads = all.filter(({ record, id }) => record === 'thread' && lost.includes(id));
  assert.deepEqual(threads.map(({ id }) => id).sort(), lost);
  assert.ok(of('s1.1/t/4') > 0);
});

test('an exhibit of what the case does not hold is refused', async () => {
  const made = madeCase({ messages: 10 });
  for (const exhibit of [
    { kind: 'gaps', gaps: ['nowhere'] },
    { kind: 'files', files: ['nowhere'] }
  ])
    await assert.rejects(produced(made, { formats: ['csv'], exhibits: [exhibit] }), ChoiceError);
});

test('a number is found however it is written', () => {
  const wanted = [{ text: '+4790000111', code: 'ID' }];
  const cases: [string, boolean][] = [
    ['call +47 900 00 111 now', true],
    ['0047 90 00 01 11', true],
    ['90000111', true],
    ['(900) 00-111', true],
    ['900\u00a000\u00a0111', true],
    ['p:+4790000111', true],
    ['4790000111', true],
    ['190000111', false],
    ['900001112', false],
    ['9000 0112', false]
  ];
  for (const [text, isFound] of cases)
    assert.equal(new Secrets(wanted).placesIn(text).length > 0, isFound, text);
});

test('a person is covered by every name and address, in texts, paths, ids and the log', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const { messages, contacts } = made.findings;
  messages[1]!.body = 'Mira said call 900 00 111, or HOLT, M. at the yard';
  messages[2]!.proofs[0]!.path = 'chats/+4790000111.db';
  contacts[0]!.emails = ['mira.holt@quay.example'];
  made.sources[0]!.name = 'handset of Mira Holt';
  made.findings.people[1]!.addresses.push('mira.holt@quay.example');
  const act = { at: '2026-11-27T10:00:00Z', what: 'name', detail: { name: 'Mira Holt' } };
  const first = chained(act, null, 'a1b2c3');
  const log: CustodyEntry[] = [first, chained({ ...act, detail: { lines: 4 } }, first)];
  const { files, text } = await produced(
    made,
    {
      formats: ['html', 'csv', 'txt', 'jsonl', 'vcf', 'ics', 'eml', 'mbox', 'xlsx'],
      choose: { people: ['Mira Holt'] },
      redactions: [{ person: 'p:+4790000111', code: 'NAME' }],
      reasons: [{ code: 'NAME', reason: 'a third person' }]
    },
    { log }
  );
  for (const [path, bytes] of files) {
    const whole = Buffer.from(bytes).toString('latin1').toLowerCase();
    for (const secret of ['mira', 'holt', '90000111', '900 00 111'])
      assert.ok(
        !whole.includes(secret) && !path.toLowerCase().includes(secret),
        `${path}: ${secret}`
      );
  }
  assert.equal(brokenLink(text('data/custody.jsonl')), null);
  assert.match(text('data/custody.jsonl'), /"withheld":"[0-9a-f]{64}"/);
  assert.match(text('data/redactions.csv'), /1,NAME,a third person,person,everywhere/);
});
