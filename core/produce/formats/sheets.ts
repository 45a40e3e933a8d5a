import { proofText, type Production, type ProductionFile } from '../model';
import { shown, type Text } from '../parts';
import type { FormatContext } from './format';
import { inert } from './rows';

/** Values of a sheet's row; a spreadsheet can sort by the numbers among them. */
export type Row = (string | number | null)[];

const CALL_COLUMNS = [
  'who',
  'address',
  'direction',
  'date',
  'time',
  'zone',
  'started_utc',
  'seconds',
  'state',
  'certainty',
  'source',
  'proof'
];

/** Rows of the sheet of calls. */
function* callRows({ calls }: Production, { time, settings }: FormatContext): Generator<Row> {
  for (const call of calls) {
    const at = call.at === null ? null : time.split(call.at);
    yield [
      inert(shown(call.who)),
      inert(shown(call.address)),
      call.direction,
      at?.date ?? '',
      at?.time ?? '',
      `${time.zone}${at ? ` (${at.offset})` : ''}`,
      call.at === null ? '' : new Date(call.at).toISOString(),
      call.seconds,
      call.state,
      call.certainty,
      inert(call.source),
      settings.proofs === 'none' ? '' : inert(call.proofs.map(proofText).join('; '))
    ];
  }
}

const CONTACT_COLUMNS = [
  'name',
  'phones',
  'emails',
  'organisation',
  'note',
  'state',
  'certainty',
  'source'
];

/** Rows of the sheet of contacts. */
function* contactRows({ contacts }: Production): Generator<Row> {
  for (const contact of contacts)
    yield [
      inert(shown(contact.name)),
      inert(contact.phones.map(shown).join('; ')),
      inert(contact.emails.map(shown).join('; ')),
      inert(shown(contact.organisation)),
      inert(shown(contact.note)),
      contact.state,
      contact.certainty,
      inert(contact.source)
    ];
}

const FILE_COLUMNS = [
  'name',
  'type',
  'bytes',
  'sha256',
  'state',
  'line',
  'date',
  'time',
  'zone',
  'sent_utc',
  'sender',
  'thread',
  'redacted',
  'joined'
];

/** Rows of the sheet of files: one for each message that a file came with, and one for each that came with none. */
function* fileRows({ threads, files }: Production, { time }: FormatContext): Generator<Row> {
  const row = (file: ProductionFile, carrier: Carrier | null): Row => {
    // The checksum of what is covered in part would prove what is under the bars.
    const isWhole = file.code === null && file.areas.length === 0;
    const codes = file.code ?? [...new Set(file.areas.map(({ code }) => code))].join('; ');
    const at = carrier?.at ?? null;
    const split = at === null ? null : time.split(at);
    return [
      inert(shown(file.name)),
      file.mime ?? '',
      isWhole ? file.bytes : null,
      isWhole ? (file.sha256 ?? '') : '',
      carrier?.state ?? file.state,
      carrier?.line ?? null,
      split?.date ?? '',
      split?.time ?? '',
      `${time.zone}${split ? ` (${split.offset})` : ''}`,
      at === null ? '' : new Date(at).toISOString(),
      carrier?.sender ?? '',
      carrier?.thread ?? '',
      inert(codes),
      file.byHand ? 'by hand' : ''
    ];
  };
  for (const { title, lines } of threads)
    for (const { number, at, sender, state, attachments } of lines)
      for (const file of attachments)
        yield row(file, { ...cells(sender, title), line: number, at, state });
  for (const file of files) {
    if (file.carriers.length === 0) yield row(file, null);
    for (const { line, at, sender, conversation, state } of file.carriers)
      yield row(file, { ...cells(sender, conversation), line, at, state });
  }
}

interface Carrier {
  line: number | null;
  at: number | null;
  state: string;
  sender: string;
  thread: string;
}

function cells(sender: Text, thread: Text): Pick<Carrier, 'sender' | 'thread'> {
  return { sender: inert(shown(sender)), thread: inert(shown(thread)) };
}

/** A table of one kind of record. */
export interface Sheet {
  columns: string[];
  rows: (production: Production, context: FormatContext) => Iterable<Row>;
}

/** The sheets beside that of messages. */
export const SHEETS = {
  calls: { columns: CALL_COLUMNS, rows: callRows },
  contacts: { columns: CONTACT_COLUMNS, rows: contactRows },
  files: { columns: FILE_COLUMNS, rows: fileRows }
} as const satisfies Record<string, Sheet>;
