import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { Naming, openCase, productionInput, type CaseParts } from '$core/case';
import { runProduction, settingsSchema, type Settings } from '$core/produce';
import { emptyDevice, emptyInside, OWNER, type Findings, type Message } from '$core/records';
import { ombudsman } from '../../../../cli/ombudsman';
import { pictureModules } from '../../../../cli/picture-modules';
import { readCase } from '../../../../cli/read-case';
import { VERSION } from '../../../../cli/version';
import { messageRecord } from '../../../../core/tests/records';
import { carriedOf } from '../../storage/carried';
import { changeExhibits } from '../../storage/exhibits';
import { openStorage } from '../../storage/open';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import { caseFileBlob, partsOf } from './case-file';
import { importCase } from '../case/importing';
import { Keeper } from '../lines/keeping';
import { Shelf } from '../evidence/shelf';
import { findingsOf, keptCase } from '../tests/kept-case';

const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
after(() => rmSync(folder, { recursive: true, force: true }));

Object.defineProperty(globalThis, 'navigator', {
  value: { storage: { estimate: () => Promise.resolve({}) } },
  configurable: true
});

const MADE = Date.UTC(2026, 10, 27, 12);
const NUMBER = '+447700900101';
const MAIL = 'mira@quay.example';
const [BY_NUMBER, BY_MAIL] = [`p:${NUMBER}`, `p:${MAIL}`];
const FORMATS = ['csv', 'txt', 'jsonl', 'html', 'eml', 'vcf', 'xlsx'];

const PEOPLE: Findings['people'] = [
  { id: OWNER, name: 'Ida Fosse', addresses: ['+4790000999'], owner: true },
  { id: BY_NUMBER, name: null, addresses: [NUMBER], owner: false },
  { id: BY_MAIL, name: 'Mira', addresses: [MAIL], owner: false }
];

/** What two phones of one person hold: the same conversation under two addresses, most of it twice. */
function phone(store: string, address: string, told: (n: number) => Partial<Message>): Findings {
  const thread = `${store}/t/x`;
  const own = Array.from({ length: 30 }, (_, n) => ({ n, told: told(n) }));
  const messages = own.map(({ n, told }) => {
    const isOwn = n % 3 === 0;
    return messageRecord({
      ...{ id: `${store}/m/${n}`, store, thread, sentAt: MADE - 1e9 + n * 60_000 },
      ...{ body: `the ferry leaves at ${n} past`, sender: isOwn ? OWNER : address },
      direction: isOwn ? 'outgoing' : 'incoming',
      proofs: [
        {
          ...{ source: store.split('.')[0]!, path: `${store}.db`, page: 2 },
          ...{ offset: 100 * n, length: 40, method: 'table' }
        }
      ],
      ...told
    });
  });
  const gap = {
    ...{ thread, store, count: 2, after: `${store}/m/4`, before: `${store}/m/5` },
    ...{ from: null, to: null, reason: 'two numbers are missing' }
  };
  return findingsOf(store, {
    people: PEOPLE,
    threads: [{ id: thread, store, title: null, participants: [address], group: false }],
    messages,
    gaps: [gap]
  });
}

const FIRST = phone('s1.a', BY_NUMBER, (n) => (n % 5 === 2 ? { state: 'recovered' } : {}));
const SECOND = phone('s2.b', BY_MAIL, (n) =>
  n === 7
    ? { body: 'the ferry left without us', replaces: 's2.b/m/8', state: 'earlier' }
    : n > 24
      ? { body: `only here ${n}` }
      : {}
);
FIRST.contacts.push({
  ...{ id: 's1.a/c/1', store: 's1.a', person: BY_NUMBER, name: 'Mira Holt' },
  ...{ phones: [NUMBER], emails: [MAIL], organisation: null, note: null },
  ...{ state: 'live', certainty: 100, proofs: [] }
});
// A line of the second phone is covered that the first one's stands for, and a word in one of the first.
const REDACTIONS: Settings['redactions'] = [
  { message: 's2.b/m/8', whole: true, code: 'PRIV' },
  { message: 's1.a/m/10', from: 4, to: 9, code: 'ID' }
];

interface Opened {
  record: CaseRecord;
  keeper: Keeper;
  sources: SourceRecord[];
}

async function examined(): Promise<Opened> {
  const { keeper, record } = await keptCase([FIRST, SECOND]);
  const db = await openStorage();
  const kept = (await db.get('cases', record.id))!;
  const named = { ...kept, name: 'The ferry', client: 'Ida', names: { [BY_MAIL]: 'Mira H.' } };
  await db.put('cases', named);
  await changeExhibits(record.id, () => ({
    redactions: REDACTIONS,
    reasons: [{ code: 'PRIV', reason: 'private' }]
  }));
  const sources: SourceRecord[] = [];
  for (const [id, name] of [
    ['s1', 'Phone of Ida'],
    ['s2', 'Tablet of Ida']
  ] as const) {
    const sha256 = createHash('sha256').update(id).digest('hex');
    const known = (await db.get('sources', `${record.id}/${id}`))!;
    const facts = { id, name, kind: 'database', bytes: 2, sha256, depth: 'freed' } as const;
    const files = [{ path: `${id}.db`, bytes: 2, sha256 }];
    const found = {
      ...facts,
      parts: files,
      device: emptyDevice(),
      notes: [],
      inside: emptyInside()
    };
    sources.push({ ...known, name, files, sum: sha256, source: found });
    await db.put('sources', sources.at(-1)!);
  }
  await keeper.join(true);
  return { record: named, keeper, sources };
}

