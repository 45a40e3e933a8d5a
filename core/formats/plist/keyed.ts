import { asDict, PlistUid, type PlistValue } from './types';

const DEEPEST = 100;

/**
 * Resolves a keyed archive (`$archiver`, `$objects`, `$top`): references are
 * replaced by what they name, wrapped arrays, dictionaries, strings and data
 * by their contents. Other objects stay maps of their fields. A reference
 * that leads back to an object around it gives null. A value that is no such
 * archive is returned as it is.
 */
export function unarchive(value: PlistValue): PlistValue {
  const archive = asDict(value);
  const objects = archive?.get('$objects');
  const top = asDict(archive?.get('$top'));
  if (!archive?.has('$archiver') || !Array.isArray(objects) || !top) return value;
  const root = top.get('root') ?? [...top.values()][0] ?? null;
  return new KeyedArchive(objects).resolve(root, 0);
}

class KeyedArchive {
  /** Each object is resolved once, however often others name it: a small archive can name itself over and over. */
  private readonly resolved = new Map<number, PlistValue>();
  private readonly open = new Set<number>();

  constructor(private readonly objects: readonly PlistValue[]) {}

  resolve(value: PlistValue, depth: number): PlistValue {
    if (depth > DEEPEST) return null;
    if (value instanceof PlistUid) return this.object(value.index, depth);
    if (Array.isArray(value)) return value.map((item) => this.resolve(item, depth + 1));
    return value instanceof Map ? this.unwrap(value, depth) : value;
  }

  private object(index: number, depth: number): PlistValue {
    const known = this.resolved.get(index);
    if (known !== undefined) return known;
    const target = this.objects[index] ?? null;
    if (target === '$null' || this.open.has(index)) return null;
    this.open.add(index);
    const value = this.resolve(target, depth + 1);
    this.open.delete(index);
    this.resolved.set(index, value);
    return value;
  }

  private unwrap(object: Map<string, PlistValue>, depth: number): PlistValue {
    const of = (key: string): PlistValue => this.resolve(object.get(key) ?? null, depth + 1);
    const list = object.get('NS.objects');
    const keys = object.get('NS.keys');
    if (Array.isArray(list) && Array.isArray(keys)) {
      const names = keys.map((key) => this.resolve(key, depth + 1));
      const values = list.map((item) => this.resolve(item, depth + 1));
      return new Map(names.map((name, i) => [nameOf(name), values[i] ?? null]));
    }
    if (Array.isArray(list)) return list.map((item) => this.resolve(item, depth + 1));
    for (const key of ['NS.string', 'NS.data', 'NS.bytes']) if (object.has(key)) return of(key);
    const time = object.get('NS.time');
    if (typeof time === 'number') return new Date(978_307_200_000 + time * 1000);
    const fields = [...object.keys()].filter((key) => key !== '$class');
    return new Map(fields.map((key) => [key, of(key)]));
  }
}

/** The name of an entry; what is no text or number has none that could be asked for. */
function nameOf(value: PlistValue): string {
  return typeof value === 'object' ? '' : String(value);
}
