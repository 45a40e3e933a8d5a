import assert from 'node:assert/strict';
import { test } from 'node:test';
import excel from 'exceljs';
import { unzipSync } from 'fflate';
import { HARD_TEXTS, madeCase } from '../tests/production-case';
import { MADE, produced, sha256 } from '../tests/produced';
import { visible, ZonedTime } from '../shown';
import { ChoiceError, RedactionError, verifyPackage, type Package } from '.';
import { MESSAGE_COLUMNS } from './formats/rows';

const ALL = ['html', 'xlsx', 'csv', 'txt', 'jsonl', 'vcf', 'ics', 'eml', 'mbox', 'media'];

/** Records of a table of comma-separated values (RFC 4180, section 2). */
function csvRecords(text: string): string[][] {
  const records: string[][] = [[]];
  let field = '';
  let quoted = false;
  for (let at = text.startsWith('\ufeff') ? 1 : 0; at < text.length; at++) {
    const char = text[at]!;
    if (quoted) {
      if (char !== '"') field += char;
      else if (text[at + 1] === '"') field += text[at++];
      else quoted = false;
    } else if (char === '"') quoted = true;
    else if (char === ',' || char === '\r') {
      records[records.length - 1]!.push(field);
      field = '';
    } else if (char === '\n') records.push([]);
    else field += char;
  }
  return records.filter((record) => record.length > 0);
}

