import { execFileSync, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { writeBackup } from '../bench/writers/backup';
import { chromium } from '@playwright/test';
import { newCase } from '../e2e/helpers';
import { served } from '../scripts/lib/served';
import { makeLargeStore } from './make-large';

/** How long the examination of one store takes by itself and inside the packages in which stores lie. */
const SIZE = Number(process.argv[2] ?? 320);
const PASSWORD = 'measure tide';

interface Timed {
  seconds: number;
  mebibytes: number;
  messages: number;
}

function examined(path: string, folder: string): Timed {
  const out = join(folder, 'case.jsonl');
  const keys = join(folder, 'keys.txt');
  writeFileSync(keys, PASSWORD);
  const run = spawnSync(
    '/usr/bin/time',
    [
      ...['-f', '%e %M', 'npm', 'run', '--silent', 'examine', '--', path, '--quiet'],
      ...['--want', 'messages', '--key-file', keys, '--out', out]
    ],
    { encoding: 'utf8' }
  );
  if (run.status !== 0) throw new Error(`${path}: ${run.status} ${run.stderr}`);
  const [seconds, kilobytes] = run.stderr.trim().split('\n').pop()!.split(' ').map(Number);
  const lines = execFileSync('grep', ['-c', '"record":"message"', out], { encoding: 'utf8' });
  return { seconds: seconds!, mebibytes: kilobytes! / 1024, messages: Number(lines) };
}

const LONG = 600_000;

/** The same in the application, from the press until all is kept: with a profile on the disk, as people have. */
async function inBrowser(path: string, base: string): Promise<number> {
  const profile = mkdtempSync(join(tmpdir(), 'packages-'));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
    baseURL: base,
    serviceWorkers: 'block'
  });
  try {
    const page = context.pages()[0] ?? (await context.newPage());
    await newCase(page, 'Measured');
    const kind = statSync(path).isDirectory() ? 'folder' : 'files';
    await page.getByTestId(kind).setInputFiles(path);
    const card = page.getByRole('article', { name: /^Source / });
    const password = card.getByLabel(/^Password/);
    const examine = page.getByRole('button', { name: /^Examine / });
    await password.or(examine).first().waitFor({ timeout: LONG });
    const isLocked = await password.isVisible();
    if (isLocked) await password.fill(PASSWORD);
    const begun = performance.now();
    await (isLocked ? card.getByRole('button', { name: 'Unlock' }) : examine).click();
    await card.getByText(/recovered/).waitFor({ timeout: LONG });
    const strip = page.getByRole('region', { name: 'Examination in progress' });
    await strip.waitFor({ state: 'detached', timeout: LONG });
    return (performance.now() - begun) / 1000;
  } finally {
    await context.close();
    rmSync(profile, { recursive: true, force: true });
  }
}

/** A folder with a backup that holds the store, locked or not. */
function backup(store: string, folder: string, password?: string): string {
  const root = join(folder, password ? 'locked' : 'plain');
  const files = writeBackup({
    layout: 'database',
    device: {
      name: 'Measured',
      model: 'Pocket 5',
      system: '18.2',
      serial: 'MEASURED',
      phone: '',
      at: new Date('2026-04-11T00:00:00Z')
    },
    files: [
      {
        domain: 'HomeDomain',
        path: 'Library/messages.db',
        bytes: readFileSync(store),
        modifiedAt: 0
      }
    ],
    random: randomBytes,
    ...(password ? { password, rounds: 10_000 } : {})
  });
  for (const [path, bytes] of Object.entries(files)) {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), bytes);
  }
  return root;
}

const folder = mkdtempSync(join(tmpdir(), 'packages-'));
try {
  const store = join(folder, 'messages.db');
  await makeLargeStore(store, SIZE, 'telephony');
  const tar = join(folder, 'messages.tar');
  execFileSync('tar', ['-cf', tar, '-C', folder, 'messages.db']);
  const zip = join(folder, 'messages.zip');
  execFileSync('python3', [
    ...[
      '-c',
      'import sys,zipfile; zipfile.ZipFile(sys.argv[1],"w").write(sys.argv[2],"messages.db")'
    ],
    ...[zip, store]
  ]);
  const ways: [string, string][] = [
    ['alone', store],
    ['in a tar', tar],
    ['in a zip, stored', zip],
    ['in a backup', backup(store, folder)],
    ['in an encrypted backup', backup(store, folder, PASSWORD)]
  ];
  console.log(
    `${cpus().length} cores, a store of ${Math.round(statSync(store).size / 2 ** 20)} MiB\n`
  );
  console.log('| where | messages | time | beside alone | peak memory |');
  console.log('| --- | ---: | ---: | ---: | ---: |');
  // The first call bundles the program where that is to be done.
  examined(store, folder);
  let alone = 0;
  for (const [where, path] of ways) {
    const { seconds, mebibytes, messages } = examined(path, folder);
    alone ||= seconds;
    const cells = [where, messages.toLocaleString('en'), `${seconds.toFixed(2)} s`];
    console.log(
      `| ${[...cells, (seconds / alone).toFixed(2), `${mebibytes.toFixed(0)} MiB`].join(' | ')} |`
    );
  }
  console.log('\n| where, in the application | time | beside alone |');
  console.log('| --- | ---: | ---: |');
  await served('4197', async (base) => {
    let first = 0;
    for (const [where, path] of ways) {
      const took = await inBrowser(path, base);
      first ||= took;
      console.log(`| ${where} | ${took.toFixed(2)} s | ${(took / first).toFixed(2)} |`);
    }
  });
} finally {
  rmSync(folder, { recursive: true, force: true });
}
