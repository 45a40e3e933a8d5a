import assert from 'node:assert/strict';
import { randomBytes } from 'node:crypto';
import { deflateSync, gzipSync } from 'node:zlib';
import { test } from 'node:test';
import {
  Uint8ArrayReader,
  Uint8ArrayWriter,
  ZipWriter,
  type ZipWriterAddDataOptions
} from '@zip.js/zip.js';
import { encode as encodePng } from 'fast-png';
import fc from 'fast-check';
import { zipSync } from 'fflate';
import { nativePrinter } from '../../../cli/print';
import { madeCase, type MadeCase } from '../../tests/production-case';
import { produced, sha256 } from '../../tests/produced';
import { readablePackage } from '../../tests/readable-package';
import { RedactionError, UndecidedError, Secrets } from '..';
import { normalForm } from './normal';
import { searched } from './search';

const ALL = ['pdf', 'html', 'xlsx', 'csv', 'txt', 'jsonl', 'vcf', 'ics', 'eml', 'mbox', 'media'];

test('texts that say the same are alike in the normal form', () => {
  const alike: [string, string][] = [
    ['two  blanks', 'two blanks'],
    ['a\u00a0hard\u2003blank', 'a hard blank'],
    ['over\r\ntwo lines', 'over two lines'],
    ['soft\u00adhyphen', 'softhyphen'],
    ['zero\u200bwidth\u2060join\u200der', 'zerowidthjoiner'],
    ['Ren\u00e9', 'RENE\u0301'],
    ['Stra\u00dfe', 'STRASSE'],
    ['\u0130stanbul', 'istanbul'],
    ['\ufb01sh', 'fish'],
    ['\uff21\uff22\uff23', 'abc'],
    ['Kit\u2019s', "kit's"],
    ['a \u2013 b', 'a - b'],
    ['\u03c3\u03bf\u03c6\u03cc\u03c2', '\u03a3\u039f\u03a6\u038c\u03a3'],
    ['\u0664\u0664\u0661\u0667', '4417'],
    ['direction \u202eoverride\u202c', 'direction override']
  ];
  for (const [a, b] of alike) assert.equal(normalForm(a), normalForm(b), a);
  assert.notEqual(normalForm('tide'), normalForm('tied'));
});

const FOUND: [secret: string, text: string, bars: string][] = [
  ['Kit Holm', 'KIT\u00a0\u00a0HOLM came', '# came'],
  ['Ren\u00e9', 'so Rene\u0301 said', 'so # said'],
  ['Ivan', '\u0130 and Ivan', '\u0130 and #'],
  ['marigold', 'the Mari\u00adgold deal', 'the # deal'],
  ['stra\u00dfe 5', 'at STRASSE 5!', 'at #!'],
  ['\ud83d\udc69', 'is \ud83d\udc69\u200d\ud83d\udc67 here', 'is # here'],
  ['4417', 'the code is \u0664\u0664\u0661\u0667', 'the code is #'],
  ['lamp', 'lamplight', '#'],
  [
    'S\u00f8r \u00c5s',
    'https://map.example/?q=S%C3%B8r%20%c3%85s&z=3',
    'https://map.example/?q=#&z=3'
  ],
  ['brass heron', '?q=brass+heron&x', '?q=#&x'],
  ['S\u00f8r', 'so S&#248;r, S&#xF8;r', 'so #, #'],
  ['ferry&co', 'the ferry&amp;co.', 'the #.'],
  ['Ren\u00e9', '{"by":"Ren\\u00e9"}', '{"by":"#"}'],
  ['marigold', 'the mari<b>gold</b> deal', 'the # deal'],
  ['marigold deal', 'mari\r\n gold deal', '#'],
  ['100 % sure', 'we are 100 % sure', 'we are #']
];
const NAMED: [name: string, text: string, bars: string][] = [
  ['Kit', 'the kitchen is Kit\u2019s, says kit', 'the kitchen is #, says #'],
  ['Kit', 'kit_2024.jpg and IMG-KitAtSea.png', '#_2024.jpg and IMG-#AtSea.png'],
  ['Eirin', 'Eirins b\u00e5t', '# b\u00e5t'],
  ['\u7530\u4e2d', '\u6628\u65e5\u7530\u4e2d\u304c\u6765\u305f', '\u6628\u65e5#\u304c\u6765\u305f'],
  [
    '\u0623\u062d\u0645\u062f',
    '\u0642\u0627\u0644 \u0648\u0623\u062d\u0645\u062f \u0627\u0644\u064a\u0648\u0645',
    '\u0642\u0627\u0644 # \u0627\u0644\u064a\u0648\u0645'
  ]
];

