import type { FormatName } from '../settings';
import { produceCalendar } from './calendar';
import { produceCsv } from './csv';
import type { Format } from './format';
import { produceHtml } from './html';
import { produceJsonLines } from './jsonl';
import { produceBox, produceMails } from './mail';
import { produceMedia } from './media';
import { produceText } from './text';
import { produceCards } from './vcard';
import { produceXlsx } from './xlsx';

/** Formats that need no more than the records; a new one is one file and one line here. */
export const FORMATS: Record<
  Exclude<FormatName, 'pdf' | 'database'>,
  { title: string; produce: Format }
> = {
  html: { title: 'Web pages', produce: produceHtml },
  xlsx: { title: 'Workbook', produce: produceXlsx },
  csv: { title: 'Sheet (CSV)', produce: produceCsv },
  txt: { title: 'Plain text', produce: produceText },
  jsonl: { title: 'Records (JSON Lines)', produce: produceJsonLines },
  vcf: { title: 'Address cards', produce: produceCards },
  ics: { title: 'Calendar of calls', produce: produceCalendar },
  eml: { title: 'Mails', produce: produceMails },
  mbox: { title: 'Mailbox', produce: produceBox },
  media: { title: 'Media files', produce: produceMedia }
};
