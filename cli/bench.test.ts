import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { after, test } from 'node:test';
import { askStore, withStore } from '../bench/writers/store';
import { MemoryScratch, MemorySource } from '../core/host';
import type { CopyDepth } from '../core/acquire';
import { EVERYTHING, SourceFiles, runPass, type PassEvent } from '../core/examine';
import { messagesOf, type Depth, type FileRecord, type Message } from '../core/records';
import { ombudsman } from './ombudsman';
import { COPYING_LOG } from './copy-folder';

const folder = mkdtempSync(join(tmpdir(), 'bench-'));
process.env.XDG_STATE_HOME = join(folder, 'state');
after(() => rmSync(folder, { recursive: true }));

interface Told {
  id: string;
  kind: string;
  depths: CopyDepth[];
  needs: string[];
  faults: string[];
  key: string | null;
}

/** Runs the program; what it prints and what it says. */
async function run(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  const told = { out: '', err: '' };
  const [stdout, stderr] = [process.stdout.write, process.stderr.write];
  // What the test runner says goes out as bytes.
  process.stdout.write = ((text: string | Uint8Array) =>
    typeof text === 'string' ? !!(told.out += text) : stdout.call(process.stdout, text)) as never;
  process.stderr.write = ((text: string) => !!(told.err += text)) as never;
  try {
    return { code: await ombudsman(['bench', ...args]), ...told };
  } finally {
    [process.stdout.write, process.stderr.write] = [stdout, stderr];
  }
}

const DEVICES = JSON.parse((await run('list')).out) as Told[];

function keyOf({ id, key }: Told): string[] {
  if (key === null) return [];
  const path = join(folder, `${id}.key`);
  writeFileSync(path, `${key}\n`);
  return ['--key-file', path];
}

async function copy(device: Told, depth: string, name: string, ...more: string[]) {
  const out = join(folder, name);
  const told = await run(
    ...['copy', device.id, '--depth', depth, '--out', out, '--quiet', ...keyOf(device)],
    ...more
  );
  return { ...told, out };
}

function filesBelow(place: string): string[] {
  return readdirSync(place, { recursive: true, encoding: 'utf8' })
    .filter((path) => statSync(join(place, path)).isFile())
    .sort();
}

function sha256(path: string): string {
  return createHash('sha256').update(readFileSync(path)).digest('hex');
}

/** Checksums of a copy by its own list, which names all of its files. */
function checked(place: string): Map<string, string> {
  const lines = readFileSync(join(place, 'SHA256SUMS'), 'utf8').trim().split('\n');
  const sums = new Map(lines.map((line) => [line.slice(66), line.slice(0, 64)]));
  assert.deepEqual(
    [...sums.keys()].sort(),
    filesBelow(place).filter((path) => path !== COPYING_LOG && path !== 'SHA256SUMS')
  );
  for (const [path, sum] of sums) assert.equal(sha256(join(place, path)), sum, path);
  return sums;
}

interface Found {
  messages: Message[];
  files: FileRecord[];
  /** Other records, by live or not. */
  others: { live: number; notLive: number };
}

/** What an examination finds in a copy. */
async function examined(place: string, depth: Depth): Promise<Found> {
  const files = filesBelow(place).map(
    (path) => new MemorySource(path, readFileSync(join(place, path)))
  );
  const input = { id: 's1', name: 'copy', files };
  const found: Found = { messages: [], files: [], others: { live: 0, notLive: 0 } };
  const take = (event: PassEvent): void => {
    if (event.type === 'batch') found.messages.push(...messagesOf(event.batch));
    if (event.type === 'files') found.files.push(...event.files);
    if (event.type !== 'found' || !event.final) return;
    for (const { state } of [...event.findings.calls, ...event.findings.contacts])
      found.others[state === 'live' ? 'live' : 'notLive']++;
  };
  const events = runPass({
    input,
    depth,
    region: null,
    zone: 'Europe/Oslo',
    hasher: async () => {
      const hash = createHash('sha256');
      return { update: (bytes) => void hash.update(bytes), digest: () => hash.digest('hex') };
    },
    early: false,
    keys: [],
    scratch: () => new MemoryScratch(),
    want: EVERYTHING,
    profiles: []
  });
  for await (const event of events) take(event);
  return found;
}

