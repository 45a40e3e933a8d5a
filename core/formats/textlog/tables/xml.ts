import { readMarkup } from '../../../host';
import type { DecodedText } from '../text';
import { tableOf, type LogRow, type LogTable } from './types';

/** Elements inside each other beyond this are no entries of a log; each would hand its fields up through all the others. */
const DEEPEST = 64;

interface Open {
  name: string;
  attributes: Record<string, string>;
  text: string;
  start: number;
  /** Fields of what lies inside, by the names of the elements on the way. */
  inner: Map<string, string>;
}

/**
 * Reads an XML document whose elements repeat: each kind of element that
 * stands often becomes a table, its attributes and what lies inside it its
 * columns.
 */
export function xmlTables({ text, offsetOf }: DecodedText, path: string): LogTable[] {
  const rows = rowsByElement(text);
  return [...rows].flatMap(([name, list]) => {
    const placed = list.map(({ fields, offset, length }) => {
      const start = offsetOf(offset);
      return { fields, offset: start, length: offsetOf(offset + length) - start };
    });
    return [tableOf(name, path, placed)];
  });
}

function rowsByElement(text: string): Map<string, LogRow[]> {
  const rows = new Map<string, LogRow[]>();
  const stack: Open[] = [];
  readMarkup(
    text,
    {
      open(name, attributes, at) {
        stack.push({
          name: name.toLowerCase(),
          attributes,
          text: '',
          start: at,
          inner: new Map()
        });
      },
      text(part) {
        const top = stack[stack.length - 1];
        if (top) top.text += part;
      },
      close(_, behind) {
        const closed = stack.pop();
        if (!closed || stack.length >= DEEPEST) return;
        const fields = fieldsOf(closed);
        const parent = stack[stack.length - 1];
        if (parent) handUp(parent, closed, fields);
        // The document itself is no entry.
        if (fields.size < 2 || !parent) return;
        if (!FLOW.has(closed.name)) for (const around of stack) tellAround(around, fields);
        const end = Math.min(behind, text.length);
        const row = { fields, offset: closed.start, length: Math.max(0, end - closed.start) };
        const list = rows.get(closed.name);
        if (list) list.push(row);
        else rows.set(closed.name, [row]);
      }
    },
    { isXml: true }
  );
  return rows;
}

/** Attributes that name the account that a log belongs to. */
const OWN = /^(account|owner|self|me|local|user|my.*)$/i;

/** What holds the entries tells of the conversation. */
function tellAround({ attributes }: Open, fields: Map<string, string>): void {
  for (const [key, value] of Object.entries(attributes)) {
    const name = `${OWN.test(key) ? 'own' : 'chat'}_${key.toLowerCase()}`;
    // Counts and versions of the document say nothing of who talks.
    if (!fields.has(name) && !/^(count|version|xmlns.*|xml:.*|type|encoding)$/i.test(key))
      fields.set(name, value);
  }
}

function fieldsOf({ attributes, text, inner }: Open): Map<string, string> {
  const fields = new Map<string, string>();
  for (const [key, value] of Object.entries(attributes)) {
    // Writers of such files put the word for nothing where nothing is.
    if (value !== 'null') fields.set(key.toLowerCase(), value);
  }
  for (const [key, value] of inner) if (!fields.has(key)) fields.set(key, value);
  const own = text.trim();
  if (own !== '') fields.set('text', [fields.get('text'), own].filter(Boolean).join(' '));
  return fields;
}

const FLOW = new Set(['div', 'span', 'p', 'b', 'i', 'u', 'a', 'font', 'body', 'html', 'br']);
const MOST_INNER = 60;

/** An inner element's fields become fields of the outer one; running text joins its text. */
function handUp(parent: Open, closed: Open, fields: Map<string, string>): void {
  if (FLOW.has(closed.name)) {
    const text = fields.get('text') ?? '';
    parent.text += closed.name === 'br' ? '\n' : text;
    return;
  }
  for (const [key, value] of fields) {
    if (parent.inner.size >= MOST_INNER) return;
    const name = key === 'text' ? closed.name : `${closed.name}_${key}`;
    if (!parent.inner.has(name)) parent.inner.set(name, value);
  }
}
