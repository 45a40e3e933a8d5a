import assert from 'node:assert/strict';
import { test } from 'node:test';
import { nativePrinter } from '../../cli/print';
import { madeCase, type MadeCase } from '../tests/production-case';
import { produced } from '../tests/produced';
import { FORMAT_NAMES } from '.';

const HALF = 'a\ud83db';

/** A case in which nothing is what a calendar, a map or an encoding allows. */
function absurdCase(): MadeCase {
  const made = madeCase({ messages: 30, hard: false, pictureEvery: 5 });
  const { attachments, people, contacts, threads, calls, messages } = made.findings;
  for (const attachment of attachments)
    Object.assign(attachment, { name: `${HALF}.jpg`, path: HALF });
  people[1]!.name = HALF;
  Object.assign(contacts[0]!, { name: HALF, note: HALF });
  threads[4]!.title = HALF;
  made.sources[0]!.name = HALF;
  for (const [i, call] of calls.entries()) {
    call.seconds = [1e308, -1e308, NaN, 1e15, -5][i % 5]!;
    if (i % 2 === 1) call.at = [8.64e15, -8.64e15, 1e17, NaN][i % 4]!;
  }
  const moments = [8.64e15, -8.64e15, 1e17, NaN];
  for (const [i, at] of moments.entries()) messages[2 * i]!.sentAt = at;
  Object.assign(messages[1]!, {
    subject: HALF,
    reactions: [{ person: null, text: HALF, at: 1e18 }],
    location: { lat: NaN, lon: Infinity, label: HALF }
  });
  return made;
}

for (const format of FORMAT_NAMES.filter((name) => name !== 'database'))
  test(`values that no calendar or encoding allows do not end a production: ${format}`, async () => {
    const { files } = await produced(
      absurdCase(),
      {
        formats: [format],
        ...{ title: HALF, reference: HALF, preparedBy: HALF, numbering: { prefix: HALF } },
        redactions: [{ text: 'harbour', code: 'A' }]
      },
      { print: nativePrinter() }
    );
    assert.ok(files.has('data/production.json'));
  });

const LONG: [what: string, body: string][] = [
  ['one word of a megabyte', 'abcdefgh'.repeat(1 << 17)],
  ['single letters', 'x '.repeat(100_000)],
  ['marks on one letter', `z${'\u0301\u0316'.repeat(4000)}`],
  ['ideographs', '\u6e2f'.repeat(60_000)]
];
for (const [what, body] of LONG)
  test(`pages are set of a message with ${what}, and nothing of it is lost`, async () => {
    const made = madeCase({ messages: 6, hard: false, pictureEvery: 0 });
    made.findings.messages[2]!.body = body;
    const started = performance.now();
    const { files, text } = await produced(
      made,
      { formats: ['pdf', 'jsonl'] },
      { print: nativePrinter() }
    );
    // A hang, not a measurement: it was more than a minute before, or never ended.
    assert.ok(performance.now() - started < 60_000);
    assert.ok(files.has('data/record.pdf') || files.has('data/record-001.pdf'));
    assert.ok(text('data/records.jsonl').includes(JSON.stringify(body).slice(1, -1)));
  });