function count(messages: readonly Message[]): { live: number; notLive: number } {
  const live = messages.filter(({ state }) => state === 'live').length;
  return { live, notLive: messages.length - live };
}

test('the list tells what there is, with keys and faults', () => {
  assert.deepEqual(
    DEVICES.map(({ kind }) => kind),
    ['handset', 'handset', 'handset', 'handset', 'card-reader', 'vault']
  );
  for (const { depths, needs, faults } of DEVICES)
    assert.ok(depths.includes('logical') && needs.length > 0 && faults.length > 0);
  assert.ok(DEVICES.some(({ depths }) => depths.includes('physical')));
});

for (const device of DEVICES)
  test(`${device.id}: copies are whole, repeatable, and deeper ones yield more`, async () => {
    let before: Found | null = null;
    for (const depth of device.depths) {
      const first = await copy(device, depth, `${device.id}-${depth}`);
      assert.equal(first.code, 0, first.err);
      const sums = checked(first.out);
      const second = await copy(device, depth, `${device.id}-${depth}-again`);
      assert.deepEqual(checked(second.out), sums);
      assert.ok(!existsSync(`${first.out}.part`));
      const found = await examined(first.out, 'freed');
      const all = depth === 'file-system' ? [] : [await examined(first.out, 'whole')];
      for (const { messages, files, others } of [found, ...all]) {
        const { notLive } = count(messages);
        if (depth === 'logical') assert.deepEqual([notLive, others.notLive], [0, 0]);
        else assert.ok(notLive > 0, `${depth}: deleted rows`);
        const gone = files.filter(({ state }) => state !== 'live');
        assert.equal(gone.length > 0, depth === 'physical', gone[0]?.path);
      }
      const { live, notLive } = count(found.messages);
      if (before) {
        const less = count(before.messages);
        assert.ok(live >= less.live && notLive >= less.notLive);
        assert.ok(found.others.live >= before.others.live);
        assert.ok(found.others.notLive >= before.others.notLive);
      }
      before = found;
    }
  });

for (const device of DEVICES)
  for (const fault of device.faults)
    test(`${device.id}, ${fault}: nothing looks whole, and the same command goes on`, async () => {
      const depth = device.depths.at(-1)!;
      const broken = await copy(device, depth, `${device.id}-${fault}`, '--fault', fault);
      assert.equal(broken.code, 3);
      assert.match(broken.err, /^error: [A-Z][^\n]+\.\n$/);
      assert.ok(!existsSync(broken.out) && existsSync(`${broken.out}.part`));
      assert.ok(!existsSync(join(`${broken.out}.part`, 'SHA256SUMS')));
      const again = await copy(device, depth, `${device.id}-${fault}`, '--fault', fault);
      assert.equal(again.code, 0, again.err);
      assert.ok(existsSync(again.out) && !existsSync(`${again.out}.part`));
      assert.deepEqual(checked(again.out), checked(join(folder, `${device.id}-${depth}`)));
      const log = readFileSync(join(again.out, COPYING_LOG), 'utf8');
      assert.ok(log.includes('"broke off"') && log.includes('"taken up again"'));
    });

