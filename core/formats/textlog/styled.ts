import { readMarkup } from '../../host';
import type { ChatLog, LogEntry } from './entries';
import type { LogSide } from './flags';
import {
  ctimeWithin,
  dateAt,
  dateWithin,
  momentOf,
  orderOf,
  timeAt,
  usualDigits,
  type WrittenDate,
  type WrittenTime
} from './moment';
import type { DecodedText } from './text';

/** Elements that can be an entry of a page. */
const BOXES = new Set(['div', 'li', 'tr', 'td', 'p', 'article', 'section', 'dd', 'blockquote']);
/** Elements inside each other beyond this are no page that a program wrote. */
const DEEPEST = 200;

/** An element with what stands in it, piece by piece. */
interface Open {
  name: string;
  /** Classes and what its style and attributes say of its side, of all elements within too. */
  marks: Set<string>;
  pieces: Piece[];
  start: number;
  /** An entry lies within, so that this is none. */
  isOuter: boolean;
}

interface Piece {
  text: string;
  isName: boolean;
}

interface Box {
  marks: Set<string>;
  date: WrittenDate | null;
  time: WrittenTime | null;
  sender: string | null;
  text: string;
  /** The pieces of the text. */
  texts: string[];
  start: number;
  end: number;
}

/**
 * Reads a page whose entries are elements that hold a time of day and a text.
 * Who wrote is told by names where there are any, else by the one mark (a
 * class, a side, a colour) in which the entries differ.
 */
export function readStyledLog(
  { text: page, offsetOf }: DecodedText,
  path: string,
  zone: string
): ChatLog | null {
  const boxes = withNames(boxesIn(page));
  const entries = boxes.filter(({ time, text }) => time !== null && text !== '');
  if (entries.length < 3) return null;
  const order = orderOf(
    boxes.flatMap(({ date }) => date ?? []),
    false
  );
  const sides = sidesOf(entries.map(({ marks }) => marks));
  const dated = withDays(boxes);
  const read = dated.map(({ box, date }): LogEntry => {
    const offset = offsetOf(box.start);
    return {
      at: date && momentOf(date, box.time!, order, zone),
      sender: box.sender,
      side: sides ? sideOf(box.marks, sides) : null,
      text: box.text,
      offset,
      length: Math.max(1, offsetOf(box.end) - offset)
    };
  });
  const told = read.filter(({ side, sender }) => side !== null || sender !== null);
  if (told.length < read.length * 0.5 || read.every(({ at }) => at === null)) return null;
  return { path, entries: read, title: titleOf(page), zoneless: true, order: null, isShort: false };
}

/** Entries with the day of their own, or of the heading before them. */
function withDays(boxes: readonly Box[]): { box: Box; date: WrittenDate | null }[] {
  let day: WrittenDate | null = null;
  return boxes.flatMap((box) => {
    if (box.date) day = box.date;
    return box.time !== null && box.text !== '' ? [{ box, date: box.date ?? day }] : [];
  });
}

function titleOf(page: string): string | null {
  return /<title[^>]*>([^<]{1,100})</i.exec(page)?.[1]?.trim() ?? null;
}

function boxesIn(page: string): Box[] {
  const boxes: Box[] = [];
  const stack: Open[] = [];
  /** The element whose text goes on. */
  let going: Open | null = null;
  readMarkup(
    page,
    {
      open(name, attributes, at) {
        going = null;
        if (stack.length >= DEEPEST) return;
        stack.push({
          name,
          marks: marksOf(attributes),
          pieces: momentPieces(attributes),
          start: at,
          isOuter: false
        });
      },
      text(text) {
        const top = stack[stack.length - 1];
        if (!top || (text.trim() === '' && top !== going)) return;
        // Entities cut a text in pieces that belong together; elements between them do not.
        if (top === going) top.pieces[top.pieces.length - 1]!.text += text;
        else top.pieces.push({ text, isName: isNamed(top.marks) });
        going = top;
      },
      close(name, end) {
        going = null;
        const closed = stack[stack.length - 1];
        if (!closed || closed.name !== name) return;
        stack.pop();
        close(closed, stack[stack.length - 1], end, boxes);
      }
    },
    { isXml: false }
  );
  return boxes;
}

function close(closed: Open, parent: Open | undefined, end: number, boxes: Box[]): void {
  if (/^(script|style|head|title)$/.test(closed.name)) return;
  const isDay =
    /^h[1-6]$/.test(closed.name) || (BOXES.has(closed.name) && closed.pieces.length === 1);
  if (isDay && !closed.isOuter) {
    const day = dayOf(closed.pieces.map(({ text }) => text).join(' '));
    if (day) {
      boxes.push({
        marks: closed.marks,
        date: day,
        time: null,
        sender: null,
        text: '',
        texts: [],
        start: closed.start,
        end
      });
      if (parent) parent.isOuter = true;
      return;
    }
  }
  const box = BOXES.has(closed.name) && !closed.isOuter ? boxOf(closed, end) : null;
  if (box) boxes.push(box);
  if (!parent) return;
  if (box || closed.isOuter) {
    parent.isOuter = true;
    return;
  }
  for (const mark of closed.marks) parent.marks.add(mark);
  for (const piece of closed.pieces) parent.pieces.push(piece);
}

/** A text that is a date and nothing else. */
function dayOf(text: string): WrittenDate | null {
  const usual = usualDigits(text.trim());
  if (
    usual.length > 60 ||
    /\d[:.h]\d{2}/.test(usual.replace(/\d{1,4}[./-]\d{1,2}[./-]\d{1,4}/, ''))
  )
    return null;
  return ctimeWithin(usual)?.date ?? dateAt(usual)?.date ?? dateWithin(usual)?.date ?? null;
}

