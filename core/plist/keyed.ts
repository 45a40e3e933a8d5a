import { asDict, PlistUid, type PlistValue } from './types';

const DEEPEST = 100;

/**
 * Resolves a keyed archive (`$archiver`, `$objects`, `$top`): references are
 * replaced by what they name, wrapped arrays, dictionaries, strings and data
 * by their contents. Other objects stay maps of their fields. A value that is
 * no such archive is returned as it is.
 */
export function unarchive(value: PlistValue): PlistValue {
  const archive = asDict(value);
  const objects = archive?.get('$objects');
  const top = asDict(archive?.get('$top'));
  if (!archive?.has('$archiver') || !Array.isArray(objects) || !top) return value;
  const root = top.get('root') ?? [...top.values()][0] ?? null;
  return resolve(root, objects, 0);
}

function resolve(value: PlistValue, objects: PlistValue[], depth: number): PlistValue {
  if (depth > DEEPEST) return null;
  if (value instanceof PlistUid) {
    const target = objects[value.index] ?? null;
    return target === '$null' ? null : resolve(target, objects, depth + 1);
  }
  if (Array.isArray(value)) return value.map((item) => resolve(item, objects, depth + 1));
  if (!(value instanceof Map)) return value;
  return unwrap(value, objects, depth);
}

function unwrap(object: Map<string, PlistValue>, objects: PlistValue[], depth: number): PlistValue {
  const of = (key: string): PlistValue => resolve(object.get(key) ?? null, objects, depth + 1);
  const list = object.get('NS.objects');
  const keys = object.get('NS.keys');
  if (Array.isArray(list) && Array.isArray(keys)) {
    const names = keys.map((key) => resolve(key, objects, depth + 1));
    const values = list.map((item) => resolve(item, objects, depth + 1));
    return new Map(names.map((name, i) => [String(name), values[i] ?? null]));
  }
  if (Array.isArray(list)) return list.map((item) => resolve(item, objects, depth + 1));
  for (const key of ['NS.string', 'NS.data', 'NS.bytes']) if (object.has(key)) return of(key);
  const time = object.get('NS.time');
  if (typeof time === 'number') return new Date(978_307_200_000 + time * 1000);
  const fields = [...object.keys()].filter((key) => key !== '$class');
  return new Map(fields.map((key) => [key, of(key)]));
}