async function saved({ record, keeper, sources }: Opened): Promise<Blob> {
  const found = sources.map((one) => ({ ...one.source!, parts: one.files }));
  return caseFileBlob(keeper.index, record, found, [], [], await carriedOf(record, sources));
}

async function opened(caseId: string): Promise<Opened> {
  const record = (await (await openStorage()).get('cases', caseId))!;
  const sources = await new Shelf(caseId).sources();
  return { record, keeper: await Keeper.open(caseId), sources };
}

async function caseParts({ record, keeper: { index }, sources }: Opened): Promise<CaseParts> {
  const { people, individuals } = index;
  const naming = new Naming(people, record.names, record.client, individuals);
  const attachments = await index.attachments();
  return partsOf({ record, sources, files: [], index, attachments, naming });
}

/** The files of a production, as the application makes it; but for its log, which tells where it was made. */
async function produced(parts: CaseParts, settings: Settings): Promise<Map<string, string>> {
  const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
  const files = new Map<string, string>();
  const input = await productionInput(parts, settings.exhibits ?? null, settings.redactions);
  const work = runProduction(input, settings, {
    ...{ made: MADE, version: VERSION, modules: pictureModules, print: null },
    open: () => Promise.resolve(null),
    sha256: (bytes) => Promise.resolve(sha256(bytes)),
    signal: new AbortController().signal
  });
  for await (const event of work)
    if (event.type === 'file')
      files.set(event.file.path, Buffer.from(event.file.bytes).toString('latin1'));
  return files;
}

/** Files whose bytes tell of the log, or of the sums of what does. */
const OF_THE_LOG = /custody\.jsonl$|manifest|bag-info|production\.json$|README/;

function records(files: Map<string, string>): [string, string][] {
  return [...files].filter(([path]) => !OF_THE_LOG.test(path)).sort();
}

function asked(more: object): Settings {
  return settingsSchema.parse({ formats: FORMATS, ...more });
}

const covered = { redactions: REDACTIONS, reasons: [{ code: 'PRIV', reason: 'private' }] };

test('one case gives the same records where it was examined, where it was imported, and from the command', async () => {
  const here = await examined();
  const file = await saved(here);
  const result = await importCase(file, 'ferry.json');
  assert.ok(result.ok);
  const there = await opened(result.caseId);
  const casePath = join(folder, 'ferry.json');
  writeFileSync(casePath, await file.text());
  const exhibits = [
    {
      kind: 'lines',
      messages: ['s1.a/m/3', 's2.b/m/8', 's2.b/m/26'],
      context: 1,
      name: 'Departure'
    }
  ];
  for (const [i, choice] of [
    {},
    { choose: { threads: ['s2.b/t/x'] } },
    { choose: { people: [NUMBER], states: ['live', 'recovered'] } },
    { choose: { messages: ['s2.b/m/3'], context: 2 } },
    { exhibits }
  ].entries()) {
    const settings = asked({ ...covered, ...choice });
    const first = records(await produced(await caseParts(here), settings));
    assert.ok(first.length >= FORMATS.length, `${first.length} files`);
    assert.deepEqual(records(await produced(await caseParts(there), settings)), first);
    const out = join(folder, `out-${i}`);
    const settingsPath = join(folder, `settings-${i}.json`);
    writeFileSync(settingsPath, JSON.stringify({ formats: FORMATS, ...choice }));
    const made = new Date(MADE).toISOString();
    const code = await ombudsman([
      'produce',
      casePath,
      '--out',
      out,
      '--settings',
      settingsPath,
      '--made',
      made,
      '--quiet'
    ]);
    assert.equal(code, 0);
    const written = new Map(
      readdirSync(out, { recursive: true, withFileTypes: true }).flatMap((entry) => {
        if (!entry.isFile()) return [];
        const path = join(entry.parentPath, entry.name);
        return [[path.slice(out.length + 1), readFileSync(path).toString('latin1')]];
      })
    );
    assert.deepEqual(records(written), first);
  }
});

test('two addresses of one person are one conversation, and what both phones hold is one line', async () => {
  const casePath = join(folder, 'joined.json');
  writeFileSync(casePath, await (await saved(await examined())).text());
  const parts = await openCase(await readCase(casePath));
  const input = await productionInput(parts, null, []);
  assert.equal(input.sections.length, 1);
  const [section] = input.sections;
  assert.deepEqual(section!.threads, ['s1.a/t/x', 's2.b/t/x']);
  // 24 of 30 lines are the same; a number once given stays, and copies keep theirs.
  assert.equal(section!.messages.length, 36);
  assert.equal(section!.messages.filter(({ copies = [] }) => copies.length > 0).length, 24);
  assert.equal(new Set(section!.messages.map(({ line }) => line)).size, 36);
  assert.equal(input.nameOf(BY_NUMBER).name, 'Mira H.');
});

test('a message that is covered on one phone is covered with its earlier wording on the other', async () => {
  const here = await examined();
  const files = await produced(await caseParts(here), asked(covered));
  for (const [path, bytes] of files) {
    assert.ok(!bytes.includes('the ferry leaves at 8 past'), path);
    assert.ok(!bytes.includes('left without us'), path);
  }
  const sheet = files.get('data/messages.csv')!;
  assert.ok(sheet.includes('the ferry leaves at 9 past'));
  const { redactions } = JSON.parse(files.get('data/production.json')!) as {
    redactions: { code: string; count: number }[];
  };
  assert.deepEqual(
    redactions.map(({ code, count }) => [code, count]),
    [
      ['ID', 1],
      ['PRIV', 1]
    ]
  );
});
