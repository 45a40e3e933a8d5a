import { passOver } from '../core/tests/pass';
import { recoveryCases } from './cases';
import { judge, type Score } from './judge';

const SEED = 20261103;

/** Prints, for each case of the corpus, how much of what is physically present comes back. */
async function main(): Promise<void> {
  const rows: string[][] = [];
  const sum = { present: 0, bodies: 0, full: 0, invented: 0, exact: true };
  for (const made of recoveryCases(SEED)) {
    const { findings } = await passOver({ 'messages.db': made.bytes });
    const score = judge(made, findings);
    rows.push(row(made.name, score));
    sum.present += score.present;
    sum.bodies += score.bodies;
    sum.full += score.full;
    sum.invented += score.invented;
    sum.exact &&= score.liveExact;
  }
  rows.push([
    '**all**',
    sum.exact ? 'exact' : 'DIFFERS',
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
    score.liveExact ? 'exact' : 'DIFFERS',
    String(score.deleted),
    String(score.present),
    ratio(score.bodies, score.present),
    ratio(score.full, score.present),
    String(score.fragments),
    String(score.invented)
  ];
}

function ratio(part: number, whole: number): string {
  return whole === 0 ? '–' : (part / whole).toFixed(3);
}

await main();