/** An element with a time among its pieces and a text beside it; null for others. */
function boxOf({ marks, pieces, start }: Open, end: number): Box | null {
  let time: WrittenTime | null = null;
  let date: WrittenDate | null = null;
  let sender: string | null = null;
  const texts: string[] = [];
  for (const { text, isName } of pieces) {
    const trimmed = text.trim();
    const moment: Moment | null = time === null ? momentOnly(trimmed) : null;
    if (moment) ({ time, date } = moment);
    else if (isName && sender === null) sender = trimmed.replace(/:$/, '');
    else if (trimmed !== '') texts.push(trimmed);
  }
  return time !== null && texts.length > 0
    ? { marks, date, time, sender, text: texts.join('\n'), texts, start, end }
    : null;
}

/** Share of the entries that must begin with a name for what they begin with to be names. */
const MOSTLY_NAMED = 0.95;
/** Different names at most, as a share of the entries. */
const MOST_NAMES = 0.3;
const LONGEST_NAME = 64;

/** Where no element is marked as a name, but nearly all entries begin with one of a few texts and more follows: those are the names. */
function withNames(boxes: Box[]): Box[] {
  const entries = boxes.filter(({ time, texts }) => time !== null && texts.length > 0);
  if (entries.some(({ sender }) => sender !== null)) return boxes;
  const first = entries.flatMap(({ texts }) =>
    texts.length > 1 && texts[0]!.length <= LONGEST_NAME ? [texts[0]!] : []
  );
  const names = new Set(first);
  const few = names.size >= 2 && names.size <= Math.max(2, entries.length * MOST_NAMES);
  if (!few || first.length < entries.length * MOSTLY_NAMED) return boxes;
  return boxes.map((box) => {
    const [name, ...rest] = box.texts;
    if (box.time === null || name === undefined || rest.length === 0 || !names.has(name))
      return box;
    return { ...box, sender: name.replace(/:$/, ''), text: rest.join('\n'), texts: rest };
  });
}

interface Moment {
  date: WrittenDate | null;
  time: WrittenTime;
}

/** A text that is a time of day, with or without a date before it, and nothing else. */
function momentOnly(text: string): Moment | null {
  const usual = usualDigits(text.replace(/^[[(]|[\])]$/g, '').trim());
  if (usual.length > 50) return null;
  const dated = dateAt(usual);
  const rest = dated ? usual.slice(dated.end).replace(/^(?:[T,\s]|at|um|-)+/, '') : usual;
  const timed = timeAt(rest);
  return timed && rest.slice(timed.end).trim() === ''
    ? { date: dated?.date ?? null, time: timed.time }
    : null;
}

function momentPieces({ title, datetime }: Record<string, string>): Piece[] {
  const told = datetime ?? title ?? '';
  return momentOnly(told)?.date ? [{ text: told, isName: false }] : [];
}

/** What may tell one entry from another: classes, and what a style says of side and colour. */
function marksOf(attributes: Record<string, string>): Set<string> {
  const marks = (attributes.class ?? '')
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  for (const key of [
    'align',
    'bgcolor',
    'color',
    'dir',
    'data-direction',
    'data-from',
    'data-side'
  ])
    if (attributes[key]) marks.push(`${key}=${attributes[key].toLowerCase()}`);
  const style = (attributes.style ?? '').toLowerCase();
  for (const [, key, value] of style.matchAll(
    /(text-align|float|color|background(?:-color)?|margin-left|margin-right|justify-content|align-self)\s*:\s*([^;]+)/g
  ))
    marks.push(`${key}=${value!.trim()}`);
  return new Set(marks);
}

const NAMES = /(^|[-_])(from|sender|author|nick|name|user)($|[-_])/;

function isNamed(marks: ReadonlySet<string>): boolean {
  return [...marks].some((mark) => NAMES.test(mark) && !mark.includes('='));
}

const OWN =
  /(^|[-_=])(me|mine|my|own|self|sent|send|out|outgoing|outbound|right|to|tx|local|flex-end|end|owner)($|[-_])/;
const OTHER =
  /(^|[-_=])(them|their|other|others|peer|received|recv|in|incoming|inbound|left|from|rx|remote|flex-start|start|contact)($|[-_])/;

/** The mark of the owner's entries and that of the others: nearly every entry has one of them, none has both. */
function sidesOf(list: readonly ReadonlySet<string>[]): Map<string, LogSide> | null {
  const counts = new Map<string, number>();
  for (const marks of list) for (const mark of marks) counts.set(mark, (counts.get(mark) ?? 0) + 1);
  const told = [...counts].filter(([, n]) => n < list.length);
  for (const [own] of told.filter(([mark]) => OWN.test(mark) && !OTHER.test(mark)))
    for (const [other] of told.filter(([mark]) => OTHER.test(mark) && !OWN.test(mark))) {
      const fitting = list.filter((marks) => marks.has(own) !== marks.has(other)).length;
      if (fitting >= list.length * 0.9)
        return new Map([
          [own, 'outgoing'],
          [other, 'incoming']
        ]);
    }
  return onlyOwn(list, told);
}

/** Some pages mark the owner's entries alone. */
function onlyOwn(
  list: readonly ReadonlySet<string>[],
  told: [string, number][]
): Map<string, LogSide> | null {
  const [own] =
    told.find(([mark, n]) => OWN.test(mark) && !OTHER.test(mark) && n >= list.length * 0.1) ?? [];
  return own === undefined
    ? null
    : new Map<string, LogSide>([
        [own, 'outgoing'],
        ['', 'incoming']
      ]);
}

function sideOf(marks: ReadonlySet<string>, sides: ReadonlyMap<string, LogSide>): LogSide | null {
  for (const mark of marks) {
    const side = sides.get(mark);
    if (side) return side;
  }
  return sides.get('') ?? null;
}
