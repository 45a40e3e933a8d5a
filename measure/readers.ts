import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { binaryPlist } from '../bench/writers/backup';
import { sealStore } from '../bench/writers/sealed-store';
import { writeTar } from '../bench/writers/tar';
import { BACKUP_PASSWORD, MORE_SOURCES } from '../demo/more';
import { simCard } from '../demo/more/sim';
import { mutations } from '../core/tests/mutate';
import { passOver, type PassResult } from '../core/tests/pass';
import { seeded } from '../core/tests/telephony';
import { buildStore } from '../core/tests/unknown/build';
import { plans } from '../core/tests/unknown/dimensions';
import { builtLogs, LOG_FAMILIES } from '../core/tests/unknown/logs';

/** Damages what each reader reads in every way that the tests know, and examines it: packages, property lists, cards, logs, worked-out profiles. */
const RUNS = Number(process.argv[2] ?? 2000);
const ONLY = process.argv[3];
const SEED = 11;
const LONGEST = 10_000;

interface Kind {
  name: string;
  bases: Record<string, Uint8Array>[];
  keys: string[];
}

function zipped(files: Record<string, Uint8Array>, ...args: string[]): Uint8Array {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-'));
  try {
    for (const [name, bytes] of Object.entries(files))
      writeFileSync(join(folder, name.replaceAll('/', '_')), bytes);
    execFileSync('zip', ['-qr', ...args, 'out.zip', '.'], { cwd: folder });
    return readFileSync(join(folder, 'out.zip'));
  } finally {
    rmSync(folder, { recursive: true });
  }
}

function hexDump(files: Record<string, Uint8Array>): Record<string, Uint8Array> {
  const lines = Object.entries(files).map(
    ([path, bytes]) =>
      `${path.slice(path.lastIndexOf('/') + 1)}\n${Buffer.from(bytes).toString('hex').replace(/(..)/g, '$1 ')}`
  );
  return { 'card.txt': Buffer.from(`${lines.join('\n')}\n`) };
}

function kinds(): Kind[] {
  const all = MORE_SOURCES.map(({ files }) => files);
  const card = simCard();
  const logs = LOG_FAMILIES.map((family) => firstFiles(builtLogs(family, 5).files, 3));
  const stores = plans(8, 0).map((plan) => {
    const { path, bytes } = buildStore(plan);
    return { [path]: bytes };
  });
  const log = builtLogs(LOG_FAMILIES[0]!, 6).files;
  const tar = writeTar(firstFiles(log, 4), 0);
  const nested = writeTar(
    { 'in/log.tar.gz': gzipSync(tar), 'in/a.zip': zipped(firstFiles(log, 2)) },
    0
  );
  const list = binaryPlist({ a: [1, 2, { b: 'text' }], c: Buffer.from('bytes'), d: new Date(0) });
  return [
    { name: 'backups and cards of the demo', bases: all, keys: [BACKUP_PASSWORD] },
    {
      name: 'card dumps',
      bases: [
        hexDump(card),
        { 'card.hex': Buffer.from(Buffer.concat(Object.values(card)).toString('hex')) }
      ],
      keys: []
    },
    { name: 'text logs', bases: logs, keys: [] },
    { name: 'worked-out profiles', bases: stores, keys: [] },
    {
      name: 'zip',
      bases: [
        { 'x.zip': zipped(firstFiles(log, 4)) },
        { 'x.zip': zipped(firstFiles(log, 4), '-P', 'tide') }
      ],
      keys: ['tide']
    },
    {
      name: 'tar, gzip, nested',
      bases: [{ 'x.tar': tar }, { 'x.tgz': gzipSync(tar) }, { 'x.tar': nested }],
      keys: []
    },
    { name: 'zstandard', bases: [{ 'x.tar.zst': zstandard(tar) }], keys: [] },
    {
      name: 'saved messages',
      bases: [{ 'a.vmg': savedMessage(1), 'b.vmg': savedMessage(2) }],
      keys: []
    },
    {
      name: 'sealed stores',
      bases: [
        {
          's.sealed': sealStore({
            name: 'n.db',
            store: Buffer.from(Object.values(stores[0]!)[0]!),
            key: { hex: '11'.repeat(32) },
            chunk: 4096
          })
        }
      ],
      keys: ['11'.repeat(32)]
    },
    {
      name: 'property lists',
      bases: [
        { 'Manifest.plist': list, 'Manifest.db': Object.values(stores[0]!)[0]!, 'Info.plist': list }
      ],
      keys: []
    }
  ];
}