test('what is covered is found however it is written, and bars tell nothing of it', () => {
  const shown = (secret: string, text: string, isName: boolean): string => {
    let [out, at] = ['', 0];
    const spans = new Secrets([{ text: secret, code: 'X', isName }]).placesIn(text);
    for (const { from, to } of spans.sort((a, b) => a.from - b.from)) {
      out += `${text.slice(at, from)}#`;
      at = to;
    }
    return out + text.slice(at);
  };
  for (const [secret, text, bars] of FOUND) assert.equal(shown(secret, text, false), bars, text);
  for (const [name, text, bars] of NAMED) assert.equal(shown(name, text, true), bars, text);
});

test('a number is found in its national and its international form, in links, with 00', () => {
  const forms = [
    '+44 7700 900123',
    '07700 900123',
    '(0)7700-900123',
    '0044 7700 900 123',
    'tel:+447700900123',
    'https://chat.example/447700900123?x=1',
    '%2B447700900123',
    'to=%204477 00900123'
  ];
  for (const covered of ['+447700900123', '07700 900123', '0044 7700 900123']) {
    const secrets = new Secrets([{ text: covered, code: 'N' }]);
    for (const text of forms) assert.ok(secrets.firstIn(text), `${covered} in ${text}`);
    for (const other of ['+44 7700 900124', '17700900123456', '900123'])
      assert.equal(secrets.firstIn(other), null, `${covered} in ${other}`);
  }
});

test('a text is read as it is escaped, whatever stands around, and whole characters are covered', () => {
  const escapes: ((char: string) => string)[] = [
    (char) => char,
    (char) => encodeURIComponent(char),
    (char) => `&#${char.codePointAt(0)};`,
    (char) =>
      char.replace(/[^]/g, (unit) => `\\u${unit.charCodeAt(0).toString(16).padStart(4, '0')}`)
  ];
  const word = 'S\u00f8r\ud83d\udc69k\u0430';
  fc.assert(
    fc.property(
      fc.nat(3),
      fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }),
      fc.string({ unit: fc.constantFrom('-', '.', ' ', '%', '&', '5', '\\', '<') }),
      fc.string({ unit: fc.constantFrom('-', '.', ' ', ';', '5') }),
      (way, which, before, after) => {
        const written = [...word]
          .map((char, i) => (which[i] ? escapes[way]!(char) : char))
          .join('');
        const text = `${before}.${written}.${after}`;
        const spans = new Secrets([{ text: word, code: 'X' }]).placesIn(text);
        assert.ok(
          spans.some(
            ({ from, to }) => from <= before.length + 1 && to >= before.length + 1 + written.length
          ),
          text
        );
      }
    )
  );
});

test('words that are covered and stand escaped in messages are covered in every format', async () => {
  const made = madeCase({ messages: 40, hard: false, pictureEvery: 0 });
  const { messages } = made.findings;
  messages[2]!.body = 'see https://map.example/?q=Z%C3%A9phyrine%20M%C3%A5ne';
  messages[5]!.body = 'see &quot;Z&#233;phyrine M&#xe5;ne&quot; and Z\\u00e9phyrine M\\u00e5ne';
  messages[8]!.body = 'see Z\u00e9phy<i>rine</i> M\u00e5ne';
  const { files } = await produced(
    made,
    { formats: ALL, redactions: [{ text: 'Z\u00e9phyrine M\u00e5ne', code: 'A' }] },
    { print: nativePrinter() }
  );
  assertNowhere(files, ['phyrine', 'M%C3%A5ne', 'z%c3%a9', '&#233;', 'u00e9']);
});

