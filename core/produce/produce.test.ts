import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import fc from 'fast-check';
import { csvField } from './csv';
import { escapeHtml } from './escape';
import { FORMATS, produce, ZonedTime, type Production, type ProductionLine } from '.';
import { safeFileName } from './names';

function line(change: Partial<ProductionLine>): ProductionLine {
  return {
    number: 1,
    id: 'm1',
    at: Date.UTC(2026, 2, 12, 7, 55, 12),
    sender: 'Halvard Nystuen',
    address: '+44 7700 900184',
    direction: 'incoming',
    body: 'text',
    subject: null,
    state: 'live',
    certainty: 100,
    proofs: [],
    attachments: [],
    ...change
  };
}

function production(lines: ProductionLine[], title = 'Halvard Nystuen'): Production {
  return {
    caseName: 'Ferry deposit',
    made: Date.UTC(2026, 10, 3),
    zone: 'Europe/Oslo',
    sources: [{ id: 's1', name: 'Phone', sha256: 'ab'.repeat(32), bytes: 10 }],
    threads: [{ title, participants: [{ name: title, address: '+44 7700 900184' }], lines, of: 99 }]
  };
}

const HOSTILE = [
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  '</p></article><style>*{display:none}</style>',
  "' onmouseover='x",
  '&lt;b&gt; &amp;',
  '=HYPERLINK("http://a.example","x")',
  '+1+cmd|x!A0',
  '-2',
  '@SUM(1)',
  '\t=1+1',
  '\r\n=1',
  '../../etc/passwd',
  'CON',
  '\u202egnp.exe',
  'line one\n12  2026-03-12 08:00:00 UTC+1  Forged Name',
  '\ud800 lone surrogate',
  '\u0000\u0008'
];

test('nothing in a body, a subject or a name becomes markup or script', () => {
  for (const text of HOSTILE) {
    const lines = [
      line({
        body: text,
        subject: text,
        sender: text,
        attachments: [{ name: text, mime: text, bytes: 1 }]
      })
    ];
    for (const { text: page } of FORMATS.html.produce(production(lines, text))) {
      const tags = new Set([...page.matchAll(/<\s*([a-zA-Z]+)/g)].map((m) => m[1]!.toLowerCase()));
      for (const tag of ['script', 'img', 'iframe', 'object', 'svg', 'form']) {
        assert.ok(!tags.has(tag), `${tag} from ${JSON.stringify(text)}`);
      }
      assert.equal(page.match(/<style>/g)!.length, 1);
      assert.ok(
        !/\son\w+\s*=\s*['"]?x/.test(page.replace(/&quot;|&#39;/g, '')) || !page.includes("='x")
      );
      assert.ok(page.isWellFormed());
    }
  }
});

test('escaped text has no character that could open markup, whatever it was', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      const plain = escapeHtml(text).replaceAll(/<span class="code">U\+[0-9A-F]+<\/span>/g, '');
      assert.ok(!/[<>"']/.test(plain));
    })
  );
});

test('no field of the sheet is a formula', () => {
  for (const text of HOSTILE) {
    const field = csvField(text);
    const value = field.startsWith('"') ? field.slice(1, -1).replaceAll('""', '"') : field;
    assert.ok(!/^[=+\-@\t\r\n|%]/.test(value), JSON.stringify(text));
  }
});

test('the sheet reads back to the same fields', () => {
  fc.assert(
    fc.property(fc.array(fc.string({ minLength: 1 }), { minLength: 1, maxLength: 5 }), (fields) => {
      const parsed = parseCsvLine(fields.map(csvField).join(','));
      assert.deepEqual(parsed.map(unguard), fields.map(unguard));
    })
  );
});

function unguard(field: string): string {
  return field.replace(/^'/, '');
}

/** RFC 4180 for one record that may hold line ends. */
function parseCsvLine(text: string): string[] {
  const out: string[] = [];
  let at = 0;
  while (at <= text.length) {
    if (text[at] === '"') {
      let field = '';
      for (at++; text[at] !== '"' || text[at + 1] === '"'; at++) {
        field += text[at];
        if (text[at] === '"') at++;
      }
      out.push(field);
      at += 2;
    } else {
      const end = text.indexOf(',', at);
      out.push(text.slice(at, end < 0 ? text.length : end));
      at = end < 0 ? text.length + 1 : end + 1;
    }
  }
  return out;
}

test('file names cannot climb, hide or collide', () => {
  for (const text of [...HOSTILE, '', '...', 'a'.repeat(500), 'ليلى حداد']) {
    const name = safeFileName(7, text, 'html');
    assert.match(name, /^007-[\p{L}\p{N}-]+\.html$/u, JSON.stringify(text));
    assert.ok(name.length < 80);
  }
  assert.notEqual(safeFileName(1, 'same', 'txt'), safeFileName(2, 'same', 'txt'));
});

test('a body cannot pass for another line of the plain text', () => {
  const [file] = FORMATS.text.produce(production([line({ body: HOSTILE[14]! })]));
  const forged = file!.text.split('\n').filter((row) => /^\d+ {2}/.test(row));
  assert.equal(forged.length, 1);
});

test('times are written in the zone, on both sides of the change of clocks', () => {
  const time = new ZonedTime('Europe/Oslo');
  assert.equal(time.full(Date.UTC(2026, 2, 29, 0, 59, 59)), '2026-03-29 01:59:59 UTC+1');
  assert.equal(time.full(Date.UTC(2026, 2, 29, 1, 0, 0)), '2026-03-29 03:00:00 UTC+2');
  assert.equal(time.longDay(Date.UTC(2026, 2, 12, 8)), 'Thursday 12 March 2026');
  assert.equal(new ZonedTime('Etc/UTC').full(0), '1970-01-01 00:00:00 UTC+0');
  assert.equal(new ZonedTime('Asia/Kolkata').split(0).offset, 'UTC+5:30');
});

test('a lost stretch is shown, and only in fragments', () => {
  const [, page] = FORMATS.html.produce(
    production([
      line({ state: 'fragment', body: 'Bring it to the \ufffc' }),
      line({ number: 2, body: 'kept \ufffc as it is' })
    ])
  );
  assert.ok(page!.text.includes('Bring it to the […]'));
  assert.ok(page!.text.includes('kept \ufffc as it is'));
});

test('every file of a production is in the list of checksums', async () => {
  const sha256 = async (bytes: Uint8Array): Promise<string> =>
    createHash('sha256').update(bytes).digest('hex');
  const files = await produce(production([line({})]), ['html', 'csv', 'text'], sha256);
  const sums = files.at(-1)!;
  assert.equal(sums.path, 'SHA256SUMS');
  const listed = new Map(
    sums.text
      .trim()
      .split('\n')
      .map((row) => row.split('  ').reverse() as [string, string])
  );
  for (const file of files.slice(0, -1)) {
    assert.equal(
      listed.get(file.path),
      createHash('sha256').update(file.text).digest('hex'),
      file.path
    );
  }
  assert.equal(listed.size, files.length - 1);
});
