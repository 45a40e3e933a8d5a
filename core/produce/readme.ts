import type { NotConverted } from './media';
import type { Production } from './model';
import { sizeText } from '../host';
import type { Settings } from './settings';
import { visible } from '../shown';

/** How somebody who was not there checks a package, in plain words. */
export function readmeText(
  { head, threads, sources, redacted }: Production,
  settings: Settings,
  stamps: { first: string | null; last: string | null },
  notConverted: readonly NotConverted[]
): string {
  const lines = threads.reduce((sum, thread) => sum + thread.lines.length, 0);
  const made = new Date(head.made).toISOString();
  const facts = [
    ['Case', head.caseName],
    ['Reference', head.reference],
    ['Prepared by', head.preparedBy],
    ['Prepared for', head.preparedFor],
    ['Made', made],
    ['Times in', head.zone],
    ['Lines', `${lines} in ${threads.length} conversations`],
    ['Numbered', stamps.first === null ? null : `${stamps.first} to ${stamps.last}`]
  ].flatMap(([label, value]) => (value ? [`${`${label}:`.padEnd(15)}${visible(value)}`] : []));
  const parts = settings.formats.flatMap((format) => (WHAT[format] ? [`  ${WHAT[format]}`] : []));
  if (redacted.length > 0) parts.push(`  ${REDACTIONS}`);
  const broken = notConverted.map(({ name, reason }) => `  ${visible(name)}: ${reason}`);
  const from = sources.map(
    ({ name, bytes, sha256 }) => `  ${visible(name)} (${sizeText(bytes)})\n    SHA-256 ${sha256}`
  );
  return `${visible(head.title)}
${'='.repeat(Math.min(72, head.title.length))}

${facts.join('\n')}

What lies here
${parts.join('\n')}
  production.json  what was produced, with the settings, and each line's page and number
  custody.jsonl    the log of what was done, each entry chained to the one before

What it was read from
${from.join('\n')}
${broken.length === 0 ? '' : `\nFiles of which no readable copy could be made\n${broken.join('\n')}\n`}
How to check that nothing was changed
  The file manifest-sha256.txt, in the folder above this one, lists the
  checksum of every file here. Open a terminal in that folder and type

    sha256sum -c manifest-sha256.txt

  Each file must say OK. (On systems without that command:
  shasum -a 256 -c manifest-sha256.txt.) The file tagmanifest-sha256.txt
  does the same for the list itself. Whoever gave you this package can tell
  you the checksum of that file in another way, by telephone for instance:
  if it is the same, everything is as it was made.

What the words mean
  live       the message was in the store as its app showed it
  held       it was in the app's own holding area, to be purged
  recovered  it had been deleted and was recovered in full
  fragment   it had been deleted and was recovered in part
  earlier    an older wording of a message that was edited
  certainty  0 to 100: how well a line that was brought back is supported
`;
}

const REDACTIONS = 'redactions.csv   what was covered, by which code and why';

const WHAT: Partial<Record<Settings['formats'][number], string>> = {
  pdf: 'record.pdf       the record, to be read and printed',
  html: 'pages/           the same as pages for a browser; begin with index.html',
  xlsx: 'messages.xlsx    sheets of messages, calls, contacts, gaps, sources and files',
  csv: 'messages.csv     the messages as a table; calls.csv, contacts.csv and files.csv beside it',
  txt: 'text/            the conversations as plain text',
  jsonl: 'records.jsonl    the records for programs',
  vcf: 'contacts.vcf     address cards',
  ics: 'calls.ics        calls as entries of a calendar',
  eml: 'mail/            each line as a mail',
  mbox: 'threads.mbox     all lines in one mailbox',
  media: 'media/           the files, and under readable/ copies that every program opens',
  database: 'database/        the store with recovered rows put back'
};