/** Everything that a reader with the system's own tools gets out of a package. */
function assertNowhere(files: ReadonlyMap<string, Uint8Array>, secrets: readonly string[]): void {
  for (const { path, text } of readablePackage(files)) {
    const plain = text.normalize('NFKC').toLowerCase().replace(/\s+/g, ' ');
    for (const secret of secrets)
      assert.ok(!plain.includes(secret.toLowerCase()), `${path} tells ${secret}`);
  }
}

function withSecrets(): MadeCase {
  const made = madeCase({ messages: 60, hard: false, pictureEvery: 10 });
  const { messages, contacts, attachments, gaps, people } = made.findings;
  messages[3]!.body = 'Under Marigold nothing is signed, wait for Zephyrine';
  messages[3]!.reactions = [{ person: null, text: 'zephyrine!', at: null }];
  messages[3]!.location = { lat: 59.123456, lon: 10.654321, label: 'Zephyrine house' };
  messages[9]!.body = 'she said MARI\u00adGOLD\u00a0again';
  messages[9]!.replyTo = messages[3]!.id;
  messages[9]!.reasons = ['row beside Marigold'];
  messages[9]!.proofs[0]!.path = 'chats/marigold.db';
  messages[14]!.subject = 'Re: mari\u200bgold';
  if (gaps[0]) gaps[0].reason = 'rows around marigold';
  attachments[0]!.name = 'marigold-plan.jpg';
  contacts[0]!.note = 'knows of Marigold';
  contacts[0]!.phones.push('+4790055555');
  contacts[0]!.person = people[1]!.id;
  made.sources[0]!.name = 'Marigold handset';
  return made;
}

test('a stretch, a person and a whole message are in no byte of any format', async () => {
  const made = withSecrets();
  const { messages } = made.findings;
  const from = messages[3]!.body.indexOf('Marigold');
  const { files } = await produced(
    made,
    {
      formats: ALL,
      title: 'Marigold and the ferry',
      redactions: [
        { message: messages[3]!.id, from, to: from + 8, code: 'TRADE' },
        { message: messages[4]!.id, whole: true, code: 'PRIV' },
        { person: 'p:+4790000111', code: 'NAME' }
      ],
      reasons: [{ code: 'TRADE', reason: 'the name Marigold' }]
    },
    { print: nativePrinter() }
  );
  assert.ok(files.has('data/record.pdf'));
  assertNowhere(files, [
    'marigold',
    'mira',
    'holt',
    '90000111',
    '90055555',
    messages[4]!.body.slice(0, 30)
  ]);
});

test('a covered message leaves no place, reactions or subject; a short stretch nothing in its message', async () => {
  const made = withSecrets();
  const { messages, attachments } = made.findings;
  messages[4]!.location = { lat: 51.987654, lon: -1.234567, label: 'the yard' };
  messages[4]!.reactions = [{ person: null, text: 'wow indeed', at: null }];
  messages[4]!.subject = 'the subject';
  messages[5]!.body = 'ask Bo about it, Bo knows';
  messages[5]!.reactions = [{ person: null, text: 'bo!', at: null }];
  messages[5]!.subject = 'BO';
  const id = 's1.1/a/x';
  attachments.push({
    ...attachments[0]!,
    id,
    message: messages[5]!.id,
    name: 'bo.jpg',
    sha256: null
  });
  messages[5]!.attachments = [id];
  messages[6]!.replyTo = messages[5]!.id;
  const { text } = await produced(made, {
    formats: ['jsonl'],
    redactions: [
      { message: messages[4]!.id, whole: true, code: 'PRIV' },
      { message: messages[5]!.id, from: 4, to: 6, code: 'NAME' }
    ]
  });
  const records = text('data/records.jsonl')
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  const covered = records.find(({ id }) => id === messages[4]!.id)!;
  assert.deepEqual([covered.location, covered.reactions, covered.subject], [null, [], null]);
  const own = records.filter(({ id: of }) => of === messages[5]!.id || of === id);
  assert.equal(own.length, 2);
  assert.ok(!/\bbo\b/i.test(JSON.stringify(own)), JSON.stringify(own));
});

