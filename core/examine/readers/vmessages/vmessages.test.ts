import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { linesOf } from '../../../formats/textlog';
import { passOver } from '../../../tests/pass';
import { readVMessages, type VMessage } from './parse';

interface Made {
  box: string;
  date: string;
  from?: string;
  to?: string[];
  body: string[];
}

const card = (number: string): string[] => [
  'BEGIN:VCARD',
  'VERSION:2.1',
  'N:Holt;Mira',
  ...(number === '' ? [] : [`TEL:${number}`]),
  'END:VCARD'
];

/** An object as handsets save it. */
function object({ box, date, from = '', to = [], body }: Made): string {
  const inner = ['BEGIN:VBODY', date, ...body, 'END:VBODY'];
  let envelope = inner;
  for (const number of [...to].reverse())
    envelope = ['BEGIN:VENV', ...card(number), ...envelope, 'END:VENV'];
  if (to.length === 0) envelope = ['BEGIN:VENV', ...inner, 'END:VENV'];
  const lines = [
    'BEGIN:VMSG',
    'VERSION:1.1',
    'X-IRMC-STATUS:READ',
    box,
    ...card(from),
    ...envelope
  ];
  return `${[...lines, 'END:VMSG'].join('\r\n')}\r\n`;
}

function parsed(bytes: Uint8Array): VMessage[] {
  return [...readVMessages(linesOf(bytes), 'Europe/Oslo')];
}

const INBOX = 'X-IRMC-BOX:INBOX';
const SENT = 'X-IRMC-BOX:SENT';
const came: Made = {
  ...{ box: INBOX, date: 'Date:21.06.2010 15:59:01', from: '+4790000111' },
  body: ['The boat is in.', '', 'Bring: rope']
};
const AT = Date.UTC(2010, 5, 21, 13, 59, 1);

test('objects are read in every form in which handsets write them', () => {
  const cases: [what: string, bytes: Uint8Array, wanted: Partial<VMessage>][] = [
    [
      'one byte a sign',
      Buffer.from(object(came)),
      { text: 'The boat is in.\n\nBring: rope', sentAt: AT }
    ],
    [
      'two bytes a sign',
      Buffer.from(`\ufeff${object(came)}`, 'utf16le'),
      { sentAt: AT, isOutgoing: false }
    ],
    [
      'a moment in UTC',
      Buffer.from(object({ ...came, box: `${INBOX}\r\nX-ABC-DT:20100621T135901Z` })),
      { sentAt: AT, isZoneless: false }
    ],
    [
      'the year first',
      Buffer.from(object({ ...came, date: 'Date:2010/06/21 15:59:01' })),
      { sentAt: AT }
    ],
    ['no date', Buffer.from(object({ ...came, date: 'Date:' })), { sentAt: null }],
    [
      'words in the subject, in bytes of two signs',
      Buffer.from(
        object({
          ...came,
          body: ['Subject;ENCODING=QUOTED-PRINTABLE;CHARSET=UTF-8:B=C3=A5ten =', 'er inne']
        })
      ),
      { text: 'Båten er inne' }
    ],
    [
      'an unknown set of signs',
      Buffer.from(
        object({ ...came, body: ['Subject;ENCODING=QUOTED-PRINTABLE;CHARSET=nothing:a=20b'] })
      ),
      { text: 'a b' }
    ],
    [
      'sent',
      Buffer.from(object({ ...came, box: SENT, from: '', to: ['+4790000222', '+4790000333'] })),
      { isOutgoing: true }
    ],
    [
      'a type in place of a box',
      Buffer.from(object({ ...came, box: 'X-MESSAGE-TYPE:SUBMIT' })),
      { isOutgoing: true }
    ],
    ['cut off', Buffer.from(object(came).slice(0, -60)), { sentAt: AT, isOutgoing: false }]
  ];
  for (const [what, bytes, wanted] of cases) {
    const [found, second] = parsed(bytes);
    assert.equal(second, undefined, what);
    for (const [key, value] of Object.entries(wanted))
      assert.deepEqual(found![key as keyof VMessage], value, `${what}: ${key}`);
  }
});

test('several objects stand one behind the other, and each proof names its bytes', () => {
  const text = object(came) + object({ ...came, body: ['later'] });
  const bytes = Buffer.from(text);
  const found = parsed(bytes);
  assert.deepEqual(
    found.map((one) => one.text),
    ['The boat is in.\n\nBring: rope', 'later']
  );
  for (const { offset, length } of found) {
    const own = bytes.subarray(offset, offset + length).toString();
    assert.match(own, /^BEGIN:VMSG[^]*END:VMSG\r?$/);
  }
});

test('an examination gives conversations, names, sides and times; the files of a folder are one store', async () => {
  const files = {
    'saved/1.vmg': Buffer.from(object(came)),
    'saved/2.vmg': Buffer.from(
      `\ufeff${object({ ...came, box: SENT, from: '', to: ['+4790000111'], body: ['On my way'] })}`,
      'utf16le'
    ),
    'other/3.vmg': Buffer.from(object({ ...came, from: '+4790000222', body: ['Who is this?'] })),
    'other/notes.txt': Buffer.from('BEGIN: a plain note')
  };
  const { findings, source } = await passOver(files);
  assert.equal(source.kind, 'folder');
  assert.deepEqual(findings.stores.map(({ profile, path }) => [profile, path]).sort(), [
    ['vmessages', 'other/3.vmg'],
    ['vmessages', 'saved/1.vmg']
  ]);
  assert.deepEqual(
    findings.messages.map(({ body, direction }) => [body.split('\n')[0], direction]).sort(),
    [
      ['On my way', 'outgoing'],
      ['The boat is in.', 'incoming'],
      ['Who is this?', 'incoming']
    ]
  );
  assert.equal(findings.threads.length, 2);
  assert.ok(findings.people.some(({ name }) => name === 'Mira Holt'));
});

test('no bytes make it throw, and no object is larger than its file', () => {
  const bytes = Buffer.from(object(came) + object(came));
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(bytes.length - 1), fc.nat(255)), { maxLength: 8 }),
      fc.nat(bytes.length),
      (changes, end) => {
        const changed = Buffer.from(bytes);
        for (const [at, byte] of changes) changed[at] = byte;
        for (const { offset, length } of parsed(changed.subarray(0, end)))
          assert.ok(offset >= 0 && length >= 0 && offset + length <= end);
      }
    ),
    { numRuns: 300 }
  );
});
