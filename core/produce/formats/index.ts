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

/** Formats that need no more than the records; a new one is one file, one line here and one in the settings. */
export const FORMATS: Record<Exclude<FormatName, 'pdf' | 'database'>, Format> = {
  html: produceHtml,
  xlsx: produceXlsx,
  csv: produceCsv,
  txt: produceText,
  jsonl: produceJsonLines,
  vcf: produceCards,
  ics: produceCalendar,
  eml: produceMails,
  mbox: produceBox,
  media: produceMedia
};