test('the words of an answered message that was not chosen are not shown', async () => {
  const made = withSecrets();
  const { messages } = made.findings;
  const answer = messages[9]!;
  const { text } = await produced(made, {
    formats: ['txt', 'jsonl', 'html'],
    choose: { messages: [answer.id], gaps: false }
  });
  assert.ok(!text('data/records.jsonl').includes('nothing is signed'));
});

test('words covered in a conversation that is not produced are covered in those that are', async () => {
  const made = withSecrets();
  const { messages } = made.findings;
  const other = messages.find(({ thread }) => thread !== messages[3]!.thread)!;
  other.body = 'they spoke of marigold';
  const from = messages[3]!.body.indexOf('Marigold');
  const { files } = await produced(made, {
    formats: ['csv', 'txt', 'jsonl'],
    choose: { threads: [other.thread] },
    redactions: [{ message: messages[3]!.id, from, to: from + 8, code: 'TRADE' }]
  });
  assertNowhere(files, ['marigold']);
});

test('random stretches of random cases stand in no file', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.nat(500),
      fc.nat(59),
      // Within a word that is none of the program's own.
      fc.nat(5),
      fc.integer({ min: 6, max: 30 }),
      async (seed, n, start, length) => {
        const made = madeCase({ seed, messages: 60, hard: false, pictureEvery: 0 });
        const message = made.findings.messages[n]!;
        message.body = `quixotry${seed} ${message.body} zymurgist${n}`;
        const from = Math.min(start, message.body.length - 7);
        const to = Math.min(from + length, message.body.length);
        const secret = message.body.slice(from, to);
        // Shorter ones are covered in their message alone.
        fc.pre(secret.trim().length >= 6);
        const { files } = await produced(made, {
          formats: ALL.filter((name) => name !== 'pdf' && name !== 'media'),
          redactions: [{ message: message.id, from, to, code: 'A' }]
        });
        assertNowhere(files, [secret.trim()]);
      }
    ),
    { numRuns: 25 }
  );
});

test('a picture that is covered in part keeps nothing beside its pixels', async () => {
  const made = madeCase({ messages: 30, hard: false, pictureEvery: 10 });
  const [attachment] = made.findings.attachments;
  const png = withText(
    encodePng({ width: 8, height: 8, data: new Uint8Array(8 * 8 * 3).fill(200), channels: 3 }),
    'Comment',
    'the secret Marigold'
  );
  const sum = sha256(png);
  made.files.set(sum, png);
  Object.assign(attachment!, {
    sha256: sum,
    mime: 'image/png',
    name: 'plan.png',
    bytes: png.length
  });
  const { files } = await produced(made, {
    formats: ['media', 'html', 'eml'],
    redactions: [
      {
        attachment: attachment!.id,
        area: { x: 0, y: 0, width: 0.5, height: 0.5 },
        code: 'ID'
      }
    ]
  });
  assertNowhere(files, ['marigold']);
});

/** A picture with a text beside its pixels (PNG specification, section 11.3.3). */
function withText(png: Uint8Array, key: string, text: string): Uint8Array {
  const data = Buffer.from(`tEXt${key}\0${text}`, 'latin1');
  const length = Buffer.alloc(4);
  length.writeUInt32BE(data.length - 4);
  const chunk = Buffer.concat([length, data, Buffer.alloc(4)]);
  const crc = Buffer.alloc(4);
  crc.writeUInt32BE(crcOf(data));
  crc.copy(chunk, chunk.length - 4);
  // Behind the header, whose chunk is 25 bytes long.
  return Buffer.concat([png.subarray(0, 33), chunk, png.subarray(33)]);
}

