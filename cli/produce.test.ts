import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { HARD_TEXTS, madeCase } from '../core/tests/production-case';
import { toCaseFile } from '../core/records';
import { ombudsman } from './ombudsman';
import { verify } from './verify';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true, force: true }));

const MADE = '2026-11-27T12:00:00.000Z';
let count = 0;

interface Given {
  casePath: string;
  attachments: string;
  made: ReturnType<typeof madeCase>;
}

function given(messages = 120): Given {
  const made = madeCase({ messages });
  const casePath = join(folder, `case-${++count}.json`);
  const attachments = join(folder, `files-${count}`);
  const document = toCaseFile(made.sources, made.findings, [], new Date(MADE), 'Europe/Oslo');
  writeFileSync(casePath, JSON.stringify(document));
  mkdirSync(attachments);
  for (const [sum, bytes] of made.files) writeFileSync(join(attachments, `${sum}.jpg`), bytes);
  return { casePath, attachments, made };
}

async function produce(
  { casePath, attachments }: Given,
  settings: object,
  out = join(folder, `out-${++count}`)
): Promise<{ code: number; out: string }> {
  const file = join(folder, `settings-${++count}.json`);
  writeFileSync(file, JSON.stringify(settings));
  const args = [
    'produce',
    casePath,
    '--out',
    out,
    '--settings',
    file,
    '--attachments',
    attachments,
    '--made',
    MADE,
    '--quiet'
  ];
  return { code: await ombudsman(args), out };
}

function textOf(pdf: string, ...options: string[]): string {
  return execFileSync('pdftotext', [...options, pdf, '-'], {
    encoding: 'utf8',
    maxBuffer: 1 << 28,
    stdio: ['ignore', 'pipe', 'ignore']
  });
}

test('a printed record holds every text, its numbers, and says on which page each line stands', async () => {
  const from = given();
  const { code, out } = await produce(from, {
    formats: ['pdf', 'csv'],
    numbering: { prefix: 'FD-', start: 41, digits: 5 }
  });
  assert.equal(code, 0);
  const pdf = join(out, 'data/record.pdf');
  execFileSync('qpdf', ['--check', pdf], { stdio: 'ignore' });
  const squeezed = textOf(pdf, '-raw').replace(/[\s\u200b]/g, '');
  for (const { body, state } of from.made.findings.messages) {
    const isHard = HARD_TEXTS.some(([, text]) => text === body);
    if (isHard) continue;
    const wanted = (state === 'fragment' ? body.replaceAll('\ufffc', '[…]') : body).replace(
      /\s/g,
      ''
    );
    assert.ok(squeezed.includes(wanted), body);
  }
  const said = JSON.parse(readFileSync(join(out, 'data/production.json'), 'utf8')) as {
    pages: number;
    firstSerial: string;
    lastSerial: string;
    lines: { line: number; page: number; serial: string }[];
  };
  assert.equal(said.firstSerial, 'FD-00041');
  assert.equal(said.lastSerial, `FD-${String(40 + said.pages).padStart(5, '0')}`);
  for (const { line, page, serial } of said.lines.filter((_, i) => i % 20 === 0)) {
    const shown = textOf(pdf, '-f', String(page), '-l', String(page));
    assert.match(shown, new RegExp(`(^|\\s)${line}(\\s|$)`, 'm'));
    assert.ok(shown.includes(serial), `${serial} on page ${page}`);
  }
});

test('characters that no font can draw and controls stand as their codes, emoji and scripts as themselves', async () => {
  const from = given(HARD_TEXTS.length);
  const { out } = await produce(from, { formats: ['pdf'], pdf: { layout: 'stacked' } });
  const text = textOf(join(out, 'data/record.pdf'), '-raw');
  for (const code of ['U+12000', 'U+202E', 'U+0007', 'U+D83D'])
    assert.ok(text.includes(code), code);
  for (const word of ['明日', '码头', '내일', 'Завтра', '#import'])
    assert.ok(text.replace(/\s/g, '').includes(word), word);
});

test('a record for archives and one with a password open as they should', async () => {
  const from = given(20);
  const archival = await produce(from, { formats: ['pdf'], pdf: { archival: true } });
  assert.equal(archival.code, 0);
  const pdf = join(archival.out, 'data/record.pdf');
  assert.match(readFileSync(pdf, 'latin1'), /pdfaid:part>3</);
  assert.match(
    execFileSync('pdfdetach', ['-list', pdf], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore']
    }),
    /lines\.csv/
  );
  const locked = await produce(from, { formats: ['pdf'], pdf: { password: '-tide & time' } });
  const shut = join(locked.out, 'data/record.pdf');
  assert.throws(() => textOf(shut));
  assert.ok(textOf(shut, '-upw', '-tide & time').includes('Record of'));
  assert.match(
    execFileSync('qpdf', ['--show-encryption', '--password=-tide & time', shut], {
      encoding: 'utf8'
    }),
    /AESv3/
  );
});

test('what is redacted is nowhere in a printed record either', async () => {
  const from = given(60);
  const [first] = from.made.findings.messages.slice(40);
  const secret = first!.body.slice(0, 14);
  const picture = from.made.findings.attachments[0]!;
  const { out } = await produce(from, {
    formats: ['pdf'],
    redactions: [
      { message: first!.id, whole: true, code: 'PRIV' },
      { attachment: picture.id, area: { x: 0, y: 0, width: 1, height: 1 }, code: 'ID' }
    ]
  });
  const pdf = join(out, 'data/record.pdf');
  const plain = join(folder, 'plain.pdf');
  execFileSync('qpdf', ['--qdf', '--object-streams=disable', pdf, plain], { stdio: 'ignore' });
  const attached = join(folder, 'lines.csv');
  execFileSync('pdfdetach', ['-save', '1', '-o', attached, pdf], { stdio: 'ignore' });
  const all = textOf(pdf) + readFileSync(plain, 'latin1') + readFileSync(attached, 'utf8');
  assert.ok(!all.includes(first!.body), 'the line');
  assert.ok(!readFileSync(attached, 'utf8').includes(secret + first!.body.slice(14, 20)));
  const bytes = Buffer.from(from.made.files.get(picture.sha256!)!);
  assert.ok(!readFileSync(plain).includes(bytes.subarray(-300)), 'the picture');
  assert.ok(textOf(pdf).includes('PRIV'));
});

