import { readMarkup, type MarkupListener } from '../../host';
import type { ChatLog, LogEntry, TextLine } from './entries';
import { readLineLog } from './lines';
import { dateAt, momentOf, orderOf, timeAt, type WrittenDate, type WrittenTime } from './moment';
import { readStyledLog } from './styled';
import { decodeWhole, type DecodedText } from './text';

const BLOCKS = new Set([
  'br',
  'p',
  'div',
  'li',
  'tr',
  'h1',
  'h2',
  'h3',
  'h4',
  'dt',
  'dd',
  'body',
  'title',
  'hr'
]);

/** A block of a page: its text, what its element says it is, and a moment that an attribute gives. */
interface Block extends TextLine {
  role: 'name' | 'text' | 'other';
  /** Written in full in an attribute of this block's element. */
  moment: string | null;
}

/** Reads a log kept as a web page: by its lines, or by elements that carry the moment, the name and the text. */
export function readPageLog(bytes: Uint8Array, path: string, zone: string): ChatLog | null {
  const decoded = decodeWhole(bytes);
  const blocks = blocksOf(decoded);
  const byParts = byElements(blocks, path, zone);
  if (byParts) return byParts;
  const byLines = readLineLog(blocks, path, zone);
  return byLines && !byLines.isShort ? byLines : (readStyledLog(decoded, path, zone) ?? byLines);
}

function roleOf(attributes: Record<string, string>): Block['role'] | null {
  const name = `${attributes.class ?? ''} ${attributes.itemprop ?? ''}`.toLowerCase();
  if (/(^|[\s_-])(from|sender|author|nick|name|user)/.test(name)) return 'name';
  if (/(^|[\s_-])(text|body|content|message_?text)([\s_-]|$)/.test(name)) return 'text';
  return null;
}

function blocksOf({ text: page, offsetOf }: DecodedText): Block[] {
  const out: Block[] = [];
  /** Of each element that is open: what it, or one around it, says its text is. */
  const roles: Block['role'][] = [];
  let text = '';
  let start = 0;
  let moment: string | null = null;
  const listener: MarkupListener = {
    open(name, attributes, at) {
      if (BLOCKS.has(name)) flush(at);
      roles.push(roleOf(attributes) ?? roles[roles.length - 1] ?? 'other');
      const told = attributes.title ?? attributes.datetime ?? '';
      if (/\d{4}/.test(told) && /\d{1,2}[:.]\d{2}/.test(told)) {
        flush(at);
        moment = told;
      }
    },
    text(part, at) {
      if (text === '' && moment === null) start = at;
      text += part.replace(/[\r\n]+/g, ' ');
    },
    close(name, end) {
      if (BLOCKS.has(name)) flush(end);
      roles.pop();
    }
  };
  const flush = (end: number): void => {
    const role = roles[roles.length - 1] ?? 'other';
    const offset = offsetOf(start);
    const length = offsetOf(end) - offset;
    if ((text.trim() !== '' || moment !== null) && length > 0)
      out.push({ text: text.trim(), role, moment, offset, length });
    text = '';
    moment = null;
    start = end;
  };
  readMarkup(page, listener, { isXml: false });
  flush(page.length);
  return out;
}

interface Moment {
  date: WrittenDate;
  time: WrittenTime;
  zone: number | null;
}

/** `23.11.2026 21:41:05 UTC+01:00` and the like. */
function momentIn(text: string): Moment | null {
  const dated = dateAt(text.trim());
  const rest = dated
    ? text
        .trim()
        .slice(dated.end)
        .replace(/^[T,\s]+/, '')
    : '';
  const timed = timeAt(rest);
  if (!dated || !timed) return null;
  const zone = /(?:UTC|GMT)?([+-])(\d{2}):?(\d{2})|Z\s*$/.exec(rest);
  const minutes = zone?.[1] ? Number(`${zone[1]}1`) * (Number(zone[2]) * 60 + Number(zone[3])) : 0;
  return { date: dated.date, time: timed.time, zone: zone ? minutes : null };
}

/** Entries that begin where an element carries the moment; one without a name is by the same writer. */
function byElements(blocks: Block[], path: string, zone: string): ChatLog | null {
  const moments = blocks.map(({ moment }) => (moment === null ? null : momentIn(moment)));
  const known = moments.flatMap((moment) => moment ?? []);
  if (known.length < 3) return null;
  const order = orderOf(
    known.map(({ date }) => date),
    false
  );
  const entries: LogEntry[] = [];
  let sender: string | null = null;
  let current: LogEntry | null = null;
  for (const [i, block] of blocks.entries()) {
    const moment = moments[i];
    if (moment) {
      const local = momentOf(
        moment.date,
        moment.time,
        order,
        moment.zone === null ? zone : 'Etc/UTC'
      );
      const at: number | null = local === null ? null : local - (moment.zone ?? 0) * 60_000;
      current = { at, sender, side: null, text: '', offset: block.offset, length: block.length };
      entries.push(current);
      if (block.role !== 'text') continue;
    }
    if (!current || block.text === '') continue;
    current.length = block.offset + block.length - current.offset;
    if (block.role === 'name') sender = current.sender = block.text;
    else if (block.role === 'text') current.text += (current.text === '' ? '' : '\n') + block.text;
  }
  const said = entries.filter((entry) => entry.text !== '' && entry.sender !== null);
  if (said.length < entries.length / 3 || said.length < 3) return null;
  return {
    path,
    entries: entries.filter(({ text }) => text !== ''),
    title: null,
    zoneless: known.some((moment) => moment.zone === null),
    order: null,
    isShort: false
  };
}
