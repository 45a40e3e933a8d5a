import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { madeCase } from '../core/tests/production-case';
import { toCaseFile } from '../core/records';

/** Measures producing: pages beside a browser that prints the same conversation, and large records. */
const folder = mkdtempSync(join(tmpdir(), 'produce-'));
const MADE = new Date('2026-11-27T12:00:00Z');
const sizes = process.argv.slice(2).map(Number);

interface Run {
  seconds: number;
  mebibytes: number;
}

/** A command as a whole process, with its peak memory. */
function timed(command: string, args: string[]): Run {
  const at = Date.now();
  const { stderr, status } = spawnSync('/usr/bin/time', ['-v', command, ...args], {
    encoding: 'utf8'
  });
  if (status !== 0) throw new Error(`${command} ended with ${status}: ${stderr.slice(0, 500)}`);
  const peak = /Maximum resident set size \(kbytes\): (\d+)/.exec(stderr)?.[1] ?? '0';
  return { seconds: (Date.now() - at) / 1000, mebibytes: Number(peak) / 1024 };
}

function writeCase(messages: number): { path: string; files: string } {
  const made = madeCase({
    messages,
    pictureEvery: Math.max(1, Math.floor(messages / 200)),
    emojiEvery: Math.max(1, Math.floor(messages / 300)),
    hard: true
  });
  const path = join(folder, `case-${messages}.json`);
  writeFileSync(
    path,
    JSON.stringify(toCaseFile(made.sources, made.findings, [], MADE, 'Europe/Oslo'))
  );
  const files = join(folder, `files-${messages}`);
  mkdirSync(files);
  for (const [sum, bytes] of made.files) writeFileSync(join(files, sum), bytes);
  return { path, files };
}

function produce(
  given: { path: string; files: string },
  formats: string[],
  out: string,
  redactions: object[] = []
): Run {
  const settings = join(folder, 'settings.json');
  writeFileSync(settings, JSON.stringify({ formats, redactions, numbering: { prefix: 'M-' } }));
  return timed('node', [
    'scripts/ombudsman.mjs',
    'produce',
    given.path,
    '--out',
    out,
    '--attachments',
    given.files,
    '--settings',
    settings,
    '--quiet'
  ]);
}

function row(...cells: (string | number)[]): void {
  console.log(`| ${cells.join(' | ')} |`);
}

row('messages', 'what', 'time', 'peak memory', 'size');
row('---', '---', '---:', '---:', '---:');
for (const messages of sizes.length > 0 ? sizes : [10_000, 100_000]) {
  const given = writeCase(messages);
  const printed = join(folder, `pdf-${messages}`);
  const pdf = produce(given, ['pdf'], printed);
  const said = JSON.parse(readFileSync(join(printed, 'data/production.json'), 'utf8')) as {
    pages: number;
  };
  const size = Number(execFileSync('du', ['-sk', printed], { encoding: 'utf8' }).split('\t')[0]);
  row(
    messages,
    `PDF, ${said.pages} pages`,
    `${pdf.seconds.toFixed(1)} s`,
    `${pdf.mebibytes.toFixed(0)} MiB`,
    `${(size / 1024).toFixed(1)} MiB`
  );
  const all = produce(
    given,
    ['html', 'xlsx', 'csv', 'txt', 'jsonl', 'vcf', 'ics', 'mbox', 'media'],
    join(folder, `all-${messages}.zip`)
  );
  const packed = statSync(join(folder, `all-${messages}.zip`)).size / 2 ** 20;
  row(
    messages,
    'all other formats',
    `${all.seconds.toFixed(1)} s`,
    `${all.mebibytes.toFixed(0)} MiB`,
    `${packed.toFixed(1)} MiB`
  );
  const book = produce(given, ['xlsx'], join(folder, `book-${messages}`));
  row(
    messages,
    'workbook alone',
    `${book.seconds.toFixed(1)} s`,
    `${book.mebibytes.toFixed(0)} MiB`,
    ''
  );
  if (messages > 20_000) continue;
  // Two words wherever they stand: with the last search of every file.
  const covered = produce(given, ['pdf', 'html'], join(folder, `covered-${messages}`), [
    { text: 'ferry', code: 'A' },
    { text: 'north', code: 'B' }
  ]);
  row(
    messages,
    'PDF and web pages, two words covered',
    `${covered.seconds.toFixed(1)} s`,
    `${covered.mebibytes.toFixed(0)} MiB`,
    ''
  );
  const pages = join(folder, `pages-${messages}`);
  const plain = produce(given, ['html'], pages);
  row(
    messages,
    'web pages',
    `${plain.seconds.toFixed(1)} s`,
    `${plain.mebibytes.toFixed(0)} MiB`,
    ''
  );
  const list = execFileSync('sh', ['-c', `ls ${pages}/data/pages/0*.html`], { encoding: 'utf8' })
    .trim()
    .split('\n');
  let seconds = 0;
  for (const page of list)
    seconds += timed(process.env.CHROMIUM ?? '/usr/bin/chromium', [
      '--headless',
      '--no-sandbox',
      '--disable-gpu',
      '--disable-background-networking',
      `--user-data-dir=${join(folder, 'profile')}`,
      `--print-to-pdf=${join(folder, 'printed.pdf')}`,
      `file://${page}`
    ]).seconds;
  row(messages, 'a browser printing the same pages', `${seconds.toFixed(1)} s`, '', '');
}
rmSync(folder, { recursive: true });
