import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { readLog, type ChatLog } from '.';

function read(text: string | Buffer, path = 'chat.txt', zone = 'Etc/UTC'): ChatLog {
  const log = readLog(Buffer.from(text as string), path, zone);
  assert.ok(log, `no log: ${String(text).slice(0, 80)}`);
  return log;
}

/** Each entry as `time|sender|text`. */
function told(log: ChatLog): string[] {
  return log.entries.map(
    ({ at, sender, text }) =>
      `${at === null ? '?' : new Date(at).toISOString().slice(0, 19)}|${sender ?? ''}|${text}`
  );
}

const EXPECTED = [
  '2026-11-23T21:41:05|Tilda Roe|Is the tide with us?',
  '2026-11-24T09:05:00|Ansel|At nine: yes',
  '2026-11-24T09:06:30|Tilda Roe|Good.'
];
const WITHOUT_SECONDS = EXPECTED.map((line) => line.replace(/:\d\d\|/, ':00|'));

const FORMS: [string, string[], string[]][] = [
  [
    'brackets, day first',
    ['[23/11/2026, 21:41:05] ', '[24/11/2026, 09:05:00] ', '[24/11/2026, 09:06:30] '],
    EXPECTED
  ],
  [
    'brackets, half days',
    [
      '[11/23/26, 9:41:05\u202fPM] ',
      '[11/24/26, 9:05:00\u202fAM] ',
      '[11/24/26, 9:06:30\u202fAM] '
    ],
    EXPECTED
  ],
  ['dash', ['23.11.26, 21:41 - ', '24.11.26, 09:05 - ', '24.11.26, 09:06 - '], WITHOUT_SECONDS],
  [
    'year first',
    ['2026-11-23 21:41:05 - ', '2026-11-24 09:05:00 - ', '2026-11-24 09:06:30 - '],
    EXPECTED
  ],
  [
    'Spanish half days',
    ['23/11/26 9:41 p. m. - ', '24/11/26 9:05 a. m. - ', '24/11/26 9:06 a. m. - '],
    WITHOUT_SECONDS
  ],
  [
    'half day before the time',
    ['2026/11/23 下午9:41 - ', '2026/11/24 上午9:05 - ', '2026/11/24 上午9:06 - '],
    WITHOUT_SECONDS
  ],
  [
    'syllables',
    ['2026. 11. 23. 오후 9:41, ', '2026. 11. 24. 오전 9:05, ', '2026. 11. 24. 오전 9:06, '],
    WITHOUT_SECONDS
  ],
  [
    'months by name',
    [
      '23 November 2026 at 21:41 - ',
      '24 November 2026 at 09:05 - ',
      '24 November 2026 at 09:06 - '
    ],
    WITHOUT_SECONDS
  ],
  [
    'months by name in German',
    [
      '23. Dezember 2026 um 21:41 - ',
      '24. Dezember 2026 um 09:05 - ',
      '24. Dezember 2026 um 09:06 - '
    ],
    WITHOUT_SECONDS.map((l) => l.replace('-11-', '-12-'))
  ],
  [
    'digits of another script',
    ['٢٣/١١/٢٠٢٦، ٢١:٤١ - ', '٢٤/١١/٢٠٢٦، ٠٩:٠٥ - ', '٢٤/١١/٢٠٢٦، ٠٩:٠٦ - '],
    WITHOUT_SECONDS
  ],
  [
    'marks of direction',
    ['\u200e[23.11.26, 21:41:05] ', '[24.11.26, 09:05:00] \u200e', '[24.11.26, 09:06:30] '],
    EXPECTED
  ]
];

test('exports in many locales', () => {
  for (const [label, [a, b, c], expected] of FORMS) {
    const text = `${a}Tilda Roe: Is the tide with us?\n${b}Ansel: At nine: yes\n${c}Tilda Roe: Good.\n`;
    assert.deepEqual(told(read(text)), expected, label);
  }
});

