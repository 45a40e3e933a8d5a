import { tableOf, type LogRow, type LogTable } from './types';

const LEAST_ROWS = 3;

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Reads JSON: one object a line, or a document with a list of objects at any depth. */
export function jsonTable(bytes: Uint8Array, path: string): LogTable | null {
  const rows = lineRows(bytes) ?? documentRows(bytes);
  return rows && rows.length >= LEAST_ROWS ? tableOf('entries', path, rows) : null;
}

const utf8 = new TextDecoder();

function lineRows(bytes: Uint8Array): LogRow[] | null {
  const rows: LogRow[] = [];
  for (let start = 0; start < bytes.length;) {
    const found = bytes.indexOf(10, start);
    const end = found < 0 ? bytes.length : found;
    const text = utf8.decode(bytes.subarray(start, end)).trim();
    if (text !== '') {
      const value = parse(text);
      const damaged = value === undefined;
      if (damaged ? rows.length < LEAST_ROWS : !isObject(value)) return null;
      if (!damaged)
        rows.push({ fields: fieldsOf(value as object), offset: start, length: end - start });
    }
    start = end + 1;
  }
  return rows;
}

function parse(text: string): Json | undefined {
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    if (error instanceof SyntaxError) return undefined;
    throw error;
  }
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

function documentRows(bytes: Uint8Array): LogRow[] | null {
  const document = parse(utf8.decode(bytes));
  if (document === undefined) return null;
  const listed = new Map<string, { object: object; parent: object | null }[]>();
  collect(document, '', null, listed);
  const best = [...listed].sort((a, b) => b[1].length - a[1].length)[0];
  if (!best) return null;
  const places = elementsOf(bytes).filter(({ pattern }) => pattern === best[0]);
  if (places.length !== best[1].length) return null;
  return best[1].map(({ object, parent }, i): LogRow => {
    const fields = fieldsOf(object);
    for (const [key, value] of Object.entries(parent ?? {}) as [string, Json][]) {
      // What holds the list tells of the conversation.
      if (typeof value === 'string' || typeof value === 'number')
        fields.set(`chat_${key.toLowerCase()}`, String(value));
    }
    const { start, end } = places[i]!;
    return { fields, offset: start, length: end - start };
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

/** Places of the objects that stand in lists, in the order of the document; the document is known to be well formed. */
function elementsOf(bytes: Uint8Array): Element[] {
  const out: Element[] = [];
  const stack: { list: boolean; pattern: string; element: Element | null }[] = [];
  let key = '';
  for (let at = 0; at < bytes.length; at++) {
    const top = stack[stack.length - 1];
    const pattern = !top ? '' : top.list ? `${top.pattern}[]` : `${top.pattern}.${key}`;
    switch (bytes[at]) {
      case 0x22: {
        const end = stringEnd(bytes, at);
        if (top && !top.list && isKey(bytes, end))
          key = JSON.parse(utf8.decode(bytes.subarray(at, end + 1))) as string;
        at = end;
        break;
      }
      case 0x7b: {
        const element = top?.list ? { pattern: top.pattern, start: at, end: at } : null;
        if (element) out.push(element);
        stack.push({ list: false, pattern, element });
        break;
      }
      case 0x5b:
        stack.push({ list: true, pattern, element: null });
        break;
      case 0x7d:
      case 0x5d: {
        const closed = stack.pop();
        if (closed?.element) closed.element.end = at + 1;
      }
    }
  }
  return out;
}

function stringEnd(bytes: Uint8Array, start: number): number {
  for (let at = start + 1; at < bytes.length; at++) {
    if (bytes[at] === 0x5c) at++;
    else if (bytes[at] === 0x22) return at;
  }
  return bytes.length;
}

function isKey(bytes: Uint8Array, end: number): boolean {
  let at = end + 1;
  while (bytes[at] === 0x20 || bytes[at] === 9 || bytes[at] === 10 || bytes[at] === 13) at++;
  return bytes[at] === 0x3a;
}