function crcOf(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
  }
  return (crc ^ 0xffffffff) >>> 0;
}

const HIDDEN = Buffer.from('so Marigold it is');

function pagesWith(head: string, data: Uint8Array): Buffer {
  return Buffer.concat([
    latin(`%PDF-1.4\n1 0 obj\n${head}/Length ${data.length}>>\nstream\n`),
    data,
    latin('\nendstream\nendobj\n')
  ]);
}

const latin = (text: string): Uint8Array => Buffer.from(text, 'latin1');
const CARRIERS: [what: string, bytes: Uint8Array][] = [
  ['a text', Buffer.from('of Marigold')],
  ['a text in UTF-16', Buffer.from('\ufeffof Marigold and others here', 'utf16le')],
  [
    'an office file',
    zipSync({ 'word/document.xml': Buffer.from('<w:t>Mari</w:t><w:t>gold</w:t>') })
  ],
  [
    'a picture with Exif',
    Buffer.concat([latin('\xff\xd8\xff\xe1\0\x20Exif\0\0'), latin('\0Marigold\0')])
  ],
  [
    'a picture with a comment',
    withText(Buffer.concat([latin('\x89PNG\r\n\x1a\n'), Buffer.alloc(25)]), 'A', 'Marigold')
  ],
  [
    'pages',
    Buffer.concat([
      latin('%PDF-1.4\n1 0 obj\n<</Length 99/Filter/FlateDecode>>\nstream\n'),
      deflateSync(latin('BT /F1 12 Tf [(Mari) 20 (gold)] TJ ET')),
      latin('\nendstream\nendobj\n')
    ])
  ],
  [
    'an archive that is attached to pages',
    pagesWith('<</Type/EmbeddedFile', zipSync({ a: HIDDEN }))
  ],
  [
    'a picture on a page, with a comment',
    pagesWith('<</Subtype/Image/Filter/DCTDecode', latin('\xff\xd8\xff\xfe\0\x0aMarigold\0'))
  ],
  ['what stands behind the end of pages', latin('%PDF-1.4\n%%EOF\nMarigold')],
  ['a contact card', Buffer.from('BEGIN:VCARD\nFN:Mari\n gold\nEND:VCARD')],
  [
    'a mail',
    Buffer.from(
      `Content-Transfer-Encoding: base64\n\n${Buffer.from('so Marigold it is').toString('base64')}\n`
    )
  ]
];

for (const [what, bytes] of CARRIERS)
  test(`covered words inside of ${what} are found, and it goes along by a decision alone`, async () => {
    const { leaks } = await searched(bytes, new Secrets([{ text: 'marigold', code: 'T' }]));
    assert.equal(leaks.length, 1);
    const made = madeCase({ messages: 20, hard: false, pictureEvery: 10 });
    const [attachment] = made.findings.attachments;
    made.findings.messages[2]!.body = 'all of Marigold';
    const sum = sha256(bytes);
    made.files.set(sum, bytes);
    Object.assign(attachment!, { sha256: sum, mime: null, name: 'carrier.bin' });
    const settings = {
      formats: ['media', 'eml', 'csv'],
      redactions: [{ text: 'Marigold', code: 'TRADE' }]
    };
    await assert.rejects(produced(made, settings), (error: unknown) => {
      assert.ok(error instanceof UndecidedError);
      assert.match(error.message, /carrier\.bin \(TRADE\)/);
      return true;
    });
    const along = { attachment: attachment!.id, goesAlong: true };
    const { files } = await produced(made, { ...settings, decisions: [along] });
    assert.ok([...files.values()].some((found) => Buffer.from(found).equals(bytes)));
    const whole = { attachment: attachment!.id, whole: true, code: 'TRADE' };
    const covered = await produced(made, {
      ...settings,
      redactions: [...settings.redactions, whole]
    });
    assert.ok(![...covered.files.values()].some((found) => Buffer.from(found).equals(bytes)));
  });

