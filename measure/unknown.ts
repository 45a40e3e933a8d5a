import { passOver } from '../core/tests/pass';
import { buildStore, ZONE } from '../core/tests/unknown/build';
import { plans, type Plan } from '../core/tests/unknown/dimensions';
import { builtLogs, LOG_FAMILIES } from '../core/tests/unknown/logs';
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

/** Text logs of all families, each with other conversations. */
async function logs(seeds: number[]): Promise<void> {
  console.log('\nText logs\n');
  console.log('| family | text | time | direction | conversation | extra | |');
  console.log('| --- | ---: | ---: | ---: | ---: | ---: | --- |');
  let right = 0;
  let all = 0;
  for (const family of LOG_FAMILIES) {
    if (only !== undefined && LOG_FAMILIES.indexOf(family) !== Number(only)) continue;
    for (const seed of seeds) {
      const { talk, files } = builtLogs(family, seed);
      const result = await passOver(files, { zone: ZONE });
      const verdict = judge({ live: talk.said, deleted: [] }, result);
      const { text, time, direction, conversation, extra } = verdict;
      all++;
      if (isRight(verdict)) right++;
      const shares = [text, time, direction, conversation, extra].map(percent).join(' | ');
      console.log(`| ${family.label} | ${shares} | ${isRight(verdict) ? '' : 'not right'} |`);
      if (args.includes('--why'))
        console.log(
          result.findings.stores
            .map(({ path, profile, limits }) => `${path} ${profile} ${limits.join('; ')}`)
            .slice(0, 3)
            .join('\n')
        );
    }
  }
  console.log(`\n${right} of ${all} right`);
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
else if (args.includes('--logs')) await logs([41, 42, 43]);
else if (args.includes('--more'))
  await half('More', plans(48, Number(args[args.indexOf('--more') + 1] ?? 100)));
else if (only !== undefined) await half('One store', plans(1, Number(only)));
else {
  await half('Looked at', plans(EACH, 0));
  if (!tunedOnly) await half('Held out', plans(EACH, HELD_OUT));
  await logs([41, 42, 43]);
  await noMessages();
}
