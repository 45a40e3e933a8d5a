import { proofText, shownBody, type Production, type ProductionLine } from '../model';
import { shown, type Text } from '../parts';
import { visible } from '../../shown';
import type { FormatContext } from './format';

/** Columns of the sheet of messages, in their order. */
export const MESSAGE_COLUMNS = [
  'line',
  'serial',
  'thread',
  'date',
  'time',
  'zone',
  'sent_utc',
  'direction',
  'sender',
  'sender_address',
  'state',
  'certainty',
  'body',
  'attachments',
  'reply_to_line',
  'source',
  'proof'
] as const;

/** Characters that begin a formula, also behind blanks and in their full-width forms. */
const FORMULA = /^[\s\p{Cc}\p{Cf}]*[=+\-@|%\uff1d\uff0b\uff0d\uff20]/u;
/** A telephone number is none, whatever a sheet makes of it. */
const NUMBER = /^\+\d[\d ().-]{2,24}$/;

/**
 * A value that no spreadsheet takes for a formula: an apostrophe stands
 * before what would be one, which is how spreadsheets mark text.
 */
export function inert(value: string): string {
  const text = visible(value);
  if (NUMBER.test(text)) return text;
  return FORMULA.test(text) || /^[\t\r\n]/.test(text) ? `'${text}` : text;
}

function cell(text: Text): string {
  return inert(shown(text));
}

/** Rows of the sheet of messages, values in the order of the columns. */
export function* messageRows({ threads }: Production, context: FormatContext): Generator<string[]> {
  for (const { title, lines } of threads)
    for (const line of lines) yield messageRow(cell(title), line, context);
}

function messageRow(
  thread: string,
  line: ProductionLine,
  { time, serials, settings }: FormatContext
): string[] {
  const at = line.at === null ? null : time.split(line.at);
  return [
    String(line.number),
    inert(serials.get(line.id) ?? ''),
    thread,
    at?.date ?? '',
    at?.time ?? '',
    `${time.zone}${at ? ` (${at.offset})` : ''}`,
    line.at === null ? '' : new Date(line.at).toISOString(),
    line.direction,
    cell(line.sender),
    cell(line.address),
    line.state,
    String(line.certainty),
    cell([
      ...(line.subject.length > 0 ? [...line.subject, { text: '\n' }] : []),
      ...shownBody(line)
    ]),
    inert(line.attachments.map(({ name }) => shown(name)).join('; ')),
    line.replyTo?.line === null || !line.replyTo ? '' : String(line.replyTo.line),
    inert(line.source),
    settings.proofs === 'none' ? '' : inert(line.proofs.map(proofText).join('; '))
  ];
}
