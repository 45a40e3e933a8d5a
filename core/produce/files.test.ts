import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import { nativePrinter } from '../../cli/print';
import { withJoined } from '../records';
import { isCutShort } from './readable';
import { produced, sha256, type Produced } from '../tests/produced';
import { madeCase, type MadeCase } from '../tests/production-case';

/** A case in which one picture came twice, live to one person and recovered from another. */
function twiceSent(): MadeCase {
  const made = madeCase({ messages: 60, hard: false });
  const { attachments, messages } = made.findings;
  const [first, second] = attachments;
  second!.sha256 = first!.sha256;
  second!.bytes = first!.bytes;
  const [a, b] = [first!, second!].map(({ message }) => messages.find(({ id }) => id === message)!);
  a!.state = 'recovered';
  a!.certainty = 97;
  b!.state = 'live';
  return made;
}

function rowsOf(text: string): Record<string, string>[] {
  const [head, ...rows] = text
    .replace(/^\ufeff/, '')
    .trim()
    .split('\r\n')
    .map((line) => line.split(','));
  return rows.map((row) => Object.fromEntries(head!.map((name, i) => [name, row[i] ?? ''])));
}

function pagesOf({ files }: Produced): string[] {
  const folder = mkdtempSync(join(tmpdir(), 'pages-'));
  try {
    const path = join(folder, 'record.pdf');
    writeFileSync(path, files.get('data/record.pdf')!);
    const text = execFileSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8' });
    return text.split('\f');
  } finally {
    rmSync(folder, { recursive: true });
  }
}

test('a file that is an exhibit says who sent it, when, in which conversation and what became of that', async () => {
  const made = twiceSent();
  const [first, second] = made.findings.attachments;
  const made2 = await produced(
    made,
    {
      formats: ['csv', 'jsonl', 'txt', 'html', 'pdf'],
      exhibits: [{ kind: 'files', files: [first!.id] }]
    },
    { print: nativePrinter() }
  );
  const rows = rowsOf(made2.text('data/files.csv'));
  const senders = [first!, second!].map(({ message }) => {
    const { sender, sentAt } = made.findings.messages.find(({ id }) => id === message)!;
    const name = made.findings.people.find(({ id }) => id === sender)!.name!;
    return [name, new Date(sentAt!).toISOString()];
  });
  assert.deepEqual(
    rows.map(({ sender, sent_utc }) => [sender, sent_utc]),
    senders
  );
  assert.deepEqual(
    rows.map(({ state }) => state),
    ['recovered', 'live']
  );
  const [file] = made2
    .text('data/records.jsonl')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { record: string; state: string; carriers?: object[] })
    .filter(({ record }) => record === 'file');
  // Where one of the messages is live, so is the file.
  assert.equal(file!.state, 'live');
  assert.equal(file!.carriers!.length, 2);
  const [page] = [...made2.files.keys()].filter((path) => /^data\/pages\/0/.test(path));
  const texts = [
    made2.text([...made2.files.keys()].find((path) => path.startsWith('data/text/'))!),
    made2.text(page!).replace(/<[^>]+>/g, ''),
    pagesOf(made2).join('\n').replace(/\s+/g, ' ')
  ];
  for (const text of texts)
    for (const [name] of senders) assert.ok(text.includes(`from ${name!}, 2026-03-`), text);
});

test('calls, contacts and files have sheets of their own, and production.json leads from each file to its messages', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const package_ = await produced(made, { formats: ['csv', 'media', 'html'] });
  assert.equal(rowsOf(package_.text('data/calls.csv')).length, 2);
  assert.match(package_.text('data/calls.csv'), /Jon Aske,\+4790000222,outgoing,2026-/);
  assert.match(package_.text('data/contacts.csv'), /Yard & Sons/);
  const files = rowsOf(package_.text('data/files.csv'));
  assert.equal(files.length, made.findings.attachments.length);
  const { media } = JSON.parse(package_.text('data/production.json')) as {
    media: { paths: string[]; messages: string[]; lines: number[] }[];
  };
  for (const { id, message, sha256: sum } of made.findings.attachments) {
    const told = media.find(({ messages }) => messages.includes(message));
    assert.ok(told, id);
    for (const path of told.paths) assert.equal(sha256(package_.files.get(path)!), sum);
    assert.deepEqual(
      told.paths.map((path) => path.split('/').slice(0, -1).join('/')),
      ['data/media', 'data/pages/media']
    );
    const [line] = told.lines;
    assert.equal(files.find((row) => row.line === String(line))!.sha256, sum);
  }
});

test('the sign that stands where a file belongs is never drawn, and lost bytes are told as such', async () => {
  const made = madeCase({ messages: 40, hard: false });
  const [plain] = made.findings.messages.filter(({ state }) => state === 'live');
  plain!.body = '\ufffcsee the picture\ufffc';
  const made2 = await produced(
    made,
    { formats: ['html', 'txt', 'csv', 'xlsx', 'eml', 'mbox', 'pdf'] },
    { print: nativePrinter() }
  );
  for (const [path, bytes] of made2.files)
    if (/\.(html|txt|csv)$/.test(path)) assert.ok(!Buffer.from(bytes).includes('\ufffc'), path);
  const pages = pagesOf(made2).join('\n');
  assert.ok(!pages.includes('\ufffc'));
  assert.match(pages, /see the picture/);
  assert.match(made2.text('data/messages.csv'), /\[…\]/);
});

