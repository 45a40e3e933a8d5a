import type { SqlValue } from '../sqlite';

/** A value inside JSON, as a store would keep it by itself. */
export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Longer texts are no record of a message. */
const MOST_LETTERS = 1 << 20;

/** What was parsed last: the fields of one record are asked for one after the other. */
let last: { text: string; value: Json | undefined } = { text: '', value: undefined };

/** A text as JSON; undefined when it is none. */
export function parseJson(text: string): Json | undefined {
  if (last.text === text) return last.value;
  const value = /^\s*[{[]/.test(text) && text.length <= MOST_LETTERS ? parsed(text) : undefined;
  last = { text, value };
  return value;
}

function parsed(text: string): Json | undefined {
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    // Nested beyond what the engine goes through is no record either.
    if (error instanceof SyntaxError || error instanceof RangeError) return undefined;
    throw error;
  }
}

/** The field of a text that is JSON; null when the text is none, or has no such field. */
export function fieldOf(text: SqlValue, path: readonly string[]): SqlValue {
  if (typeof text !== 'string') return null;
  let value = parseJson(text);
  for (const key of path) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, key)) return null;
    value = Array.isArray(value) ? value[Number(key)] : value[key];
  }
  return asStored(value);
}

function asStored(value: Json | undefined): SqlValue {
  if (value === undefined || value === null) return null;
  if (typeof value === 'boolean') return value ? 1 : 0;
  return typeof value === 'object' ? null : value;
}

const MOST_FIELDS = 60;
const DEEPEST = 4;

/** Paths of the fields of an object that hold a single value. */
export function fieldsIn(value: Json, path: string[] = [], into: string[][] = []): string[][] {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return into;
  for (const [key, inner] of Object.entries(value)) {
    if (into.length >= MOST_FIELDS) break;
    if (typeof inner === 'object' && inner !== null) {
      if (path.length + 1 < DEEPEST) fieldsIn(inner, [...path, key], into);
    } else into.push([...path, key]);
  }
  return into;
}