/** Files that hold what no search can see. */
const UNREADABLE: [what: string, bytes: () => Promise<Uint8Array>][] = [
  ['a locked archive', () => zipped(HIDDEN, { password: 'oak', zipCrypto: true })],
  ['an archive locked by AES', () => zipped(HIDDEN, { password: 'oak' })],
  ['an archive whose directory is cut off', async () => (await zipped(HIDDEN)).slice(0, -30)],
  [
    'an archive with a damaged part',
    async () => damaged(await zipped(Buffer.from('oak and elm '.repeat(90))))
  ],
  ['an archive in archives', () => nested(6)],
  ['a cut gzip', () => Promise.resolve(gzipSync(randomBytes(500)).subarray(0, 300))],
  [
    'a package of another kind',
    () => Promise.resolve(Buffer.concat([latin('7z\xbc\xaf\x27\x1c'), randomBytes(60)]))
  ],
  [
    'locked pages',
    () => Promise.resolve(latin('%PDF-1.7\ntrailer\n<</Root 1 0 R/Encrypt 9 0 R>>\n'))
  ],
  [
    'pages under a filter that is not opened',
    () =>
      Promise.resolve(
        latin('%PDF-1.4\n1 0 obj\n<</Filter/LZWDecode>>\nstream\n\x80\x0b\nendstream\nendobj\n')
      )
  ],
  [
    'pages of a font without signs',
    () => Promise.resolve(latin('%PDF-1.4\n4 0 obj\n<</Type/Font/Subtype/Type0>>\nendobj\n'))
  ]
];

for (const [what, make] of UNREADABLE)
  test(`${what} cannot be read inside, and goes along by a decision alone`, async () => {
    const bytes = await make();
    const { leaks, unread } = await searched(bytes, new Secrets([{ text: 'marigold', code: 'T' }]));
    assert.deepEqual(leaks, []);
    assert.equal(unread.length, 1, unread.join('; '));
    const made = madeCase({ messages: 20, hard: false, pictureEvery: 10 });
    const [attachment] = made.findings.attachments;
    made.findings.messages[2]!.body = 'all of Marigold';
    const sum = sha256(bytes);
    made.files.set(sum, bytes);
    Object.assign(attachment!, { sha256: sum, mime: null, name: 'closed.bin' });
    const settings = { formats: ['media'], redactions: [{ text: 'Marigold', code: 'TRADE' }] };
    await assert.rejects(produced(made, settings), (error: unknown) => {
      assert.ok(error instanceof UndecidedError);
      assert.match(error.message, /closed\.bin.* cannot be read inside/);
      assert.deepEqual(error.files[0]!.codes, ['TRADE']);
      return true;
    });
    const along = { attachment: attachment!.id, goesAlong: true };
    const { files } = await produced(made, { ...settings, decisions: [along] });
    assert.ok([...files.values()].some((found) => Buffer.from(found).equals(bytes)));
  });

test('each part of an archive is searched beside a locked one, and each member of a gzip', async () => {
  const secrets = new Secrets([{ text: 'marigold', code: 'T' }]);
  const members = Buffer.concat([gzipSync(latin('nothing here')), gzipSync(HIDDEN)]);
  const writer = new ZipWriter(new Uint8ArrayWriter());
  await writer.add('a.txt', new Uint8ArrayReader(randomBytes(300)), {
    password: 'oak',
    useWebWorkers: false
  });
  await writer.add('b.txt', new Uint8ArrayReader(HIDDEN), { useWebWorkers: false });
  for (const bytes of [members, await writer.close()])
    assert.equal((await searched(bytes, secrets)).leaks.length, 1);
});

async function zipped(
  bytes: Uint8Array,
  options: ZipWriterAddDataOptions = {}
): Promise<Uint8Array> {
  const writer = new ZipWriter(new Uint8ArrayWriter());
  await writer.add('inside.txt', new Uint8ArrayReader(bytes), { useWebWorkers: false, ...options });
  return writer.close();
}

