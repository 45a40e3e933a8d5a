import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeBackup } from '../bench/writers/backup';
import { makeDatabase } from '../core/tests/databases';
import { HANDLE_CHAT_SCHEMA } from '../core/tests/handle-chat';

/** How long it takes to recognise and list a large backup, against the plainest tools that must look at the same things. */
const FILES = 60_000;
const BYTES = 2 * 1024 ** 3;

const folder = mkdtempSync(join(tmpdir(), 'listing-'));
try {
  make(folder);
  report(folder);
} finally {
  rmSync(folder, { recursive: true });
}

/** A backup whose listing is real and whose files are mostly holes of the right size. */
function make(into: string): void {
  const store = makeDatabase((db) => db.run(HANDLE_CHAT_SCHEMA));
  const files = Array.from({ length: FILES }, (_, i) => ({
    domain: i % 3 ? 'CameraRollDomain' : `AppDomain-org.example.app${i % 40}`,
    path: `Library/part${i % 97}/IMG_${i}.JPG`,
    bytes: new Uint8Array(0)
  }));
  const plan = writeBackup({
    files: [{ domain: 'HomeDomain', path: 'Library/SMS/sms.db', bytes: store }, ...files],
    device: { name: 'Measured', model: 'P', system: '1', serial: 'S', phone: '', at: new Date(0) },
    layout: 'database'
  });
  const each = Math.floor(BYTES / FILES);
  for (let i = 0; i < 256; i++) mkdirSync(join(into, i.toString(16).padStart(2, '0')));
  const head = Buffer.concat([
    Buffer.from('ffd8ffe000104a464946', 'hex'),
    createHash('sha256').digest()
  ]);
  for (const [path, bytes] of Object.entries(plan)) {
    const target = join(into, path);
    writeFileSync(target, bytes.length > 0 ? bytes : head);
    if (bytes.length === 0) truncateSync(target, each);
  }
}

interface Timed {
  seconds: number;
  megabytes: number;
}

function timed(command: string[]): Timed {
  const { stderr, status } = spawnSync('/usr/bin/time', ['-f', '%e %M', ...command], {
    encoding: 'utf8'
  });
  const [seconds, kilobytes] = (stderr.trim().split('\n').pop() ?? '').split(' ').map(Number);
  if (status !== 0) throw new Error(`${command.join(' ')}: ${stderr}`);
  return { seconds: seconds!, megabytes: Math.round(kilobytes! / 1024) };
}

function report(at: string): void {
  const plain = `find ${at} -type f | wc -l; sqlite3 ${at}/Manifest.db 'SELECT * FROM Files' | wc -c`;
  execFileSync('bash', ['-c', plain]);
  const reference = timed(['bash', '-c', plain]);
  const listing = timed(['node', '--import', 'tsx', 'measure/list-only.ts', at]);
  const idle = timed(['node', '--import', 'tsx', '-e', '0']);
  const whole = timed([
    'node',
    '--import',
    'tsx',
    'cli/main.ts',
    at,
    '--depth',
    'indexed',
    '--want',
    'messages',
    '--quiet',
    '--out',
    join(at, 'case.json')
  ]);
  const row = (name: string, { seconds, megabytes }: Timed): void =>
    console.log(
      `| ${name} | ${seconds.toFixed(2)} s | ${(seconds / reference.seconds).toFixed(1)} | ${megabytes} MiB |`
    );
  console.log(
    `${FILES} files, ${BYTES / 1024 ** 3} GiB\n\n| | time | ratio | peak memory |\n| --- | ---: | ---: | ---: |`
  );
  row('find and reading Manifest.db', reference);
  row('starting the runtime alone', idle);
  row('recognised and listed', listing);
  row('whole pass, indexed, messages only', whole);
}
