import { passOver } from '../core/tests/pass';
import { mutations } from '../core/tests/mutate';
import { messages, seeded } from '../core/tests/telephony';
import { runHistory } from './histories';
import { dialects } from './statements';

/** Damages files in every way that the tests know, examines each, and fails on the first that does not end well. */
const RUNS = Number(process.argv[2] ?? 10_000);
const SEED = 4;

interface Tally {
  runs: number;
  records: number;
  slowest: number;
  total: number;
}

function bases(): Record<string, Uint8Array>[] {
  const list = messages(60, seeded(SEED));
  const told = (name: keyof typeof dialects, before: string, after: string): string => {
    const dialect = dialects[name]();
    const gone = list.filter(({ id }) => id % 4 === 0).map((m) => dialect.remove(m));
    const written = list.map((m) => dialect.insert(m)).join('\n');
    return `PRAGMA secure_delete=OFF;PRAGMA page_size=1024;${before}${dialect.schema}${written}${gone.join('\n')}${after}`;
  };
  const log = 'PRAGMA journal_mode=WAL;PRAGMA wal_autocheckpoint=0;';
  const histories = [
    told('telephony', '', ''),
    told('handle–chat', 'PRAGMA auto_vacuum=2;', ''),
    told('no row numbers', "PRAGMA encoding='UTF-16le';", ''),
    told('telephony', log, '\nSNAPSHOT\n'),
    told('telephony', 'PRAGMA journal_mode=PERSIST;', '\nSNAPSHOT\n')
  ];
  return histories.map((script) => {
    const { main, wal, journal } = runHistory(script);
    const files: Record<string, Uint8Array> = { 'a.db': main };
    if (wal) files['a.db-wal'] = wal;
    if (journal) files['a.db-journal'] = journal;
    return files;
  });
}

async function main(): Promise<void> {
  const random = seeded(SEED);
  const all = bases();
  const names = Object.keys(mutations);
  const tallies = new Map<string, Tally>();
  for (let run = 0; run < RUNS; run++) {
    const name = names[run % names.length]!;
    const base = all[Math.floor(run / names.length) % all.length]!;
    const files = { ...base };
    const parts = Object.keys(files);
    const part = parts[Math.floor(random() * parts.length)]!;
    files[part] = mutations[name]!(files[part]!, random);
    const begun = performance.now();
    const { findings } = await passOver(files, { depth: run % 2 === 0 ? 'freed' : 'whole' });
    check(findings.messages, files, `${name}, run ${run}`);
    note(tallies, name, performance.now() - begun, findings.messages.length);
  }
  report(tallies);
}

/** Every record has a proof, and every proof lies in its file. */
function check(
  records: Awaited<ReturnType<typeof passOver>>['findings']['messages'],
  files: Record<string, Uint8Array>,
  run: string
): void {
  for (const { proofs, id } of records) {
    if (proofs.length === 0) throw new Error(`${run}: ${id} has no proof`);
    for (const { path, offset, length } of proofs) {
      const file = files[path];
      if (!file || offset < 0 || length <= 0 || offset + length > file.length)
        throw new Error(`${run}: the proof of ${id} is outside ${path}: ${offset}, ${length}`);
    }
  }
}

function note(tallies: Map<string, Tally>, name: string, ms: number, records: number): void {
  const tally = tallies.get(name) ?? { runs: 0, records: 0, slowest: 0, total: 0 };
  tallies.set(name, tally);
  tally.runs++;
  tally.records += records;
  tally.slowest = Math.max(tally.slowest, ms);
  tally.total += ms;
}

function report(tallies: Map<string, Tally>): void {
  console.log('| damage | files | records read | usual | slowest |');
  console.log('| --- | ---: | ---: | ---: | ---: |');
  for (const [name, { runs, records, slowest, total }] of tallies) {
    const usual = `${(total / runs).toFixed(0)} ms`;
    console.log(`| ${name} | ${runs} | ${records} | ${usual} | ${slowest.toFixed(0)} ms |`);
  }
  const peak = Math.round(process.resourceUsage().maxRSS / 1024);
  console.log(`\npeak memory ${peak} MiB`);
}

await main();
