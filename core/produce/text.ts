import {
  proofText,
  shownBody,
  sizeText,
  STATE_MARKS,
  type ProducedFile,
  type Production,
  type ProductionLine,
  type ProductionThread
} from './model';
import { safeFileName } from './names';
import { ZonedTime } from './time';
import { visible } from './visible';

/** Plain text, one file a conversation. A bar stands before each line of a body, so that none can pass for a line of the record. */
export function produceText(production: Production): ProducedFile[] {
  const time = new ZonedTime(production.zone);
  return production.threads.map((thread, i) => ({
    path: `text/${safeFileName(i + 1, thread.title, 'txt')}`,
    text: threadText(production, thread, time)
  }));
}

function threadText(production: Production, thread: ProductionThread, time: ZonedTime): string {
  const out = [
    oneLine(thread.title),
    ...thread.participants.map((p) => `With: ${oneLine(p.name)} <${oneLine(p.address)}>`),
    `Case: ${oneLine(production.caseName)}`,
    `Times: ${production.zone}`,
    `Lines: ${thread.lines.length} of ${thread.of}`,
    ''
  ];
  let day = '';
  for (const line of thread.lines) {
    const heading = line.at === null ? 'Time unknown' : time.longDay(line.at);
    if (heading !== day) out.push('', `== ${heading} ==`, '');
    day = heading;
    for (const text of lineText(line, time)) out.push(text);
  }
  return `${out.join('\n')}\n`;
}

function lineText(line: ProductionLine, time: ZonedTime): string[] {
  const at = line.at === null ? 'time unknown' : time.full(line.at);
  const { word } = STATE_MARKS[line.state];
  const state = line.state === 'live' ? '' : ` [${word}, certainty ${line.certainty}]`;
  const out = [`${line.number}  ${at}  ${oneLine(line.sender)}${state}`];
  if (line.subject) out.push(`      Subject: ${oneLine(line.subject)}`);
  if (line.body !== '')
    out.push(
      ...shownBody(line)
        .split(/\r\n|[\n\r\u2028\u2029\u0085\v\f]/)
        .map((t) => `    | ${visible(t)}`)
    );
  for (const file of line.attachments) {
    const size = file.bytes === null ? '' : `, ${sizeText(file.bytes)}`;
    out.push(`      (attachment: ${oneLine(file.name)}${size})`);
  }
  if (line.state !== 'live')
    out.push(...line.proofs.slice(0, 1).map((p) => `      proof: ${proofText(p)}`));
  return out;
}

function oneLine(text: string): string {
  return visible(text.replace(/[\t\r\n\u2028\u2029]+/g, ' ')).trim();
}
