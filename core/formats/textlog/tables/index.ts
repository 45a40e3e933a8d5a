import { decodeWhole } from '../text';
import { csvTable } from './csv';
import { fieldsTable } from './fields';
import { jsonTable } from './json';
import type { LogTable } from './types';
import { xmlTables } from './xml';

export { isSheet } from './csv';
export type { LogTable } from './types';

/** A document is parsed whole, so it may not be larger than this. */
const MOST_BYTES = 96 << 20;

/** Tables that a structured text holds: elements of XML, objects of JSON, records of a list with headings. */
export function tablesInText(bytes: Uint8Array, path: string): LogTable[] {
  if (bytes.length > MOST_BYTES) return [];
  const head = decodeWhole(bytes.subarray(0, 400)).text.trimStart();
  if (/^[[{]/.test(head))
    return [jsonTable(decodeWhole(bytes), path)].flatMap((table) => table ?? []);
  if (/^<(?!\s*(!doctype html|html))/i.test(head) || head.startsWith('<?xml'))
    return xmlTables(decodeWhole(bytes), path);
  return [csvTable(bytes, path) ?? fieldsTable(bytes, path)].flatMap((table) => table ?? []);
}
