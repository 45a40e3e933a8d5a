import { passOver } from '../core/tests/pass';
import { buildStore, ZONE } from '../core/tests/unknown/build';
import { plans, type Plan } from '../core/tests/unknown/dimensions';
import { isConfidentlyWrong, isRight, judge, type Verdict } from '../core/tests/unknown/judge';

/** Reads stores that no profile knows: half of them are those that the code was made with, half are not. */
const EACH = 24;
/** Where the plans of the half begin that was not looked at. */
const HELD_OUT = 500;

const args = process.argv.slice(2);
const only = args.find((arg) => /^\d+$/.test(arg));
const tunedOnly = args.includes('--tuned');

async function read(plan: Plan): Promise<Verdict> {
  const store = buildStore(plan);
  return judge(store, await passOver({ [store.path]: store.bytes }, { zone: ZONE }));
}

function percent(share: number): string {
  return (100 * share).toFixed(0);
}

async function half(title: string, list: Plan[]): Promise<void> {
  console.log(`\n${title}\n`);
  console.log('| store | fit | text | time | direction | conversation | extra | deleted | |');
  console.log('| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: | --- |');
  let right = 0;
  let wrong = 0;
  for (const plan of list) {
    const verdict = await read(plan);
    const isGood = isRight(verdict);
    const isBad = isConfidentlyWrong(verdict);
    if (isGood) right++;
    if (isBad) wrong++;
    const { fit, text, time, direction, conversation, extra, deleted, inverted } = verdict;
    const shares = [text, time, direction, conversation, extra, deleted].map(percent).join(' | ');
    const mark = isBad
      ? 'confidently wrong'
      : isGood
        ? ''
        : inverted > 0.5
          ? 'inverted'
          : 'not right';
    console.log(`| ${plan.label} | ${fit} | ${shares} | ${mark} |`);
    if (only !== undefined) console.log(verdict.reasons.join('\n'));
  }
  console.log(`\n${right} of ${list.length} right, ${wrong} confidently wrong`);
}

if (only !== undefined) await half('One store', plans(1, Number(only)));
else {
  await half('Looked at', plans(EACH, 0));
  if (!tunedOnly) await half('Held out', plans(EACH, HELD_OUT));
}
