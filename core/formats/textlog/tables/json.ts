import type { DecodedText } from '../text';
import { tableOf, type LogRow, type LogTable } from './types';

const LEAST_ROWS = 3;
/** Lists and objects inside each other beyond this are no log; what goes over them goes over itself. */
const DEEPEST = 64;

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Reads JSON: one object a line, or a document with a list of objects at any depth. */
export function jsonTable(decoded: DecodedText, path: string): LogTable | null {
  const rows = lineRows(decoded) ?? documentRows(decoded);
  return rows && rows.length > 0 ? tableOf('entries', path, rows) : null;
}

function lineRows({ text, offsetOf }: DecodedText): LogRow[] | null {
  const rows: LogRow[] = [];
  for (let start = 0; start < text.length;) {
    const found = text.indexOf('\n', start);
    const end = found < 0 ? text.length : found;
    const line = text.slice(start, end).trim();
    if (line !== '') {
      const value = parse(line);
      const damaged = value === undefined;
      if (damaged ? rows.length < LEAST_ROWS : !isObject(value)) return null;
      if (!damaged) rows.push(rowOf(fieldsOf(value as object), start, end, offsetOf));
    }
    start = end + 1;
  }
  // A document may stand on a single line.
  return rows.length > 1 ? rows : null;
}

function rowOf(
  fields: Map<string, string>,
  start: number,
  end: number,
  offsetOf: DecodedText['offsetOf']
): LogRow {
  const offset = offsetOf(start);
  return { fields, offset, length: offsetOf(end) - offset };
}

function parse(text: string): Json | undefined {
  if (isTooDeep(text)) return undefined;
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    if (error instanceof SyntaxError) return undefined;
    throw error;
  }
}

/** Whether brackets stand inside each other deeper than any log has them. */
function isTooDeep(text: string): boolean {
  let depth = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === QUOTE) at = stringEnd(text, at);
    else if (code === OPEN_OBJECT || code === OPEN_LIST) depth++;
    else if (code === CLOSE_OBJECT || code === CLOSE_LIST) depth--;
    if (depth > DEEPEST) return true;
  }
  return false;
}

function isObject(value: Json | undefined): value is { [key: string]: Json } {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** Fields of nested objects get the names of both; lists of texts become one text. */
function fieldsOf(
  object: object,
  prefix = '',
  into = new Map<string, string>()
): Map<string, string> {
  for (const [key, value] of Object.entries(object) as [string, Json][]) {
    const name = `${prefix}${key.toLowerCase()}`;
    if (isObject(value)) fieldsOf(value, `${name}_`, into);
    else if (Array.isArray(value)) {
      const text = value.map(textOf).join('');
      if (text !== '') into.set(name, text);
    } else if (value !== null)
      into.set(name, typeof value === 'boolean' ? String(+value) : String(value));
  }
  return into;
}

/** Rich text comes as a list of texts and of objects with a text. */
function textOf(part: Json): string {
  if (typeof part === 'string') return part;
  return isObject(part) && typeof part.text === 'string' ? part.text : '';
}

interface Element {
  pattern: string;
  start: number;
  end: number;
}

function documentRows({ text, offsetOf }: DecodedText): LogRow[] | null {
  const document = parse(text);
  if (document === undefined) return null;
  const listed = new Map<string, { object: object; parent: object | null }[]>();
  collect(document, '', null, listed);
  const best = [...listed].sort((a, b) => b[1].length - a[1].length)[0];
  if (!best) return null;
  const places = elementsOf(text).filter(({ pattern }) => pattern === best[0]);
  if (places.length !== best[1].length) return null;
  return best[1].map(({ object, parent }, i): LogRow => {
    const fields = fieldsOf(object);
    for (const [key, value] of Object.entries(parent ?? {}) as [string, Json][]) {
      // What holds the list tells of the conversation.
      if (typeof value === 'string' || typeof value === 'number')
        fields.set(`chat_${key.toLowerCase()}`, String(value));
    }
    const { start, end } = places[i]!;
    return rowOf(fields, start, end, offsetOf);
  });
}

function collect(
  value: Json,
  pattern: string,
  parent: object | null,
  into: Map<string, { object: object; parent: object | null }[]>
): void {
  if (Array.isArray(value)) {
    for (const item of value) {
      if (isObject(item)) {
        const list = into.get(pattern);
        if (list) list.push({ object: item, parent });
        else into.set(pattern, [{ object: item, parent }]);
      }
      collect(item, `${pattern}[]`, parent, into);
    }
  } else if (isObject(value)) {
    for (const [key, inner] of Object.entries(value))
      collect(inner, `${pattern}.${key}`, value, into);
  }
}

const [QUOTE, BACKSLASH, COLON] = [0x22, 0x5c, 0x3a];
const [OPEN_OBJECT, CLOSE_OBJECT, OPEN_LIST, CLOSE_LIST] = [0x7b, 0x7d, 0x5b, 0x5d];

/** Places of the objects that stand in lists, in the order of the document; the document is known to be well formed. */
function elementsOf(text: string): Element[] {
  const out: Element[] = [];
  const stack: { list: boolean; pattern: string; element: Element | null }[] = [];
  let key = '';
  const patternHere = (): string => {
    const top = stack[stack.length - 1];
    return !top ? '' : top.list ? `${top.pattern}[]` : `${top.pattern}.${key}`;
  };
  for (let at = 0; at < text.length; at++) {
    const top = stack[stack.length - 1];
    switch (text.charCodeAt(at)) {
      case QUOTE: {
        const end = stringEnd(text, at);
        if (top && !top.list && isKey(text, end))
          key = JSON.parse(text.slice(at, end + 1)) as string;
        at = end;
        break;
      }
      case OPEN_OBJECT: {
        const element = top?.list ? { pattern: top.pattern, start: at, end: at } : null;
        if (element) out.push(element);
        stack.push({ list: false, pattern: patternHere(), element });
        break;
      }
      case OPEN_LIST:
        stack.push({ list: true, pattern: patternHere(), element: null });
        break;
      case CLOSE_OBJECT:
      case CLOSE_LIST: {
        const closed = stack.pop();
        if (closed?.element) closed.element.end = at + 1;
      }
    }
  }
  return out;
}

/** The quotation mark that ends a string. */
function stringEnd(text: string, start: number): number {
  for (let at = start + 1; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === BACKSLASH) at++;
    else if (code === QUOTE) return at;
  }
  return text.length;
}

function isKey(text: string, end: number): boolean {
  let at = end + 1;
  while (' \t\n\r'.includes(text[at] ?? '.')) at++;
  return text.charCodeAt(at) === COLON;
}
