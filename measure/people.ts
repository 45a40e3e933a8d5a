import { peopleCorpus, scoreJoins } from '../core/tests/people-corpus';

/** How well addresses of 200 invented people in four sources are joined, by several seeds. */
const SEEDS = [1, 2, 3, 4, 5, 6, 7, 8];

console.log(
  '| seed | right pairs | made | made or proposed | wrongly made | wrongly proposed | time |'
);
console.log('| ---: | ---: | ---: | ---: | ---: | ---: | ---: |');
for (const seed of SEEDS) {
  const corpus = peopleCorpus(seed);
  const begun = performance.now();
  const { right, made, proposed, wrong, wronglyProposed } = scoreJoins(corpus);
  const share = (n: number): string => `${((100 * n) / right).toFixed(1)} %`;
  const time = Math.round(performance.now() - begun);
  console.log(
    `| ${seed} | ${right} | ${share(made)} | ${share(proposed)} | ${wrong.length} | ${wronglyProposed} | ${time} ms |`
  );
}
