import {
  proofText,
  shownBody,
  STATE_MARKS,
  type ProducedFile,
  type Production,
  type ProductionLine
} from './model';
import { ZonedTime } from './time';
import { visible } from './visible';

const COLUMNS = [
  'line',
  'conversation',
  'date',
  'time',
  'zone',
  'utc',
  'direction',
  'sender',
  'address',
  'subject',
  'message',
  'state',
  'certainty',
  'attachments',
  'proof'
];

/**
 * One table of all chosen lines, RFC 4180 with a byte order mark, so that
 * spreadsheets read it as UTF-8. A field that a spreadsheet would take for a
 * formula gets an apostrophe in front, which is how spreadsheets mark text.
 */
export function produceCsv(production: Production): ProducedFile[] {
  const time = new ZonedTime(production.zone);
  const rows = production.threads.flatMap((thread) =>
    thread.lines.map((line) => lineFields(thread.title, line, time))
  );
  const text = [COLUMNS, ...rows].map((row) => row.map(csvField).join(',')).join('\r\n');
  return [{ path: 'messages.csv', text: `\ufeff${text}\r\n` }];
}

function lineFields(title: string, line: ProductionLine, time: ZonedTime): string[] {
  const at = line.at === null ? { date: '', time: '', offset: '' } : time.split(line.at);
  return [
    String(line.number),
    title,
    at.date,
    at.time,
    at.offset,
    line.at === null ? '' : new Date(line.at).toISOString(),
    line.direction,
    line.sender,
    line.address,
    line.subject ?? '',
    shownBody(line),
    STATE_MARKS[line.state].word,
    String(line.certainty),
    line.attachments.map((file) => file.name).join('; '),
    line.proofs.map(proofText).join('; ')
  ];
}

/** Characters that begin a formula, also behind blanks and in their full-width forms. */
const FORMULA = /^[\s\p{Cc}\p{Cf}]*[=+\-@|%\uff1d\uff0b\uff0d\uff20]/u;

export function csvField(value: string): string {
  const shown = visible(value);
  const safe = FORMULA.test(shown) || /^[\t\r\n]/.test(shown) ? `'${shown}` : shown;
  return /[",\r\n]/.test(safe) || safe !== safe.trim() ? `"${safe.replaceAll('"', '""')}"` : safe;
}
