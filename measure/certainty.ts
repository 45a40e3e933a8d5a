import { passOver } from '../core/tests/pass';
import { recoveryCases, type RecoveryCase } from './cases';

/** How often recovered messages are right, by the certainty that they were given: in the half of the corpus that the scoring was tuned on, and in the other. */
const SEED = 20261103;
const HELD_OUT_SEED = 70_003;
const BANDS = [0, 70, 80, 90, 95, 98, 100];

interface Band {
  records: number;
  right: number;
}

async function main(): Promise<void> {
  const halves = [
    await measure(recoveryCases(SEED), 0),
    await measure(recoveryCases(HELD_OUT_SEED), 1)
  ];
  console.log('| certainty | tuned on | right | held out | right |');
  console.log('| --- | ---: | ---: | ---: | ---: |');
  BANDS.slice(0, -1).forEach((from, i) => {
    const cells = halves.flatMap((bands) => {
      const { records, right } = bands[i]!;
      return [String(records), records === 0 ? '–' : (right / records).toFixed(4)];
    });
    console.log(`| ${from} to ${BANDS[i + 1]! - 1} | ${cells.join(' | ')} |`);
  });
}

async function measure(cases: Iterable<RecoveryCase>, parity: number): Promise<Band[]> {
  const bands = BANDS.slice(0, -1).map((): Band => ({ records: 0, right: 0 }));
  let n = 0;
  for (const made of cases) {
    if (n++ % 2 !== parity) continue;
    const { findings } = await passOver(made.files, { depth: made.depth });
    const known = new Map([...made.live, ...made.deleted].map((m) => [m.body, m.date]));
    for (const { state, body, sentAt, certainty } of findings.messages) {
      if (state !== 'recovered' && state !== 'fragment' && state !== 'earlier') continue;
      const band = bands[BANDS.findLastIndex((from) => certainty >= from)]!;
      band.records++;
      if (isRight(state, body, sentAt, known)) band.right++;
    }
  }
  return bands;
}

/** A whole message has its words and its moment; a fragment has the beginning of the words. */
function isRight(
  state: string,
  body: string,
  sentAt: number | null,
  known: ReadonlyMap<string, number>
): boolean {
  if (state !== 'fragment')
    return known.has(body) && (sentAt === null || known.get(body) === sentAt);
  const start = body.replace(/\ufffc$/, '');
  return [...known.keys()].some((whole) => whole.startsWith(start));
}

await main();
