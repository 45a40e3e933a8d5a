import { sha256 } from '@noble/hashes/sha2.js';
import { utf8ToBytes } from '@noble/hashes/utils.js';
import { createMimeMessage } from 'mimetext/browser';
import { toHex } from '../../host';
import {
  shownBody,
  STATE_MARKS,
  type Production,
  type ProductionLine,
  type ProductionThread
} from '../model';
import { isEmpty, shown, type Text } from '../parts';
import { visible } from '../../shown';
import { textFile, type FormatContext, type ProducedFile } from './format';

/** Each line as a mail of its own (RFC 5322), with its files; the name begins with the line's number. */
export async function* produceMails(
  production: Production,
  context: FormatContext
): AsyncGenerator<ProducedFile> {
  for (const thread of production.threads)
    for (const line of thread.lines) {
      context.signal.throwIfAborted();
      const name = String(line.number).padStart(6, '0');
      yield textFile(`mail/${name}.eml`, await mailOf(production, thread, line, context));
    }
}

/** All lines in one box (RFC 4155); lines that would be taken for the beginning of a mail get a `>`. */
export async function* produceBox(
  production: Production,
  context: FormatContext
): AsyncGenerator<ProducedFile> {
  const out: string[] = [];
  for (const thread of production.threads)
    for (const line of thread.lines) {
      context.signal.throwIfAborted();
      const mail = await mailOf(production, thread, line, context);
      const when = ctime(line.at ?? production.head.made);
      const quoted = mail.replaceAll('\r\n', '\n').replace(/^(>*From )/gm, '>$1');
      out.push(`From ombudsman@record.invalid ${when}\n${quoted.trimEnd()}\n\n`);
    }
  yield textFile('threads.mbox', out.join(''));
}

/** Larger files stay beside the mails; a mail names them. */
const MOST_BYTES = 25 << 20;

async function mailOf(
  { head }: Production,
  thread: ProductionThread,
  line: ProductionLine,
  { media, serials }: FormatContext
): Promise<string> {
  const mail = createMimeMessage();
  // Boundaries that follow from the line: the same mail each time.
  const boundary = toHex(sha256(utf8ToBytes(line.id))).slice(0, 24);
  mail.boundaries = { mixed: `m${boundary}`, alt: `a${boundary}`, related: `r${boundary}` };
  const owner = { name: 'Owner', addr: 'owner@record.invalid' };
  const others = thread.participants.map(({ name, address }) => boxOf(name, address));
  const isOwn = line.direction === 'outgoing';
  mail.setSender(isOwn ? owner : boxOf(line.sender, line.address));
  mail.setTo(isOwn && others.length > 0 ? others : [owner]);
  mail.setSubject(oneLine(isEmpty(line.subject) ? thread.title : line.subject));
  mail.setHeader('Date', mailDate(line.at ?? head.made));
  mail.setHeader('Message-ID', idOf(line.id));
  mail.setHeader('X-Record-Line', String(line.number));
  mail.setHeader('X-Record-State', line.state);
  const serial = serials.get(line.id);
  if (serial !== undefined) mail.setHeader('X-Record-Serial', oneLine([{ text: serial }]));
  mail.addMessage({
    contentType: 'text/plain',
    charset: 'UTF-8',
    encoding: 'base64',
    data: base64(utf8ToBytes(bodyOf(line)))
  });
  for (const file of line.attachments) {
    const found = await media.get(file);
    if (typeof found === 'string' || found.bytes.length > MOST_BYTES) continue;
    mail.addAttachment({
      filename: found.name,
      contentType: found.mime,
      encoding: 'base64',
      data: base64(found.bytes)
    });
  }
  return mail.asRaw().replace(/\r?\n/g, '\r\n');
}

function bodyOf(line: ProductionLine): string {
  const body = visible(shown(shownBody(line)));
  const { word } = STATE_MARKS[line.state];
  const facts = [
    ...(line.at === null ? ['The time of this line is not known.'] : []),
    ...(line.state === 'live' ? [] : [`This line is ${word}, certainty ${line.certainty}.`]),
    ...line.attachments.map(({ name }) => `Attachment: ${oneLine(name)}`)
  ];
  return facts.length === 0 ? body : `${body}\n\n-- \n${facts.join('\n')}`;
}

/** A mail address as it is; numbers and handles become one that nobody has (RFC 2606). */
function boxOf(name: Text, address: Text): { name: string; addr: string } {
  const at = shown(address);
  const isMail = /^[\w.+-]+@[a-z0-9-]+(\.[a-z0-9-]+)+$/i.test(at);
  const local = at
    .normalize('NFKD')
    .replace(/[^\w+-]+/g, '.')
    .replace(/^\.+|\.+$/g, '');
  return {
    name: oneLine(name).replace(/["\\<>]/g, ' '),
    addr: isMail ? at : `${local.slice(0, 60) || 'unknown'}@record.invalid`
  };
}

function idOf(id: string): string {
  return `<${toHex(sha256(utf8ToBytes(id))).slice(0, 32)}@record.invalid>`;
}

function oneLine(text: Text): string {
  return visible(shown(text).replace(/\s+/g, ' ')).trim();
}

function base64(bytes: Uint8Array): string {
  let out = '';
  for (let at = 0; at < bytes.length; at += 0x6000)
    out += btoa(String.fromCharCode(...bytes.subarray(at, at + 0x6000)));
  // No line of a mail is longer than 998 signs; of encoded ones 76 are usual (RFC 2045, section 6.8).
  return out.replace(/.{76}(?=.)/g, '$&\r\n');
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** Section 3.3 of RFC 5322, in UTC. */
function mailDate(at: number): string {
  const date = new Date(at);
  const time = date.toISOString().slice(11, 19);
  return `${DAYS[date.getUTCDay()]}, ${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]} ${date.getUTCFullYear()} ${time} +0000`;
}

function ctime(at: number): string {
  const date = new Date(at);
  const day = String(date.getUTCDate()).padStart(2, ' ');
  return `${DAYS[date.getUTCDay()]} ${MONTHS[date.getUTCMonth()]} ${day} ${date.toISOString().slice(11, 19)} ${date.getUTCFullYear()}`;
}