async function nested(deep: number): Promise<Uint8Array> {
  let bytes: Uint8Array = HIDDEN;
  for (let i = 0; i < deep; i++) bytes = await zipped(bytes);
  return bytes;
}

/** With a first block of the kind that deflate does not know (RFC 1951, section 3.2.3). */
function damaged(zip: Uint8Array): Uint8Array {
  const out = zip.slice();
  out[30 + 'inside.txt'.length + (out[28]! | (out[29]! << 8))] = 7;
  return out;
}

test('the last search reads what the formats write, packed and encoded as they are', async () => {
  const made = madeCase({ messages: 20, hard: false, pictureEvery: 0 });
  made.findings.messages[2]!.body = 'under Marigold, \u00e6ble og \u65e5\u672c\u8a9e';
  const { files } = await produced(
    made,
    { formats: ALL.filter((name) => !['vcf', 'ics', 'media'].includes(name)) },
    { print: nativePrinter() }
  );
  for (const word of ['marigold', '\u00e6ble', '\u65e5\u672c\u8a9e']) {
    const secrets = new Secrets([{ text: word, code: 'A' }]);
    const formats = new Set<string>();
    for (const [path, bytes] of files) {
      const { leaks, unread } = await searched(bytes, secrets);
      assert.deepEqual(unread, [], path);
      if (leaks.length > 0) formats.add(path.replace(/.*\./, ''));
    }
    for (const ending of ['pdf', 'html', 'xlsx', 'csv', 'txt', 'jsonl', 'eml', 'mbox'])
      assert.ok(formats.has(ending), `${word} in ${ending}`);
  }
});

test('a redaction that covers nothing is refused by name', async () => {
  const made = madeCase({ messages: 20, hard: false, pictureEvery: 10 });
  const [attachment] = made.findings.attachments;
  const refused: [object, RegExp][] = [
    [{ text: 'nowhere at all', code: 'A' }, /“nowhere at all” .* stands nowhere/],
    [area(0.2, 0.2, 0, 0.5), /no size or lies outside/],
    [area(1.2, 0.2, 0.5, 0.5), /no size or lies outside/],
    [
      { message: made.findings.messages[0]!.id, from: 9999, to: 10_001, code: 'A' },
      /outside its text/
    ]
  ];
  function area(x: number, y: number, width: number, height: number): object {
    return { attachment: attachment!.id, area: { x, y, width, height }, code: 'A' };
  }
  for (const [redaction, words] of refused)
    await assert.rejects(
      produced(made, { formats: ['csv'], redactions: [redaction] }),
      (error: unknown) => error instanceof RedactionError && words.test(error.message)
    );
});

test('who sent a file, and the paths of stores beside lines, are covered like all else', async () => {
  const made = madeCase({ messages: 80, hard: false });
  const { stores, messages, attachments } = made.findings;
  stores.push({ ...stores[0]!, id: 's1.2', path: 'letters of Mira Holt/chat.db' });
  for (const message of messages.filter(({ thread }) => thread === 's1.1/t/0').slice(2, 5))
    message.store = 's1.2';
  const [file] = attachments;
  const carrier = messages.find(({ id }) => id === file!.message)!;
  [carrier.sender, carrier.direction] = ['p:+4790000111', 'incoming'];
  const { files } = await produced(
    made,
    {
      formats: ALL,
      redactions: [{ person: 'p:+4790000111', code: 'PRIV' }],
      exhibits: [
        { kind: 'files', files: [file!.id] },
        {
          kind: 'lines',
          messages: messages.filter(({ thread }) => thread === 's1.1/t/0').map(({ id }) => id)
        }
      ]
    },
    { print: nativePrinter() }
  );
  for (const { path, text } of readablePackage(files))
    assert.doesNotMatch(text, /mira|holt|4790000111/i, path);
  assert.match(Buffer.from(files.get('data/files.csv')!).toString(), /PRIV/);
});