test('keys: none, a wrong one, and no more tries', async () => {
  for (const device of DEVICES.filter(({ key }) => key !== null)) {
    await run('reset', device.id);
    const out = join(folder, `${device.id}-locked`);
    const call = ['copy', device.id, '--depth', 'logical', '--out', out];
    assert.equal((await run(...call)).code, 4);
    const wrong = join(folder, 'wrong.key');
    writeFileSync(wrong, '0000\n0000\n');
    for (let tries = 0; tries < 6; tries++) {
      const told = await run(...call, '--key-file', wrong);
      assert.equal(told.code, 4);
      assert.match(told.err, tries === 0 ? /tr(y|ies)/ : /./);
    }
    // The right one comes too late now.
    const late = await run(...call, ...keyOf(device));
    assert.equal(late.code, 4, device.id);
    assert.match(late.err, /blocked|locked|no passcode/);
    assert.ok(!existsSync(out));
    await run('reset', device.id);
    assert.equal((await run(...call, '--quiet', ...keyOf(device))).code, 0);
  }
});

test('wrong calls are told in one sentence', async () => {
  const out = join(folder, 'never');
  const there = join(folder, 'there');
  writeFileSync(there, '');
  const calls: string[][] = [
    ['copy', 'nobody', '--depth', 'logical', '--out', out],
    ['copy', 'tern-1', '--depth', 'deep', '--out', out],
    ['copy', 'tern-1', '--depth', 'logical', '--out', there],
    ['copy', 'tern-1', '--depth', 'logical', '--out', out, '--fault', 'flood'],
    ['copy', 'tern-4', '--depth', 'physical', '--out', out],
    ['copy', 'tern-1', '--depth', 'logical', '--out', out, '--key-file', join(folder, 'none')],
    ['put', 'card', '--from', there],
    ['reset', 'nobody']
  ];
  for (const call of calls) {
    const { code, err } = await run(...call);
    assert.equal(code, 2, call.join(' '));
    assert.match(err, /^error: [^\n]+\n$/);
  }
  assert.ok(!existsSync(out) && !existsSync(`${out}.part`));
});

/** The store of messages of a copied handset. */
async function storeOf(place: string, path: string): Promise<Uint8Array> {
  const files = filesBelow(place).map(
    (name) => new MemorySource(name, readFileSync(join(place, name)))
  );
  const opened = await SourceFiles.of(
    { id: 's1', name: 'copy', files },
    { keys: [], scratch: () => new MemoryScratch() }
  );
  const file = opened.open(path)!;
  return Uint8Array.from(file.read(0, file.size));
}

const FAMILIES = [
  {
    id: 'tern-4',
    path: 'file-system.tar/data/org.example.telephony/databases/mmssms.db',
    count: 'SELECT (SELECT count(*) FROM sms) + (SELECT count(*) FROM pdu)',
    lose: 'DELETE FROM sms WHERE _id % 9 = 0; DELETE FROM pdu WHERE _id = 1;',
    texts: 'SELECT body FROM sms ORDER BY date, body'
  },
  {
    id: 'pocket-5',
    path: 'file-system.tar/mobile/Library/SMS/sms.db',
    count: 'SELECT count(*) FROM message',
    lose: 'DELETE FROM message WHERE ROWID % 9 = 0;',
    texts: 'SELECT text FROM message ORDER BY date, text'
  }
];

