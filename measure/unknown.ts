import { passOver } from '../core/tests/pass';
import { buildStore, ZONE } from '../core/tests/unknown/build';
import { plans, type Plan } from '../core/tests/unknown/dimensions';
import { OTHERS, otherStore } from '../core/tests/unknown/no-messages';
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

/** Tables of which no row is a message. */
async function noMessages(): Promise<void> {
  console.log('\nNo messages\n');
  console.log('| table | messages read | fit |');
  console.log('| --- | ---: | ---: |');
  let wrong = 0;
  for (const [i, other] of OTHERS.entries()) {
    const { findings, source } = await passOver({ 'x.db': otherStore(other, 50 + i) });
    const fit = Math.max(0, ...source.inside.candidates.map((candidate) => candidate.fit));
    if (findings.messages.length > 0) wrong++;
    console.log(`| ${other.label} | ${findings.messages.length} | ${fit} |`);
    if (findings.messages.length > 0 && args.includes('--why'))
      console.log(source.inside.candidates.flatMap(({ reasons }) => reasons).join('\n'));
  }
  console.log(`\n${wrong} of ${OTHERS.length} tables without messages were read as some`);
}

if (args.includes('--others')) await noMessages();
else if (args.includes('--more')) await half('More', plans(48, 100));
else if (only !== undefined) await half('One store', plans(1, Number(only)));
else {
  await half('Looked at', plans(EACH, 0));
  if (!tunedOnly) await half('Held out', plans(EACH, HELD_OUT));
  await noMessages();
}
