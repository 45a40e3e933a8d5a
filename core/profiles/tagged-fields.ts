import { decodeStrict, isPlausibleText } from '../host';
import type { SqlValue } from '../sqlite';

/**
 * Fields inside bytes: each begins with a base-128 number that holds the
 * field's own number, shifted left by three, and how its value is kept: 0 a
 * base-128 number, 1 eight bytes, 2 a length and as many bytes, 5 four bytes.
 * The bytes of kind 2 are a text, further fields, or anything.
 */

/** One field as it is kept. */
interface TaggedField {
  number: number;
  value: bigint | Uint8Array;
}

const HIGHEST_NUMBER = 1 << 20;
const MOST_FIELDS = 2000;

/** The fields of bytes; null where the bytes are not made up of such fields to the last one. */
function fieldsOf(bytes: Uint8Array): TaggedField[] | null {
  const fields: TaggedField[] = [];
  let at = 0;
  const number = (): bigint | null => {
    let value = 0n;
    for (let shift = 0n; shift < 70n && at < bytes.length; shift += 7n) {
      const byte = bytes[at++]!;
      value |= BigInt(byte & 0x7f) << shift;
      if (byte < 0x80) return value;
    }
    return null;
  };
  while (at < bytes.length && fields.length < MOST_FIELDS) {
    const key = number();
    if (key === null) return null;
    const own = Number(key >> 3n);
    if (own < 1 || own > HIGHEST_NUMBER) return null;
    const value = valueOf(Number(key & 7n));
    if (value === null) return null;
    fields.push({ number: own, value });
  }
  return at === bytes.length && fields.length > 0 ? fields : null;

  function valueOf(kind: number): bigint | Uint8Array | null {
    if (kind === 0) return number();
    if (kind === 1) return taken(8);
    if (kind === 5) return taken(4);
    const length = kind === 2 ? number() : null;
    return length === null || length > BigInt(bytes.length - at) ? null : taken(Number(length));
  }

  function taken(length: number): Uint8Array | null {
    if (length > bytes.length - at) return null;
    at += length;
    return bytes.subarray(at - length, at);
  }
}

/** The value of the first field that a way of field numbers leads to; null where there is none. Texts as texts, other bytes as they are. */
export function taggedField(bytes: SqlValue, path: readonly number[]): SqlValue {
  let value: SqlValue | bigint = bytes;
  for (const number of path) {
    if (!(value instanceof Uint8Array)) return null;
    const found: TaggedField | undefined = fieldsOf(value)?.find((f) => f.number === number);
    if (!found) return null;
    value = found.value;
  }
  if (path.length === 0) return null;
  if (typeof value === 'bigint') return stored(value);
  return value instanceof Uint8Array ? (textOf(value) ?? value) : value;
}

/** A number as SQLite would keep it: signed, and exact. */
function stored(value: bigint): number | bigint {
  const signed = BigInt.asIntN(64, value);
  const number = Number(signed);
  return Number.isSafeInteger(number) ? number : signed;
}

function textOf(bytes: Uint8Array): string | null {
  const text = decodeStrict(bytes, 'utf-8');
  return text !== null && isPlausibleText(text) ? text : null;
}

/** Whether bytes that read as a text are a field around a shorter one: nobody writes the right number and length before a text. */
function wraps(bytes: Uint8Array): boolean {
  const [field, ...others] = fieldsOf(bytes) ?? [];
  const inner = others.length === 0 ? field?.value : undefined;
  return inner instanceof Uint8Array && inner.length >= bytes.length - 4 && textOf(inner) !== null;
}

const DEEPEST = 6;
const MOST_PATHS = 60;

/** Ways to the fields of bytes that hold a text or a number, however deep. */
export function taggedPaths(bytes: Uint8Array): number[][] {
  const paths: number[][] = [];
  const visit = (inner: Uint8Array, path: number[]): boolean => {
    const fields = fieldsOf(inner);
    if (!fields) return false;
    for (const { number, value } of fields) {
      const here = [...path, number];
      if (paths.length >= MOST_PATHS) break;
      const isNested = value instanceof Uint8Array && (textOf(value) === null || wraps(value));
      if (isNested && here.length < DEEPEST && visit(value, here)) continue;
      if (!paths.some((known) => String(known) === String(here))) paths.push(here);
    }
    return true;
  };
  visit(bytes, []);
  return paths;
}