for (const { id, path, count: counting, lose, texts } of FAMILIES)
  test(`${id}: what is put back is neither lost nor doubled, and can be undone`, async () => {
    const device = DEVICES.find((one) => one.id === id)!;
    await run('reset', id);
    const first = await copy(device, 'file-system', `${id}-put-first`);
    const original = await storeOf(first.out, path);
    const ask = (bytes: Uint8Array, sql: string): unknown =>
      askStore(bytes, (db) => db.exec(sql)[0]!.values);
    const [[before]] = ask(original, counting) as [[number]];
    // The file lacks some of what the handset has, and has some that it lacks.
    const file = join(folder, `${id}-rebuilt.db`);
    writeFileSync(
      file,
      withStore(original, (db) => {
        db.run(lose);
        if (id === 'tern-4') {
          db.run(
            `INSERT INTO sms(_id, thread_id, address, date, type, body) VALUES(9, 1, '+447700900184', 1773301267123, 1, 'Put back one.')`
          );
          db.run(
            `INSERT INTO sms(thread_id, address, date, type, body) VALUES(99, '+447700900999', 1773301267124, 2, 'To someone new.')`
          );
        } else {
          db.run(
            `INSERT INTO message(guid, text, handle_id, date, is_from_me) VALUES('NEW-1', 'Put back one.', 1, 794000000123456789, 0)`
          );
          db.run(
            `INSERT INTO message(guid, text, handle_id, date, is_from_me) VALUES('NEW-2', 'To someone new.', 9001, 794000000123456790, 1)`
          );
          db.run("INSERT INTO handle(ROWID, id, service) VALUES(9001, 'new@quay.example', 'post')");
        }
      })
    );
    const put = async (...more: string[]) => {
      const told = await run('put', id, '--from', file, ...more);
      assert.equal(told.code, 0, told.err);
      return JSON.parse(told.out) as { added: number; before: number; after: number };
    };
    const dry = await put('--dry-run');
    assert.deepEqual([dry.added, dry.before, dry.after], [2, before, before + 2]);
    const unchanged = await copy(device, 'file-system', `${id}-put-dry`);
    assert.deepEqual(checked(unchanged.out), checked(first.out));
    assert.equal((await put()).added, 2);
    const second = await copy(device, 'file-system', `${id}-put-second`);
    const merged = await storeOf(second.out, path);
    assert.deepEqual(ask(merged, counting), [[before + 2]]);
    const now = (ask(merged, texts) as string[][]).flat();
    const was = (ask(original, texts) as string[][]).flat();
    assert.deepEqual([...was, 'Put back one.', 'To someone new.'].sort(), now.sort());
    if (id === 'pocket-5')
      assert.deepEqual(
        ask(
          merged,
          `SELECT h.id FROM message m JOIN chat_message_join j ON j.message_id = m.ROWID
           JOIN chat_handle_join k ON k.chat_id = j.chat_id JOIN handle h ON h.ROWID = k.handle_id
           WHERE m.guid = 'NEW-2'`
        ),
        [['new@quay.example']]
      );
    if (id === 'pocket-5')
      assert.deepEqual(ask(merged, "SELECT CAST(date AS TEXT) FROM message WHERE guid = 'NEW-1'"), [
        ['794000000123456789']
      ]);
    assert.equal((await put()).added, 0, 'nothing is added twice');
    await run('reset', id);
    const reset = await copy(device, 'file-system', `${id}-put-reset`);
    assert.deepEqual(checked(reset.out), checked(first.out));
  });

test('what is no store of the family is refused, and nothing is changed', async () => {
  const noise = join(folder, 'noise.db');
  writeFileSync(noise, Buffer.alloc(9000, 7));
  const other = join(folder, 'other.db');
  writeFileSync(
    other,
    withStore(null, (db) => db.run('CREATE TABLE t(a)'))
  );
  for (const file of [noise, other]) {
    const { code, err } = await run('put', 'tern-4', '--from', file);
    assert.equal(code, 2);
    assert.match(err, /^error: The file [^\n]+\n$/);
  }
  assert.equal((await run('put', 'tern-4', '--from', join(folder, 'gone'))).code, 3);
});

test('a place that another run copies to is left to it; a lock that nobody holds is taken over', async () => {
  const device = DEVICES.find(({ kind, key }) => kind === 'handset' && key === null)!;
  const out = join(folder, 'shared');
  const held = `${out}.part.lock`;
  writeFileSync(held, String(process.ppid));
  const args = ['copy', device.id, '--depth', 'logical', '--out', out];
  const refused = await run(...args);
  assert.equal(refused.code, 2);
  assert.match(refused.err, new RegExp(`by another run \\(process ${process.ppid}\\)`));
  assert.equal(existsSync(out), false);
  // No process has so high a number.
  writeFileSync(held, '4194305');
  const taken = await run(...args);
  assert.equal(taken.code, 0, taken.err);
  assert.equal(existsSync(held), false);
});
