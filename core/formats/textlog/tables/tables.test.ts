import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { tablesInText } from '.';
import { isSheet } from './csv';
import { columnNames, plainHeadings } from './headings';
import { withPlainMoments } from './moments';

test('headings in other languages get the names that the rest of the reading knows', () => {
  const cases: [headings: string, names: string][] = [
    ['Datum;Uhrzeit;Absender;Empfänger;Nachricht', 'date;time;sender;recipient;message'],
    ['Fecha;Hora;Remitente;Destinatario;Mensaje', 'date;time;sender;recipient;message'],
    ['Data;Godzina;Nadawca;Odbiorca;Wiadomość', 'date;time;sender;recipient;message'],
    ['Дата;Отправитель;Получатель;Текст', 'date;sender;recipient;text'],
    ['التاريخ;المرسل;المستلم;الرسالة', 'date;sender;recipient;message'],
    ['תאריך;שולח;נמען;הודעה', 'date;sender;recipient;message'],
    ['日付;送信者;受信者;本文', 'date;sender;recipient;text'],
    ['日期;发件人;收件人;内容', 'date;sender;recipient;text'],
    ['날짜;보낸 사람;받는 사람;내용', 'date;sender;recipient;message'],
    ['TELEFONNUMMER;Name', 'number;name'],
    // What is not known keeps its own letters, and no two columns share a name.
    ['Schiffsname;Schiffsname;Ørret', 'schiffsname;schiffsname_2;ørret'],
    ['Datum;Fecha', 'date;date_2'],
    [' ; ', 'column1;column2']
  ];
  for (const [headings, names] of cases)
    assert.equal(columnNames(headings.split(';')).join(';'), names, headings);
  assert.equal(plainHeadings(['Datum', 'Absender', 'Boot']), 2);
});

test('moments are put as ISO writes them, the order of day and month by the whole column', () => {
  const cases: [cells: string[], plain: string[]][] = [
    [
      ['03.06.2024', '14.06.2024', '01.07.2024'],
      ['2024-06-03', '2024-06-14', '2024-07-01']
    ],
    [
      ['6/3/2024 9:05 PM', '6/14/2024 12:10 AM', '7/1/2024 1:00 PM'],
      ['2024-06-03 21:05:00', '2024-06-14 00:10:00', '2024-07-01 13:00:00']
    ],
    [
      ['3 Jun 2024, 09:05', '', '14 Jun 2024, 10:00', '1 Jul 2024, 11:00'],
      ['2024-06-03 09:05:00', '', '2024-06-14 10:00:00', '2024-07-01 11:00:00']
    ],
    [
      ['9.05 pm', '10.15 pm', '1.00 am'],
      ['21:05:00', '22:15:00', '01:00:00']
    ]
  ];
  for (const [cells, plain] of cases) assert.deepEqual(withPlainMoments(cells), plain);
  for (const left of [
    ['2024-06-03', '2024-06-04', '2024-06-05'],
    ['10:11:12', '10:12:13', '10:13:14'],
    ['berth 12.06.2024', 'rope', 'lamp'],
    ['+44 7700 900219', '+44 7700 900102', '+44 7700 900184'],
    ['1', '2', '3'],
    ['03.06.2024', '14.06.2024']
  ])
    assert.deepEqual(withPlainMoments(left), left);
});

test('cells that are no moments are never changed', () => {
  fc.assert(
    fc.property(fc.array(fc.string({ maxLength: 60 }), { maxLength: 12 }), (cells) => {
      const plain = withPlainMoments(cells);
      assert.equal(plain.length, cells.length);
      plain.forEach((cell, i) => {
        if (cell !== cells[i]) assert.match(cell, /^(\d{4}-\d\d-\d\d)?( ?\d\d:\d\d:\d\d)?$/);
      });
    })
  );
});

test('a sheet is told from a log by headings that say what their columns are', () => {
  const cases: [text: string, is: boolean][] = [
    ['Datum;Uhrzeit;Nachricht\n', true],
    ['date,from,to,message\n', true],
    ['Дата\tВремя\tТекст\n', true],
    ['2024-06-03 10:11 Tilda: on my way\n', false],
    ['boat,berth,owner\n', false],
    ['', false]
  ];
  for (const [text, is] of cases) assert.equal(isSheet(Buffer.from(text)), is, text);
});

test('rows of a sheet keep their places in the file, also over line ends in quotes', () => {
  const cell = fc.string({ maxLength: 30 }).map((text) => text.replace(/[\r\0\ufeff]/g, ' '));
  const row = fc.tuple(fc.integer({ min: 1, max: 28 }), cell, cell);
  fc.assert(
    fc.property(fc.array(row, { minLength: 3, maxLength: 12 }), (rows) => {
      const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
      const lines = rows.map(
        ([day, who, text]) =>
          `2024-06-${String(day).padStart(2, '0')},${quoted(`w${who}`)},${quoted(`t${text}`)}`
      );
      const bytes = Buffer.from(`date,sender,message\n${lines.join('\n')}\n`);
      const [table] = tablesInText(bytes, 'sheet.csv');
      assert.deepEqual(table?.columns, ['date', 'sender', 'message']);
      table.rows.forEach(({ values, offset, length }, i) => {
        const [, who, text] = rows[i]!;
        assert.deepEqual(values.slice(1), [`w${who}`, `t${text}`]);
        assert.equal(bytes.subarray(offset, offset + length).toString(), lines[i]);
      });
    })
  );
});