test('a conversation that is joined from several stores says where each line comes from', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const { stores, messages, threads } = made.findings;
  stores.push({ ...stores[0]!, id: 's1.2', path: 'other/letters.db' });
  const moved = messages.filter(({ thread }) => thread === 's1.1/t/0').slice(3, 6);
  const first = threads.find(({ id }) => id === 's1.1/t/0')!;
  threads.push({ ...first, id: 's1.2/t/0', store: 's1.2' });
  for (const message of moved) Object.assign(message, { store: 's1.2', thread: 's1.2/t/0' });
  const { text, files } = await produced(
    made,
    {
      formats: ['csv', 'jsonl', 'txt', 'html', 'pdf'],
      choose: { threads: ['s1.1/t/0', 's1.2/t/0'] }
    },
    { print: nativePrinter() }
  );
  const sheet = text('data/messages.csv');
  assert.equal(sheet.split('handset copy: other/letters.db').length - 1, moved.length);
  const path = [...files.keys()].find((name) => name.startsWith('data/text/'))!;
  const marks = text(path).match(/^-- from .* --$/gm);
  assert.deepEqual(marks, [
    '-- from chat.db --',
    '-- from other/letters.db --',
    '-- from chat.db --'
  ]);
  const pages = pagesOf({ files } as Produced).join('\n');
  assert.equal(pages.match(/from other\/letters\.db/g)!.length, 1);
  // A conversation out of one store says nothing of the kind.
  const alone = await produced(made, { formats: ['txt'], choose: { threads: ['s1.1/t/1'] } });
  for (const [name, bytes] of alone.files)
    if (name.startsWith('data/text/')) assert.ok(!Buffer.from(bytes).includes('-- from'));
});

test('each conversation begins on a page of its own, and months are headed where they have several days', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const { messages } = made.findings;
  const own = messages.filter(({ thread }) => thread === 's1.1/t/0');
  const days = [Date.UTC(2026, 0, 5), Date.UTC(2026, 1, 7), Date.UTC(2026, 1, 9)];
  own.forEach((message, i) => (message.sentAt = days[i % 3]! + i * 60_000));
  const pages = pagesOf(await produced(made, { formats: ['pdf'] }, { print: nativePrinter() }));
  const heads = ['Mira Holt', 'Jon Aske', 'Petra Vann', 'Rowing club'].map((name) =>
    pages.findIndex((page, i) => i > 0 && page.trimStart().split('\n')[0]!.includes(name))
  );
  assert.ok(
    heads.every((page) => page > 0),
    heads.join()
  );
  assert.equal(new Set(heads).size, heads.length);
  const text = pages.join('\n');
  assert.match(text, /^\s*February 2026\s*$/m);
  assert.doesNotMatch(text, /^\s*January 2026\s*$/m);
});

test('lines.csv, which goes along in the pages, has no empty column of stamps', async () => {
  const made = madeCase({ messages: 20, hard: false });
  const { files } = await produced(
    made,
    { formats: ['pdf'], numbering: { prefix: 'QUAY-' } },
    { print: nativePrinter() }
  );
  const folder = mkdtempSync(join(tmpdir(), 'pages-'));
  try {
    const path = join(folder, 'record.pdf');
    writeFileSync(path, files.get('data/record.pdf')!);
    const listed = execFileSync('qpdf', ['--list-attachments', path], { encoding: 'utf8' });
    const [name] = listed.split(' ->');
    const sheet = execFileSync('qpdf', [`--show-attachment=${name!}`, path], { encoding: 'utf8' });
    assert.match(sheet, /^\ufeff?line,thread,date,time,zone/);
    assert.equal(sheet.trim().split('\r\n').length, 21);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('pictures that end too early are told from whole ones', () => {
  const made = madeCase({ messages: 60, hard: false });
  const pictures = [...made.files.values()];
  assert.ok(pictures.length > 0);
  for (const bytes of pictures) {
    const mime = bytes[0] === 0xff ? 'image/jpeg' : 'image/png';
    assert.equal(isCutShort(bytes, mime), false);
    for (const share of [0.3, 0.6, 0.95])
      assert.equal(isCutShort(bytes.subarray(0, Math.floor(bytes.length * share)), mime), true);
  }
  // Of what has no end of its own nothing is said.
  assert.equal(isCutShort(new Uint8Array(5), 'image/bmp'), false);
});

test('a file that was joined by hand says so in every format', async () => {
  const made = madeCase({ messages: 60, hard: false });
  const [lost, other] = made.findings.attachments;
  const bytes = other!.sha256!;
  made.findings.attachments[0] = withJoined(
    { ...lost!, sha256: null },
    { source: 's2', path: 'found.png', sha256: bytes, mime: 'image/png', bytes: other!.bytes }
  );
  const told = await produced(
    made,
    { formats: ['html', 'txt', 'jsonl', 'csv', 'pdf'] },
    { print: nativePrinter() }
  );
  const texts = [...told.files].flatMap(([path, file]) =>
    /^data\/(pages\/\d|text\/)/.test(path) ? [Buffer.from(file).toString()] : []
  );
  const said = 'joined to the message by hand';
  assert.equal(texts.filter((text) => text.includes(said)).length, 2);
  assert.ok(pagesOf(told).join(' ').replace(/\s+/g, ' ').includes(said));
  assert.equal(
    rowsOf(told.text('data/files.csv')).filter(({ joined }) => joined === 'by hand').length,
    1
  );
  assert.equal(told.text('data/records.jsonl').split('"joinedByHand":true').length, 2);
  // What the store itself leads to stays with it.
  assert.equal(
    withJoined(other!, { ...made.findings.attachments[0], source: 's2' } as never),
    other
  );
});
