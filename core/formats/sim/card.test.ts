import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { Deliver, Submit } from 'node-pdu';
import {
  bcd,
  deleted,
  emptyRecord,
  extensionRecord,
  numberRecord,
  packSeptets,
  smsRecord
} from '../../../bench/writers/card';
import { MemorySource } from '../../host';
import { decodeAlpha } from './alphabet';
import { elementaryFile, filesInImage, filesInText, isCard, readCard, type CardReading } from '.';
import { parseMessage } from './tpdu';

function readFiles(files: Record<string, Uint8Array>): CardReading {
  const found = Object.entries(files).flatMap(
    ([path, bytes]) => elementaryFile(path, new MemorySource(path, bytes)) ?? []
  );
  return readCard(found);
}

const TEXTS = [
  'The ferry leaves at seven',
  'Brackets [] {} ~ \\ | ^ and € signs',
  'Grüße, Ærø, Δ & ñandú',
  'Привет, паром в семь 🚢',
  '渡船七点出发',
  'x'.repeat(160)
];

/** PDUs in hex, written by an independent package. */
function delivered(address: string, text: string): string[] {
  const deliver = new Deliver(address, text);
  return deliver.getPartStrings();
}

test('messages that an independent package encoded come back in every alphabet', () => {
  for (const text of TEXTS) {
    const records = delivered('+447700900123', text).map((pdu) => smsRecord(1, pdu));
    const { messages } = readFiles({ '3F00/7F10/6F3C': Buffer.concat(records) });
    assert.equal(messages.length, 1, text);
    assert.equal(messages[0]!.text, text);
    assert.equal(messages[0]!.address, '+447700900123');
    assert.equal(messages[0]!.direction, 'incoming');
  }
});

test('sent messages have no time', () => {
  const pdus = new Submit('+447700900123', 'On my way').getPartStrings();
  const { messages } = readFiles({ EF_SMS: Buffer.concat(pdus.map((p) => smsRecord(5, p))) });
  assert.deepEqual(
    messages.map(({ direction, sentAt, text, deleted }) => ({ direction, sentAt, text, deleted })),
    [{ direction: 'outgoing', sentAt: null, text: 'On my way', deleted: false }]
  );
});

test('long messages are joined in any order, missing parts are shown, deleted ones come back', () => {
  const text = 'All the crew should be on the quay before the tide turns. '.repeat(7);
  const parts = delivered('+447700900123', text).map((pdu) => smsRecord(1, pdu));
  assert.ok(parts.length > 2);
  const shuffled = [...parts.slice(1), emptyRecord(), parts[0]!];
  assert.equal(readFiles({ '6F3C': Buffer.concat(shuffled) }).messages[0]!.text, text);
  const lacking = readFiles({ '6F3C': Buffer.concat([parts[0]!, ...parts.slice(2)]) }).messages;
  assert.equal(lacking.length, 1);
  assert.deepEqual(lacking[0]!.missing, [2]);
  assert.match(lacking[0]!.text, /\ufffc/);
  const gone = readFiles({ '6F3C': Buffer.concat(parts.map(deleted)) }).messages;
  assert.deepEqual([gone.length, gone[0]!.deleted, gone[0]!.text], [1, true, text]);
});

test('septets behind a header keep their fill bits, in both shift mechanisms', () => {
  const header = Buffer.from([0x06, 0x24, 0x01, 0x01, 0x25, 0x01, 0x01]);
  // Both tables of identifier 1: 0x1C is a letter of the locking one, ESC 0x53 of the single one.
  const septets = [0x41, 0x1c, 0x1b, 0x53, 0x42];
  const fill = (7 - ((header.length * 8) % 7)) % 7;
  const skipped = Math.ceil((header.length * 8) / 7);
  const data = Buffer.concat([header, packSeptets(septets, fill)]);
  const head = Buffer.from('0044' + '0C91' + '447700091032' + '0000' + '62113241500000', 'hex');
  const pdu = Buffer.concat([head, Buffer.from([skipped + septets.length]), data]);
  assert.equal(parseMessage(pdu)?.text, 'AŞŞB');
});