function zstandard(bytes: Uint8Array): Uint8Array {
  return execFileSync('zstd', ['-q', '-c'], { input: bytes, maxBuffer: 1 << 28 });
}

function savedMessage(n: number): Uint8Array {
  const card = `BEGIN:VCARD\r\nVERSION:2.1\r\nTEL:+479000011${n}\r\nEND:VCARD`;
  const body = `BEGIN:VENV\r\nBEGIN:VBODY\r\nDate:0${n}.06.2010 15:59:01\r\nThe boat is in\r\nEND:VBODY\r\nEND:VENV`;
  return Buffer.from(`BEGIN:VMSG\r\nX-IRMC-BOX:INBOX\r\n${card}\r\n${body}\r\nEND:VMSG\r\n`);
}

function firstFiles(files: Record<string, Uint8Array>, count: number): Record<string, Uint8Array> {
  return Object.fromEntries(Object.entries(files).slice(0, count));
}

/** What is wrong with the result of a run; empty where nothing is. */
function problems(
  { findings, files, source }: PassResult,
  given: Record<string, Uint8Array>
): string[] {
  const found: string[] = [];
  for (const note of source.notes) if (note.code === 'failed') found.push(note.text);
  const ids = new Set(files.map(({ id }) => id));
  if (ids.size < files.length) found.push(`${files.length - ids.size} files share an id`);
  for (const { id, proofs } of [...findings.messages, ...findings.calls, ...findings.contacts])
    for (const { path, offset, length } of proofs) {
      const whole =
        Number.isInteger(offset) && Number.isInteger(length) && offset >= 0 && length > 0;
      const size = given[path]?.length ?? Infinity;
      if (!whole || offset + length > size)
        found.push(`the proof of ${id} in ${path} is ${offset}, ${length} of ${size}`);
    }
  return found.slice(0, 3);
}

async function runKind({ name, bases, keys }: Kind): Promise<number> {
  const random = seeded(SEED);
  const ways = Object.keys(mutations);
  let [slowest, records, failures] = [0, 0, 0];
  for (let run = 0; run < RUNS; run++) {
    const files = { ...bases[run % bases.length]! };
    const names = Object.keys(files).filter((path) => files[path]!.length > 40);
    const hurt = names[Math.floor(random() * names.length)]!;
    const way = ways[Math.floor(run / bases.length) % ways.length]!;
    files[hurt] = mutations[way]!(files[hurt]!, random);
    const begun = performance.now();
    const wrong = await outcome(files, keys);
    const took = performance.now() - begun;
    slowest = Math.max(slowest, took);
    records += wrong.records;
    if (took > LONGEST) wrong.problems.push(`it took ${(took / 1000).toFixed(1)} s`);
    if (wrong.problems.length === 0) continue;
    failures++;
    if (failures <= 3)
      console.error(`${name}, run ${run}, ${way} of ${hurt}: ${wrong.problems.join('; ')}`);
  }
  const peak = Math.round(process.resourceUsage().maxRSS / 1024);
  console.log(
    `| ${name} | ${RUNS} | ${records} | ${failures} | ${slowest.toFixed(0)} ms | ${peak} MiB |`
  );
  return failures;
}

async function outcome(
  files: Record<string, Uint8Array>,
  keys: string[]
): Promise<{ problems: string[]; records: number }> {
  try {
    const result = await passOver(files, { keys });
    return { problems: problems(result, files), records: result.findings.messages.length };
  } catch (error) {
    return {
      problems: [error instanceof Error ? (error.stack ?? error.message) : String(error)],
      records: 0
    };
  }
}

console.log('| reader | damaged | records read | failures | slowest | peak so far |');
console.log('| --- | ---: | ---: | ---: | ---: | ---: |');
let failures = 0;
for (const kind of kinds()) if (!ONLY || kind.name.includes(ONLY)) failures += await runKind(kind);
process.exitCode = failures > 0 ? 1 : 0;
