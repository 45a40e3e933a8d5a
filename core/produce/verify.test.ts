import assert from 'node:assert/strict';
import { test } from 'node:test';
import { chained, type CustodyEntry } from '../custody';
import { madeCase } from '../tests/production-case';
import { produced, sha256 } from '../tests/produced';
import { verifyPackage, type Package } from '.';

type Files = Map<string, Uint8Array>;

function packageOf(files: Files, others: Package['others'] = []): Package {
  return {
    paths: [...files.keys()].sort(),
    others,
    sha256: (path) => Promise.resolve(sha256(files.get(path)!)),
    size: (path) => Promise.resolve(files.get(path)!.length),
    text: (path) => Promise.resolve(Buffer.from(files.get(path)!).toString('utf8'))
  };
}

const text = (files: Files, path: string): string => Buffer.from(files.get(path)!).toString('utf8');
const put = (files: Files, path: string, content: string): void => {
  files.set(path, Buffer.from(content));
};

/** Writes the lists of checksums anew, as somebody does who knows how a bag is made. */
function listedAnew(files: Files): void {
  const payload = [...files.keys()].filter((path) => path.startsWith('data/'));
  const list = (paths: string[]): string =>
    paths
      .sort()
      .map((path) => `${sha256(files.get(path)!)}  ${path}\n`)
      .join('');
  const bytes = payload.reduce((sum, path) => sum + files.get(path)!.length, 0);
  const info = text(files, 'bag-info.txt').replace(
    /Payload-Oxum: .*/,
    `Payload-Oxum: ${bytes}.${payload.length}`
  );
  put(files, 'bag-info.txt', info);
  put(files, 'manifest-sha256.txt', list(payload));
  put(files, 'tagmanifest-sha256.txt', list(['bagit.txt', 'bag-info.txt', 'manifest-sha256.txt']));
}

const LOG = 'data/custody.jsonl';
const logLines = (files: Files): string[] => text(files, LOG).trimEnd().split('\n');

/** What somebody does to a package, knowing how it is made; and where it must be noticed. */
const DEEDS: [what: string, deed: (files: Files) => void, path: string, kind: string][] = [
  [
    'a payload file is changed and listed anew',
    (files) => put(files, 'data/messages.csv', text(files, 'data/messages.csv').replace('a', 'b')),
    'data/messages.csv',
    'changed'
  ],
  [
    'a payload file is added',
    (files) => put(files, 'data/more.txt', 'more'),
    'data/more.txt',
    'unlisted'
  ],
  [
    'a payload file is removed',
    (files) => files.delete('data/messages.csv'),
    'data/messages.csv',
    'missing'
  ],
  [
    'the record is removed',
    (files) => files.delete('data/production.json'),
    'data/production.json',
    'missing'
  ],
  [
    'the last entry of the log is dropped',
    (files) => put(files, LOG, `${logLines(files).slice(0, -1).join('\n')}\n`),
    LOG,
    'changed'
  ],
  ['the log is emptied', (files) => put(files, LOG, ''), LOG, 'changed'],
  [
    'the version is another',
    (files) => put(files, 'bagit.txt', 'BagIt-Version: 0.97\n'),
    'bagit.txt',
    'broken-structure'
  ]
];
for (const [what, deed, path, kind] of DEEDS)
  test(`a check notices that ${what}, though the lists hold`, async () => {
    const { files } = await produced(madeCase({ messages: 20, hard: false }), {
      formats: ['csv', 'jsonl']
    });
    assert.equal((await verifyPackage(packageOf(files))).ok, true);
    deed(files);
    listedAnew(files);
    const { ok, differences } = await verifyPackage(packageOf(files));
    assert.equal(ok, false);
    assert.ok(
      differences.some((one) => one.path === path && one.what === kind),
      JSON.stringify(differences)
    );
  });

const STRAYS: [what: string, deed: (files: Files) => void, path: string][] = [
  [
    'a list of files to be fetched',
    (files) => put(files, 'fetch.txt', 'http://x.example/a 5 data/a\n'),
    'fetch.txt'
  ],
  ['a list of other checksums', (files) => put(files, 'manifest-md5.txt', ''), 'manifest-md5.txt'],
  [
    'a file twice in the list',
    (files) => put(files, 'manifest-sha256.txt', text(files, 'manifest-sha256.txt').repeat(2)),
    'data/custody.jsonl'
  ],
  [
    'a wrong Payload-Oxum',
    (files) =>
      put(files, 'bag-info.txt', text(files, 'bag-info.txt').replace(/Oxum: .*/, 'Oxum: 1.1')),
    'bag-info.txt'
  ]
];
for (const [what, deed, path] of STRAYS)
  test(`a check notices ${what}`, async () => {
    const { files } = await produced(madeCase({ messages: 20, hard: false }), { formats: ['csv'] });
    deed(files);
    const { differences } = await verifyPackage(packageOf(files));
    assert.ok(
      differences.some((one) => one.path === path),
      JSON.stringify(differences)
    );
  });

test('links, pipes and devices are named and not read', async () => {
  const { files } = await produced(madeCase({ messages: 20, hard: false }), { formats: ['csv'] });
  const { ok, differences } = await verifyPackage(
    packageOf(files, [{ path: 'data/pipe', what: 'a pipe' }])
  );
  assert.deepEqual(
    [ok, differences],
    [false, [{ path: 'data/pipe', what: 'unlisted', expected: null, found: 'a pipe' }]]
  );
});

test('of notes, labels and the intake only places in the chain leave, and the chain holds', async () => {
  const at = '2026-11-27T10:00:00Z';
  const log: CustodyEntry[] = [];
  const acts: [string, Record<string, unknown>][] = [
    ['case opened', { name: 'Ferry' }],
    ['note written', { of: 'm1', text: 'the client lies here' }],
    ['labels changed', { labels: ['weak point'] }],
    ['intake changed', { answers: ['lost at the bar'] }],
    ['source added', { source: 'phone' }]
  ];
  for (const [what, detail] of acts)
    log.push(chained({ at, what, detail }, log[log.length - 1] ?? null, 'a1b2'));
  const { files } = await produced(
    madeCase({ messages: 20, hard: false }),
    { formats: ['csv'] },
    { log }
  );
  const left = text(files, LOG);
  assert.ok(!/lies|weak|bar|note written|labels changed/.test(left), left);
  const entries = logLines(files).map((line) => JSON.parse(line) as CustodyEntry);
  assert.deepEqual(
    entries.map(({ kind }) => kind ?? null),
    [null, 'internal', 'internal', 'internal', null, null]
  );
  assert.equal((await verifyPackage(packageOf(files))).ok, true);
  // A hash that is exchanged breaks the next entry.
  entries[2]!.hash = 'f'.repeat(64);
  put(files, LOG, entries.map((entry) => `${JSON.stringify(entry)}\n`).join(''));
  const { differences } = await verifyPackage(packageOf(files));
  assert.ok(differences.some(({ what }) => what === 'broken-chain'));
});