test('a broken picture is named, and the record is made all the same', async () => {
  const from = given(60);
  const [picture] = from.made.findings.attachments;
  const broken = Buffer.concat([
    Buffer.from(from.made.files.get(picture!.sha256!)!).subarray(0, 180),
    Buffer.alloc(40)
  ]);
  const sum = (await import('node:crypto')).createHash('sha256').update(broken).digest('hex');
  picture!.sha256 = sum;
  writeFileSync(
    from.casePath,
    JSON.stringify(
      toCaseFile(from.made.sources, from.made.findings, [], new Date(MADE), 'Europe/Oslo')
    )
  );
  writeFileSync(join(from.attachments, sum), broken);
  const { code, out } = await produce(from, { formats: ['pdf', 'html'] });
  assert.equal(code, 0);
  assert.ok(textOf(join(out, 'data/record.pdf')).includes(picture!.name!));
});

test('a case of the application keeps its numbers, and what is covered in it stays covered', async () => {
  const from = given(20);
  const document = toCaseFile(
    from.made.sources,
    from.made.findings,
    [],
    new Date(MADE),
    'Europe/Oslo'
  );
  const [first, second] = document.messages;
  first!.line = 41;
  first!.body = 'of the Marigold deal';
  second!.line = 7;
  const carried = {
    name: 'The ferry',
    redactions: [{ message: first!.id, from: 7, to: 15, code: 'TRADE' }],
    reasons: [{ code: 'TRADE', reason: 'trade' }]
  };
  writeFileSync(from.casePath, JSON.stringify({ ...document, version: 2, carried }));
  const { code, out } = await produce(from, { formats: ['jsonl'] });
  assert.equal(code, 0);
  const records = readFileSync(join(out, 'data/records.jsonl'), 'utf8');
  assert.ok(!/marigold/i.test(records));
  const lines = records.split('\n').filter((line) => line.startsWith('{"record":"message"'));
  const numbers = new Map(
    lines.map((line) => {
      const { id, line: number } = JSON.parse(line) as { id: string; line: number };
      return [id, number];
    })
  );
  assert.deepEqual([numbers.get(first!.id), numbers.get(second!.id)], [41, 7]);
  assert.equal(new Set(numbers.values()).size, numbers.size);
});

test('an archive and a folder hold the same, verify says so, and says what was changed', async () => {
  const from = given(30);
  const settings = { formats: ['csv', 'html', 'xlsx', 'media'] };
  const asFolder = await produce(from, settings);
  const asZip = await produce(from, settings, join(folder, 'packed.zip'));
  assert.equal(asZip.code, 0);
  const unpacked = join(folder, 'unpacked');
  execFileSync('python3', ['-m', 'zipfile', '-e', asZip.out, unpacked]);
  const [inner] = readdirSync(unpacked);
  execFileSync('diff', ['-r', asFolder.out, join(unpacked, inner!)]);
  execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: asFolder.out });
  let printed = '';
  const print = (text: string): void => {
    printed = text;
  };
  assert.equal(await verify(asFolder.out, print), 0);
  assert.equal(await verify(asZip.out, print), 0);
  assert.equal(await verify(join(asFolder.out, 'data/custody.jsonl'), print), 0);
  writeFileSync(join(asFolder.out, 'data/messages.csv'), 'changed');
  assert.equal(await verify(asFolder.out, print), 1);
  const { ok, differences } = JSON.parse(printed) as {
    ok: boolean;
    differences: { path: string; what: string }[];
  };
  assert.equal(ok, false);
  assert.deepEqual(
    differences.map(({ path, what }) => [path, what]),
    [['data/messages.csv', 'changed']]
  );
});

test('what cannot be done is said in one sentence, with the agreed code', async () => {
  const from = given(10);
  const said: string[] = [];
  const loud = process.stderr.write.bind(process.stderr);
  process.stderr.write = ((text: string) => {
    said.push(text);
    return true;
  }) as typeof process.stderr.write;
  const codes: [number, string[]][] = [];
  const out = join(folder, 'never');
  const bad = join(folder, 'bad.json');
  writeFileSync(bad, '{"formats":["papyrus"]}');
  const cases: [number, string[]][] = [
    [2, ['produce', from.casePath]],
    [2, ['produce', from.casePath, '--out', out, '--settings', bad]],
    [2, ['produce', from.casePath, '--out', from.casePath]],
    [2, ['produce', from.casePath, '--out', out, '--made', 'yesterday']],
    [2, ['unknown']],
    [3, ['produce', join(folder, 'no-such.json'), '--out', out]],
    [3, ['produce', bad, '--out', out]],
    [3, ['verify', join(folder, 'nothing-here')]]
  ];
  try {
    for (const [, args] of cases) codes.push([await ombudsman(args), args]);
  } finally {
    process.stderr.write = loud;
  }
  assert.deepEqual(codes, cases);
  for (const text of said) assert.ok(!/\n\s+at /.test(text), text);
  assert.ok(!readdirSync(folder).includes('never'));
  assert.ok(!readdirSync(folder).some((name) => name.endsWith('.partial')));
});
