import { sizeText } from '../../host';
import {
  carrierText,
  JOINED,
  proofText,
  shownBody,
  STATE_MARKS,
  storeChanges,
  type Production,
  type ProductionGap,
  type ProductionLine,
  type ProductionSection,
  type ProductionThread
} from '../model';
import { safeFileName } from '../names';
import { isEmpty, shown, type Text } from '../parts';
import type { ZonedTime } from '../../shown';
import { visible } from '../../shown';
import { textFile, type FormatContext, type ProducedFile } from './format';

/** Plain text, one file a conversation or list. A bar stands before each line of a body, so that none can pass for a line of the record. */
export function* produceText(
  production: Production,
  context: FormatContext
): Generator<ProducedFile> {
  for (const [i, section] of production.sections.entries())
    yield textFile(
      `text/${safeFileName(i + 1, shown(section.title), 'txt')}`,
      `${[...headOf(production, section), ...bodyOf(section, context)].join('\n')}\n`
    );
}

function headOf({ head }: Production, { label, title }: ProductionSection): string[] {
  return [
    label === null ? oneLine(title) : `${label}  ${oneLine(title)}`,
    `Case: ${oneLine([{ text: head.caseName }])}`,
    `Times: ${head.zone}`
  ];
}

function bodyOf(section: ProductionSection, context: FormatContext): string[] {
  const at = (moment: number | null): string =>
    moment === null ? 'time unknown' : context.time.full(moment);
  switch (section.kind) {
    case 'thread':
      return threadText(section.thread, context);
    case 'calls':
      return section.calls.map(
        ({ at: when, direction, who, address, seconds, state }) =>
          `${at(when)}  ${direction}  ${oneLine(who)} <${oneLine(address)}>  ${seconds ?? '?'} s  ${state}`
      );
    case 'contacts':
      return section.contacts.map(({ name, phones, emails, organisation, state }) =>
        [name, ...phones, ...emails, organisation, [{ text: state }]].map(oneLine).join('  ')
      );
    case 'files':
      return section.files.flatMap(({ name, bytes, state, carriers }) => [
        `${oneLine(name)}${bytes === null ? '' : `, ${sizeText(bytes)}`}, ${state}`,
        ...carriers.map((carrier) => `      ${oneLine(carrierText(carrier, context.time))}`)
      ]);
    case 'gaps':
      return section.gaps.map((gap) => {
        const who = gap.who === null ? '' : `  with ${oneLine(gap.who)}`;
        return `${gapLine(gap, context.time)}${who}  (${visible(gap.reason)})`;
      });
  }
}

function threadText(
  thread: ProductionThread,
  { time, serials, settings }: FormatContext
): string[] {
  const out = [
    ...thread.participants.map((p) => `With: ${oneLine(p.name)} <${oneLine(p.address)}>`),
    `Lines: ${thread.lines.length} of ${thread.of}`,
    ''
  ];
  let day = '';
  const stores = storeChanges(thread.lines);
  for (const line of thread.lines) {
    for (const gap of thread.gapsBefore.get(line.id) ?? []) out.push(gapLine(gap, time));
    const heading = line.at === null ? 'Time unknown' : time.longDay(line.at);
    if (heading !== day) out.push('', `== ${heading} ==`, '');
    day = heading;
    const store = stores.get(line.id);
    if (store !== undefined) out.push(`-- from ${visible(store)} --`);
    for (const text of lineText(line, time, serials.get(line.id), settings.proofs !== 'none'))
      out.push(text);
  }
  for (const gap of thread.gapsAtEnd) out.push(gapLine(gap, time));
  return out;
}

function gapLine({ count, from, to }: ProductionGap, time: ZonedTime): string {
  const what = count === 1 ? '1 message is' : `${count} messages are`;
  const between =
    from === null || to === null ? '' : ` between ${time.full(from)} and ${time.full(to)}`;
  return `-- ${what} missing${between} --`;
}

function lineText(
  line: ProductionLine,
  time: ZonedTime,
  serial: string | undefined,
  withProofs: boolean
): string[] {
  const at = line.at === null ? 'time unknown' : time.full(line.at);
  const { word } = STATE_MARKS[line.state];
  const state = line.state === 'live' ? '' : ` [${word}, certainty ${line.certainty}]`;
  const stamped = serial === undefined ? '' : `  ${serial}`;
  const context = line.isContext ? ' (context)' : '';
  const who = oneLine(line.sender) || line.direction;
  const out = [`${line.number}${stamped}  ${at}  ${who}${state}${context}`];
  if (line.replyTo) {
    const of = line.replyTo.line === null ? '' : ` line ${line.replyTo.line}`;
    out.push(`      (answers${of}: ${oneLine(line.replyTo.quote)})`);
  }
  if (!isEmpty(line.subject)) out.push(`      Subject: ${oneLine(line.subject)}`);
  const body = shown(shownBody(line));
  if (body !== '')
    out.push(...body.split(/\r\n|[\n\r\u2028\u2029\u0085\v\f]/).map((t) => `    | ${visible(t)}`));
  for (const file of line.attachments) {
    const size = file.bytes === null ? '' : `, ${sizeText(file.bytes)}`;
    const joined = file.byHand ? `, ${JOINED}` : '';
    out.push(`      (attachment: ${oneLine(file.name)}${size}${joined})`);
  }
  for (const { who: by, text } of line.reactions)
    out.push(`      (reaction of ${oneLine(by)}: ${oneLine(text)})`);
  if (line.place) out.push(`      (place: ${line.place.lat}, ${line.place.lon})`);
  if (line.state !== 'live' && withProofs)
    out.push(...line.proofs.slice(0, 1).map((p) => `      proof: ${visible(proofText(p))}`));
  return out;
}

function oneLine(text: Text): string {
  return visible(shown(text).replace(/[\t\r\n\u2028\u2029]+/g, ' ')).trim();
}