test('the order of day and month comes from the whole file', () => {
  const days = [3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13];
  const american = days.map((d) => `5/${d}/26, 9:0${d % 10} AM - A: hello ${d}`).join('\n');
  const european = days.map((d) => `${d}/5/26, 09:0${d % 10} - A: hello ${d}`).join('\n');
  for (const text of [american, european]) {
    const log = read(text);
    assert.equal(told(log)[0]!.slice(0, 10), '2026-05-03');
    assert.equal(told(log)[10]!.slice(0, 10), '2026-05-13');
  }
  // No number is past 12: time goes forward under one order only.
  const months = ['1/2/26', '2/2/26', '3/2/26', '1/3/26', '2/3/26'].map(
    (d) => `${d}, 10:00 - A: x`
  );
  assert.equal(told(read(months.join('\n')))[3]!.slice(0, 10), '2026-03-01');
});

test('texts of several lines, and what the program wrote itself', () => {
  const text = [
    '23/11/2026, 21:40 - Messages are end-to-end encrypted.',
    '23/11/2026, 21:41 - Tilda: First line',
    'second line',
    '',
    '12:30 is not a new entry here',
    '24/11/2026, 09:05 - Ansel: ok',
    '24/11/2026, 09:06 - Tilda: bye'
  ].join('\r\n');
  const log = read(text);
  assert.deepEqual(
    log.entries.map(({ sender }) => sender),
    [null, 'Tilda', 'Ansel', 'Tilda']
  );
  assert.equal(log.entries[1]!.text, 'First line\nsecond line\n\n12:30 is not a new entry here');
  const { offset, length } = log.entries[1]!;
  assert.match(
    Buffer.from(text)
      .subarray(offset, offset + length)
      .toString(),
    /^23\/11.*entry here\r?$/s
  );
});

test('times without a zone are those of the zone that is given', () => {
  const text =
    '[01/07/2026, 12:00:00] A: x\n[01/12/2026, 12:00:00] B: y\n[02/12/2026, 12:00:00] A: z\n';
  const log = read(text, 'c.txt', 'Europe/Oslo');
  assert.deepEqual(
    told(log).map((line) => line.slice(11, 16)),
    ['10:00', '11:00', '11:00']
  );
});

test('logs of chat clients: headings for the day, names in brackets, midnight in between', () => {
  const cases: [string, string, string[]][] = [
    [
      'x.log',
      '--- Log opened Mon Nov 23 23:58:00 2026\n23:58 < tilda> late\n23:59 -!- ansel has joined\n23:59 <@ansel> yes: late\n--- Day changed Tue Nov 24 2026\n00:01 < tilda> later\n',
      [
        '2026-11-23T23:58:00|tilda|late',
        '2026-11-23T23:59:00||-!- ansel has joined',
        '2026-11-23T23:59:00|ansel|yes: late',
        '2026-11-24T00:01:00|tilda|later'
      ]
    ],
    [
      'log/2026-11-23.235801.txt',
      'Conversation with ansel at 2026-11-23 23:58:01 on tilda (chat)\n(23:58:01) tilda: late\n(23:59:10) ansel: yes\n(00:01:00) tilda: later\n',
      [
        '2026-11-23T23:58:01|tilda|late',
        '2026-11-23T23:59:10|ansel|yes',
        '2026-11-24T00:01:00|tilda|later'
      ]
    ],
    [
      'tabs.log',
      '2026-11-23 23:58:01\ttilda\tlate\n2026-11-23 23:59:01\t-->\tansel joined\n2026-11-23 23:59:10\tansel\tyes\n2026-11-24 00:01:00\ttilda\tlater\n',
      [
        '2026-11-23T23:58:01|tilda|late',
        '2026-11-23T23:59:01||-->\tansel joined',
        '2026-11-23T23:59:10|ansel|yes',
        '2026-11-24T00:01:00|tilda|later'
      ]
    ],
    [
      'l.txt',
      '2026/11/23(Mon)\n23:58\tTilda\tlate\n23:59\tAnsel\tyes\n2026/11/24(Tue)\n00:01\tTilda\tlater\n',
      [
        '2026-11-23T23:58:00|Tilda|late',
        '2026-11-23T23:59:00|Ansel|yes',
        '2026-11-24T00:01:00|Tilda|later'
      ]
    ]
  ];
  for (const [path, text, expected] of cases)
    assert.deepEqual(told(read(text, path)), expected, path);
});

