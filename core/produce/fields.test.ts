import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { visible, ZonedTime } from '../shown';
import { escapeHtml } from './escape';
import { csvField } from './formats/csv';
import { inert } from './formats/rows';
import { safeFileName } from './names';

const text = fc.string({ unit: 'binary', maxLength: 60 });

test('no text breaks out of its element or attribute', () => {
  fc.assert(
    fc.property(text, (raw) => {
      const bare = escapeHtml(raw).replace(/<span class="code">U\+[0-9A-F]{4,6}<\/span>/g, '');
      assert.ok(!/[<>"']/.test(bare), bare);
      assert.ok(!/&(?!(amp|lt|gt|quot|#39);)/.test(bare), bare);
    })
  );
});

/** What a page shows of escaped text, read back the slow way. */
function shown(markup: string): string {
  return markup
    .replace(/<span class="code">U\+([0-9A-F]+)<\/span>/g, (_, hex: string) =>
      String.fromCharCode(parseInt(hex, 16))
    )
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&quot;/g, '"')
    .replace(/&#39;/g, "'")
    .replace(/&amp;/g, '&');
}

test('every character of a text is on the page, those that cannot be seen by their code', () => {
  fc.assert(
    fc.property(text, (raw) => {
      if (/U\+[0-9A-F]{4}/.test(raw)) return;
      assert.equal(shown(escapeHtml(raw)), raw);
    })
  );
  assert.equal(escapeHtml('a\u202eb'), 'a<span class="code">U+202E</span>b');
  assert.equal(escapeHtml('\ud83d'), '<span class="code">U+D83D</span>');
  assert.equal(escapeHtml('🛶\t\n'), '🛶\t\n');
});

/** One line of a table of comma-separated values, read by the description (RFC 4180, section 2). */
function fieldsOf(line: string): string[] {
  const fields: string[] = [];
  for (let at = 0; at <= line.length;) {
    if (line[at] !== '"') {
      const comma = line.indexOf(',', at);
      const end = comma < 0 ? line.length : comma;
      fields.push(line.slice(at, end));
      at = end + 1;
      continue;
    }
    let field = '';
    for (at++; at < line.length; at++) {
      if (line[at] !== '"') field += line[at];
      else if (line[at + 1] === '"') field += line[at++];
      else break;
    }
    fields.push(field);
    at += 2;
  }
  return fields;
}

test('fields of a table read back, whatever they hold, and none is a formula', () => {
  fc.assert(
    fc.property(fc.array(text, { minLength: 1, maxLength: 5 }), (values) => {
      const read = fieldsOf(values.map((value) => csvField(inert(value))).join(','));
      assert.equal(read.length, values.length);
      read.forEach((field, i) => {
        const seen = visible(values[i]!);
        assert.ok(field === seen || field === `'${seen}`, JSON.stringify([field, seen]));
        assert.ok(!/^[=+\-@|%]/.test(field.trimStart()) || /^\+\d[\d ().-]+$/.test(field), field);
      });
    }),
    { numRuns: 1000 }
  );
});

test('what cannot be seen stands as its code point, and what can stays as it is', () => {
  assert.equal(visible('a\u202eb\0c'), 'a[U+202E]b[U+0000]c');
  assert.equal(visible('\ud83d'), '[U+D83D]');
  assert.equal(visible('🛶\tå\n'), '🛶\tå\n');
});

test('what a spreadsheet would work out is marked as text', () => {
  for (const formula of ['=1+1', '+44+7700', '-5', '@SUM(A1)', ' =cmd', '\t=x', '＝1', '|x', '%1'])
    assert.ok(fieldsOf(csvField(inert(formula)))[0]!.startsWith("'"), formula);
  for (const plain of ['the tide', '5 boats', 'a=b', 'x-y', '', '+44 7700 900184'])
    assert.equal(csvField(inert(plain)), plain);
});

test('a file name can be used anywhere, whatever the title', () => {
  fc.assert(
    fc.property(fc.nat(2000), text, (number, title) => {
      const name = safeFileName(number, title, 'html');
      assert.match(name, /^\d{3,}-[\p{L}\p{N}-]+\.html$/u);
      assert.ok(Buffer.byteLength(name) <= 255, name);
      assert.ok(!name.includes('..') && !name.includes('/') && !name.includes('\\'));
    }),
    { numRuns: 500 }
  );
  const cases: [string, string][] = [
    ['Halvard Nystuen', '001-halvard-nystuen.html'],
    ['../../etc', '001-etc.html'],
    ['CON', '001-thread-con.html'],
    ['', '001-thread.html'],
    ['名前 / 船', '001-名前-船.html'],
    ['???', '001-thread.html']
  ];
  for (const [title, name] of cases) assert.equal(safeFileName(1, title, 'html'), name, title);
});

test('times are written in their zone, with its offset of that day', () => {
  const winter = Date.UTC(2026, 0, 12, 23, 30, 5);
  const summer = Date.UTC(2026, 6, 12, 23, 30, 5);
  const cases: [string, number, string][] = [
    ['Etc/UTC', winter, '2026-01-12 23:30:05 UTC+0'],
    ['Europe/Oslo', winter, '2026-01-13 00:30:05 UTC+1'],
    ['Europe/Oslo', summer, '2026-07-13 01:30:05 UTC+2'],
    ['America/St_Johns', winter, '2026-01-12 20:00:05 UTC-3:30'],
    ['Asia/Kathmandu', winter, '2026-01-13 05:15:05 UTC+5:45']
  ];
  for (const [zone, at, expected] of cases) assert.equal(new ZonedTime(zone).full(at), expected);
  assert.equal(new ZonedTime('Europe/Oslo').longDay(winter), 'Tuesday 13 January 2026');
});

test('a written time and its offset give the moment back', () => {
  const zones = ['Etc/UTC', 'Europe/Oslo', 'Asia/Kolkata', 'America/St_Johns', 'Pacific/Chatham'];
  const seconds = fc.integer({ min: Date.UTC(1995, 0) / 1000, max: Date.UTC(2040, 0) / 1000 });
  fc.assert(
    fc.property(fc.constantFrom(...zones), seconds, (zone, second) => {
      const { date, time, offset } = new ZonedTime(zone).split(second * 1000);
      const [, sign, hours, minutes = '0'] = /^UTC([+-])(\d+)(?::(\d+))?$/.exec(offset)!;
      const shift = (Number(hours) * 60 + Number(minutes)) * 60_000 * (sign === '-' ? -1 : 1);
      assert.equal(Date.parse(`${date}T${time}Z`) - shift, second * 1000);
    })
  );
});