test('time stamps carry their zone in quarter hours', () => {
  const cases: [string, string][] = [
    ['62112341500000', '2026-11-32T14:05:00Z'],
    ['62113241500000', '2026-11-23T14:05:00Z'],
    ['62113241500040', '2026-11-23T13:05:00Z'],
    ['6211324150004A', '2026-11-23T20:05:00Z']
  ];
  for (const [stamp, expected] of cases) {
    const pdu = Buffer.from('0004' + '0C91' + '447700091032' + '0000' + stamp + '00', 'hex');
    const at = parseMessage(pdu)?.sentAt;
    if (expected.includes('-32')) assert.equal(at, undefined);
    else assert.equal(new Date(at!).toISOString(), expected.replace('Z', '.000Z'), stamp);
  }
});

test('names in the three UCS-2 codings and the plain one', () => {
  const cases: [string, string][] = [
    ['54696c6461ffffff', 'Tilda'],
    ['80041f043004400443ffff', 'Пару'],
    ['81051353954582b3', 'S\u0995E\u0982\u09b3'],
    ['820405302d82d32d31', '-\u0532\u0583-']
  ];
  for (const [hex, expected] of cases) {
    assert.equal(decodeAlpha(Buffer.from(hex, 'hex')), expected, hex);
  }
});

test('contacts with long numbers, dialled and own numbers, identities and the service centre', () => {
  const contacts = Buffer.concat([
    numberRecord(Buffer.from('Tilda'), '+447700900123', 28),
    numberRecord(Buffer.from('Harbour'), '01234567890123456789', 28, 1),
    Buffer.alloc(28, 0xff)
  ]);
  const smsp = Buffer.alloc(40, 0xff);
  smsp[12] = 0xfd;
  Buffer.concat([Buffer.from([7, 0x91]), bcd('447700900000')]).copy(smsp, 25);
  const reading = readFiles({
    '7F10/6F3A': contacts,
    '7F10/6F4A': Buffer.concat([extensionRecord('98765')]),
    '7F10/6F44': numberRecord(Buffer.alloc(0), '07700900555', 24),
    '7F10/6F40': numberRecord(Buffer.from('Line 1'), '+447700900001', 30),
    '7F10/6F42': smsp,
    '2FE2': bcd('8944000000000000001'),
    '7F20/6F07': Buffer.from('082943000000000010', 'hex')
  });
  assert.deepEqual(
    reading.contacts.map(({ name, number }) => [name, number]),
    [
      ['Tilda', '+447700900123'],
      ['Harbour', '0123456789012345678998765']
    ]
  );
  assert.equal(reading.dialled[0]!.number, '07700900555');
  assert.equal(reading.ownNumbers[0]!.number, '+447700900001');
  assert.deepEqual(reading.serviceCentres, ['+447700900000']);
  assert.equal(reading.iccid, '8944000000000000001');
  assert.equal(reading.imsi, '234000000000001');
});

test('a card as one dump: binary image, text with headings, commands and answers', () => {
  const records = [
    ...delivered('+447700900123', 'first'),
    ...delivered('+447700900124', 'second')
  ].map((pdu) => smsRecord(1, pdu));
  const image = Buffer.concat([Buffer.alloc(777, 0x62), ...records, Buffer.alloc(99)]);
  const [found] = filesInImage('card.img', image);
  assert.equal(found!.content.offset, 777);
  const lines = records.map(
    (record, i) => `record ${i + 1}: ${record.toString('hex').toUpperCase()}`
  );
  const headed = Buffer.from(`card dump\n3F00/7F10/6F3C\n${lines.join('\n')}\n`);
  const commands = records.flatMap((record, i) => [
    '> A0 A4 00 00 02 6F 3C',
    '< 9F 0F',
    `> A0 B2 0${i + 1} 04 B0`,
    `< ${record.toString('hex')}9000`
  ]);
  for (const files of [
    [found!],
    filesInText('card.txt', headed),
    filesInText('card.log', Buffer.from(commands.join('\n')))
  ]) {
    const { messages } = readCard(files);
    assert.deepEqual(
      messages.map((m) => m.text),
      ['first', 'second']
    );
  }
  const { places } = readCard(filesInText('card.txt', headed)).messages[0]!;
  const cited = headed
    .subarray(places[0]!.offset, places[0]!.offset + places[0]!.length)
    .toString();
  assert.equal(cited.toLowerCase(), records[0]!.toString('hex'));
});

test('random bytes are no card, and never throw', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 176, maxLength: 1760 }), (bytes) => {
      const source = new MemorySource('6F3C', bytes);
      const file = elementaryFile('6F3C', source);
      if (file) isCard(readCard([file]));
      readCard(filesInImage('x', bytes));
      readCard(filesInText('x', bytes));
      parseMessage(bytes);
    })
  );
});
