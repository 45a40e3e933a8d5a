import { passOver } from '../core/tests/pass';
import { recoveryCases } from './cases';
import { judge, type Score } from './judge';

const SEED = 20261103;

/** Prints, for each case of the corpus, how much of what is physically present comes back. */
async function main(
  seed: number,
  only: string | undefined,
  most: number | undefined
): Promise<void> {
  const rows: string[][] = [];
  const sum = { present: 0, bodies: 0, full: 0, invented: 0, least: 1 };
  for (const made of recoveryCases(seed, only, most)) {
    const { findings } = await passOver(made.files, { depth: made.depth });
    const score = judge(made, findings);
    rows.push(row(made.name, score));
    sum.present += score.present;
    sum.bodies += score.bodies;
    sum.full += score.full;
    sum.invented += score.invented;
    sum.least = Math.min(sum.least, score.live ?? 1);
    process.stderr.write(`${rows.at(-1)!.join(' | ')}\n`);
  }
  rows.push([
    '**all**',
    share(sum.least),
    '',
    String(sum.present),
    ratio(sum.bodies, sum.present),
    ratio(sum.full, sum.present),
    '',
    String(sum.invented)
  ]);
  const head = ['case', 'live', 'deleted', 'present', 'bodies', 'full', 'fragments', 'invented'];
  console.log([head, head.map(() => '---'), ...rows].map((r) => `| ${r.join(' | ')} |`).join('\n'));
}

function row(name: string, score: Score): string[] {
  return [
    name,
    score.live === null ? '–' : share(score.live),
    String(score.deleted),
    String(score.present),
    ratio(score.bodies, score.present),
    ratio(score.full, score.present),
    String(score.fragments),
    String(score.invented)
  ];
}

/** Rounded down, so that 1.000 means all of them. */
function share(value: number): string {
  return (Math.floor(value * 1000) / 1000).toFixed(3);
}

function ratio(part: number, whole: number): string {
  return whole === 0 ? '–' : share(part / whole);
}

const [seed, only, most] = process.argv.slice(2);
await main(Number(seed ?? SEED), only, most === undefined ? undefined : Number(most));