test('every text is in every format, hard ones too, and the sheet has the agreed columns', async () => {
  const made = madeCase();
  const { files, text } = await produced(made, { formats: ALL });
  const [head, ...rows] = csvRecords(text('data/messages.csv'));
  assert.deepEqual(head, [...MESSAGE_COLUMNS]);
  assert.equal(rows.length, made.findings.messages.length);
  const records = text('data/records.jsonl')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { record: string; id: string; body: string });
  const byId = new Map(records.filter((r) => r.record === 'message').map((r) => [r.id, r.body]));
  const inTexts = [...files]
    .filter(([path]) => path.startsWith('data/text/'))
    .map(([path]) => text(path))
    .join('\n');
  const bodies = new Set(rows.map((row) => row[12]!.replace(/^'/, '')));
  for (const message of made.findings.messages) {
    assert.equal(byId.get(message.id), message.body, 'the exact text is in the records');
    const seen = visible(
      message.state === 'fragment' ? message.body.replaceAll('\ufffc', '[…]') : message.body
    );
    assert.ok(bodies.has(seen), JSON.stringify(seen));
    for (const line of seen.split(/\r\n|[\n\r]/)) assert.ok(inTexts.includes(line), line);
  }
});

test('the workbook holds the same values as the sheet, and nothing that is worked out', async () => {
  const made = madeCase();
  const { files, text } = await produced(made, {
    formats: ['xlsx', 'csv'],
    numbering: { prefix: '=X-' }
  });
  const book = new excel.Workbook();
  await book.xlsx.load(Buffer.from(files.get('data/messages.xlsx')!) as never);
  assert.deepEqual(
    book.worksheets.map(({ name }) => name),
    ['Messages', 'Calls', 'Contacts', 'Gaps', 'Sources']
  );
  const rows = csvRecords(text('data/messages.csv'));
  const sheet = book.getWorksheet('Messages')!;
  assert.equal(sheet.rowCount, rows.length);
  rows.forEach((row, i) =>
    row.forEach((value, j) => {
      const cell = sheet.getCell(i + 1, j + 1);
      assert.notEqual(cell.type, excel.ValueType.Formula);
      const shown = cell.value === null ? '' : String(cell.value as string | number);
      assert.equal(shown.replace(/\r\n/g, '\n'), value.replace(/\r\n/g, '\n'), `${i} ${j}`);
    })
  );
  assert.equal(book.getWorksheet('Gaps')!.rowCount, 2);
  assert.equal(book.getWorksheet('Calls')!.rowCount, 3);
});

test('nothing in a text or a name becomes markup or script', async () => {
  const made = madeCase({ messages: 60 });
  made.findings.people[1]!.name = '"><img src=x onerror=alert(1)>';
  made.findings.threads[4]!.title = '</title><script>alert(1)</script>';
  const { files, text } = await produced(made, { formats: ['html'] });
  for (const path of files.keys()) {
    if (!path.endsWith('.html')) continue;
    const page = text(path);
    const tags = new Set([...page.matchAll(/<\s*([a-zA-Z]+)/g)].map((m) => m[1]!.toLowerCase()));
    for (const tag of ['script', 'iframe', 'object', 'svg', 'form', 'link'])
      assert.ok(!tags.has(tag), `${tag} in ${path}`);
    for (const [, source] of page.matchAll(/<img src="([^"]*)"/g))
      assert.match(source!, /^media\//);
    assert.equal(page.match(/<style>/g)!.length, 1);
    assert.ok(page.isWellFormed());
  }
});

test('a body cannot pass for another line of the plain text, nor for a mail of the box', async () => {
  const made = madeCase({ messages: HARD_TEXTS.length });
  const { files, text } = await produced(made, { formats: ['txt', 'mbox', 'eml'] });
  const all = [...files.keys()]
    .filter((path) => path.startsWith('data/text/'))
    .map(text)
    .join('\n');
  const heads = all.split('\n').filter((row) => /^\d+ {2}/.test(row));
  assert.equal(heads.length, HARD_TEXTS.length);
  const mails = text('data/threads.mbox')
    .split('\n')
    .filter((row) => row.startsWith('From '));
  assert.equal(mails.length, HARD_TEXTS.length);
  const eml = [...files.keys()].filter((path) => path.endsWith('.eml'));
  assert.equal(eml.length, HARD_TEXTS.length);
  for (const path of eml) {
    const mail = text(path);
    assert.match(mail, /^Date: \w{3}, \d{1,2} \w{3} 2026 \d\d:\d\d:\d\d \+0000\r$/m);
    assert.match(mail, /^Message-ID: <[0-9a-f]{32}@record\.invalid>\r$/m);
    assert.ok(!/[^\r]\n/.test(mail), 'lines end in CR LF');
  }
});

test('cards and calendar keep to their forms', async () => {
  const { text } = await produced(madeCase(), { formats: ['vcf', 'ics'] });
  const cards = text('data/contacts.vcf');
  assert.ok(!/[^\r]\n/.test(cards));
  for (const line of cards.split('\r\n')) assert.ok(Buffer.byteLength(line) <= 75, line);
  const unfolded = cards.replaceAll('\r\n ', '');
  assert.match(unfolded, /FN:Holt\\, Mira\\; "the yard"\r\n/);
  assert.match(unfolded, /NOTE:met at\\nthe quay\r\n/);
  assert.equal(unfolded.match(/BEGIN:VCARD/g)!.length, unfolded.match(/VERSION:4\.0/g)!.length);
  const calendar = text('data/calls.ics').replaceAll('\r\n ', '');
  assert.equal(calendar.match(/BEGIN:VEVENT/g)!.length, 2);
  assert.match(calendar, /SUMMARY:Missed call from Mira Holt/);
  assert.match(calendar, /DTSTART:20\d{6}T\d{6}Z/);
});

test('the same case and settings give the same bytes', async () => {
  const made = madeCase({ messages: 60 });
  const settings = { formats: ALL, numbering: { prefix: 'A', start: 7, digits: 4 } };
  const first = await produced(made, settings);
  const second = await produced(made, settings);
  assert.deepEqual([...first.files.keys()], [...second.files.keys()]);
  for (const [path, bytes] of first.files)
    assert.equal(sha256(bytes), sha256(second.files.get(path)!), path);
  assert.equal(first.summary.first, 'A0007');
  assert.equal(first.summary.last, 'A0066');
});

function packageOf(files: ReadonlyMap<string, Uint8Array>): Package {
  return {
    paths: [...files.keys()].sort(),
    sha256: (path) => Promise.resolve(sha256(files.get(path)!)),
    size: (path) => Promise.resolve(files.get(path)!.length),
    text: (path) => Promise.resolve(Buffer.from(files.get(path)!).toString('utf8'))
  };
}

test('a package says of itself what it holds, and whatever is changed in it is told', async () => {
  const { files, text } = await produced(madeCase({ messages: 40 }), {
    formats: ['csv', 'jsonl', 'media']
  });
  assert.match(text('bagit.txt'), /^BagIt-Version: 1\.0\nTag-File-Character-Encoding: UTF-8\n$/);
  const payload = [...files].filter(([path]) => path.startsWith('data/'));
  const bytes = payload.reduce((sum, [, content]) => sum + content.length, 0);
  assert.match(
    text('bag-info.txt'),
    new RegExp(`^Payload-Oxum: ${bytes}\\.${payload.length}$`, 'm')
  );
  assert.deepEqual(await verifyPackage(packageOf(files)), {
    ok: true,
    files: files.size,
    differences: []
  });
  const cases: [what: string, path: string, change: (files: Map<string, Uint8Array>) => void][] = [
    ['changed', 'data/messages.csv', (f) => f.set('data/messages.csv', Buffer.from('other'))],
    ['missing', 'data/README.txt', (f) => f.delete('data/README.txt')],
    ['unlisted', 'data/more.txt', (f) => f.set('data/more.txt', Buffer.from('x'))],
    ['changed', 'bag-info.txt', (f) => f.set('bag-info.txt', Buffer.from('x'))],
    ['missing', 'tagmanifest-sha256.txt', (f) => f.delete('tagmanifest-sha256.txt')]
  ];
  for (const [what, path, change] of cases) {
    const copy = new Map(files);
    change(copy);
    const { ok, differences } = await verifyPackage(packageOf(copy));
    assert.equal(ok, false);
    assert.ok(
      differences.some((d) => d.what === what && d.path === path),
      `${what} ${path}`
    );
  }
  const log = text('data/custody.jsonl').replace('"production"', '"Production"');
  const forged = new Map(files).set('data/custody.jsonl', Buffer.from(log));
  const { differences } = await verifyPackage(packageOf(forged));
  assert.ok(differences.some(({ what }) => what === 'broken-chain'));
});

test('parts of a choice narrow each other, and context stands beside what was chosen', async () => {
  const made = madeCase({ messages: 120, hard: false });
  const { messages } = made.findings;
  const lines = async (choose: object): Promise<{ id: string; context: boolean }[]> => {
    const { text } = await produced(made, {
      formats: ['jsonl'],
      choose: { calls: false, contacts: false, ...choose }
    });
    return text('data/records.jsonl')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { record: string; id: string; context: boolean })
      .filter(({ record }) => record === 'message');
  };
  const { thread } = messages.find(({ state }) => state === 'recovered')!;
  const own = messages.filter((m) => m.thread === thread);
  assert.equal((await lines({ threads: [thread] })).length, own.length);
  const recovered = own.filter(({ state }) => state === 'recovered');
  assert.equal(
    (await lines({ threads: [thread], states: ['recovered'] })).length,
    recovered.length
  );
  const byNumber = await lines({ people: ['90 00 01 11'] });
  const byName = await lines({ people: ['mira holt'] });
  assert.deepEqual(byNumber, byName);
  const withContext = await lines({ messages: [own[3]!.id], context: 2 });
  assert.equal(withContext.length, 5);
  assert.equal(withContext.filter(({ context }) => !context).length, 1);
  const day = new ZonedTime('Europe/Oslo').split(messages[50]!.sentAt!).date;
  for (const { id } of await lines({ from: day, to: day })) {
    const at = messages.find((m) => m.id === id)!.sentAt!;
    assert.equal(new ZonedTime('Europe/Oslo').split(at).date, day);
  }
  await assert.rejects(lines({ threads: ['nowhere'] }), ChoiceError);
  await assert.rejects(lines({ people: ['nobody'] }), ChoiceError);
  assert.deepEqual(await lines({ from: '2031-01-01' }), []);
  await assert.rejects(
    produced(made, {
      formats: ['csv'],
      redactions: [{ message: 'nowhere', whole: true, code: 'X' }]
    }),
    RedactionError
  );
});

/** Everything that can be read in a package: files, entries of archives in it, and texts packed in mails. */
function readable(files: ReadonlyMap<string, Uint8Array>): Buffer[] {
  const out: Buffer[] = [];
  for (const [path, bytes] of files) {
    out.push(Buffer.from(path), Buffer.from(bytes));
    if (path.endsWith('.xlsx'))
      for (const entry of Object.values(unzipSync(bytes))) out.push(Buffer.from(entry));
    if (/\.(eml|mbox)$/.test(path))
      for (const [block] of Buffer.from(bytes)
        .toString('latin1')
        .matchAll(/(?:[A-Za-z0-9+/=]{16,}\r?\n?)+/g))
        out.push(Buffer.from(block.replace(/\s/g, ''), 'base64'));
  }
  return out;
}

function holds(all: readonly Buffer[], secret: string): boolean {
  const forms = [
    Buffer.from(secret),
    Buffer.from(secret, 'utf16le'),
    Buffer.from(encodeURIComponent(secret))
  ];
  return all.some((bytes) => forms.some((form) => bytes.includes(form)));
}

test('what is redacted is in no byte of any output, wherever else it stood', async () => {
  const made = madeCase({ messages: 80, hard: false, pictureEvery: 10 });
  const { messages, attachments, threads, people } = made.findings;
  const secret = 'account 9911 2233 44';
  const line = 'The whole of this line is privileged: number 5566.';
  messages[5]!.body = `pay to ${secret} today`;
  messages[9]!.body = `did you mean ${secret.toUpperCase()}?`;
  messages[9]!.replyTo = messages[5]!.id;
  messages[11]!.body = line;
  messages[12]!.body = `earlier: ${line.slice(0, 20)} ${secret}`;
  messages[12]!.state = 'earlier';
  messages[12]!.replaces = messages[11]!.id;
  messages[14]!.replyTo = messages[11]!.id;
  threads[4]!.title = `about ${secret}`;
  people[2]!.name = `Jon (${secret})`;
  const [file] = attachments;
  file!.name = 'privileged-letter-557793101.png';
  const from = messages[5]!.body.indexOf(secret);
  const settings = {
    formats: ALL,
    redactions: [
      { message: messages[5]!.id, from, to: from + secret.length, code: 'PRIV' },
      { message: messages[11]!.id, whole: true, code: 'LAW' },
      { attachment: file!.id, whole: true, code: 'ID' }
    ]
  };
  const plainAll = readable((await produced(made, { formats: ALL })).files);
  for (const shown of [secret, line, file!.name])
    assert.ok(holds(plainAll, shown), `${shown} is found where it is not redacted`);
  const { files, text } = await produced(made, settings);
  const all = readable(files);
  for (const hidden of [
    secret,
    secret.toUpperCase(),
    line,
    'privileged-letter',
    '557793101',
    line.slice(0, 20)
  ])
    assert.ok(!holds(all, hidden), hidden);
  const picture = Buffer.from(made.files.get(file!.sha256!)!);
  assert.ok(!all.some((bytes) => bytes.includes(picture.subarray(-300))), 'nor is the picture');
  const said = JSON.parse(text('data/production.json')) as { redactions: object[] };
  assert.deepEqual(said.redactions, [
    { code: 'ID', what: 'file', count: 1 },
    { code: 'LAW', what: 'line', count: 1 },
    { code: 'PRIV', what: 'text', count: 1 }
  ]);
  assert.ok(text('data/messages.csv').includes('████ PRIV ████'));
});

test('words that are covered everywhere are covered in titles and settings too, and are counted', async () => {
  const made = madeCase({ messages: 30, hard: false });
  made.findings.messages[3]!.body = 'the berth of Halden 77';
  const { files, text } = await produced(made, {
    formats: ['csv', 'jsonl', 'html'],
    title: 'About Halden 77',
    reference: 'ref halden 77',
    redactions: [{ text: 'Halden 77', code: 'PLACE' }]
  });
  assert.ok(!holds(readable(files), 'Halden 77'));
  assert.ok(!holds(readable(files), 'halden 77'));
  const said = JSON.parse(text('data/production.json')) as { redactions: object[] };
  assert.deepEqual(said.redactions, [{ code: 'PLACE', what: 'text', count: 1 }]);
});

test('times of making are the only ones that a package holds of its own', async () => {
  const { text } = await produced(madeCase({ messages: 20 }), { formats: ['csv'] });
  const made = new Date(MADE).toISOString();
  const said = JSON.parse(text('data/production.json')) as { made: string };
  assert.equal(said.made, made);
  for (const line of text('data/custody.jsonl').trim().split('\n'))
    assert.equal((JSON.parse(line) as { at: string }).at, made);
});