test('logs as web pages, by lines and by elements', () => {
  const lines =
    '<html><head><title>Conversation with ansel at 23/11/2026 23:58</title></head><body><h3>Conversation with ansel at 23/11/2026 23:58:01</h3>\n' +
    '<font color="#1"><font size="2">(23:58:01)</font> <b>tilda:</b></font> late &amp; wet<br/>\n' +
    '<font color="#2"><font size="2">(23:59:10)</font> <b>ansel:</b></font> yes<br/>\n' +
    '<font color="#1"><font size="2">(00:01:00)</font> <b>tilda:</b></font> later<br/>\n</body></html>';
  assert.deepEqual(told(read(lines, 'a.html')), [
    '2026-11-23T23:58:01|tilda|late & wet',
    '2026-11-23T23:59:10|ansel|yes',
    '2026-11-24T00:01:00|tilda|later'
  ]);
  const block = (title: string, name: string, text: string): string =>
    `<div class="message"><div class="date" title="${title}">21:41</div>${name ? `<div class="from_name">${name}</div>` : ''}<div class="text">${text}</div></div>`;
  const page = `<!DOCTYPE html><body>${block('23.11.2026 21:41:05 UTC+01:00', 'Tilda Roe', 'Is it?<br>Really?')}${block('23.11.2026 21:42:00 UTC+01:00', '', 'Hm')}${block('24.11.2026 09:05:00 UTC+01:00', 'Ansel', 'Yes')}</body>`;
  assert.deepEqual(told(read(page, 'messages.html')), [
    '2026-11-23T20:41:05|Tilda Roe|Is it?\nReally?',
    '2026-11-23T20:42:00|Tilda Roe|Hm',
    '2026-11-24T08:05:00|Ansel|Yes'
  ]);
});

test('prose, tables of numbers and random text are no logs', () => {
  const texts = [
    'Dear yard committee,\nthe tea urn is broken.\nYours\n',
    Array.from({ length: 40 }, (_, i) => `${i}, ${i * 7}, ${i * 31}`).join('\n'),
    Array.from({ length: 40 }, (_, i) => `2026-11-23 10:${10 + i} kernel booted in ${i} ms`).join(
      '\n'
    )
  ];
  for (const text of texts)
    assert.equal(readLog(Buffer.from(text), 'x.txt', 'Etc/UTC'), null, text.slice(0, 40));
  fc.assert(
    fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
      readLog(Buffer.from(text), 'x.txt', 'Etc/UTC');
    })
  );
});

test('what a storage engine notes of its own work is no conversation', () => {
  const lines = [
    'Reusing MANIFEST /data/store/MANIFEST-000001',
    'Recovering log #3: 12 records',
    'Level-0 table #5: started',
    'Level-0 table #5: 3120 bytes OK',
    'Delete type=0 #3: done'
  ].map((text, i) => `2026/03/0${i + 1}-10:11:1${i}.12345${i} 1f7c ${text}`);
  const text = `${lines.join('\n')}\n`;
  assert.equal(readLog(Buffer.from(text), 'store/LOG', 'Etc/UTC'), null);
  // The same figures in a conversation that people wrote.
  const said = lines.map((line) => line.replace(/ 1f7c .*/, ' Tilda: on my way'));
  assert.equal(read(said.join('\n')).entries.length, lines.length);
});
