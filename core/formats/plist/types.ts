/** A value of a property list. Integers past 2^53 are bigints. */
export type PlistValue =
  | null
  | boolean
  | number
  | bigint
  | string
  | Date
  | Uint8Array
  | PlistUid
  | PlistValue[]
  | PlistDict;

export type PlistDict = Map<string, PlistValue>;

/** A reference inside a keyed archive. */
export class PlistUid {
  constructor(readonly index: number) {}
}

/** Thrown when bytes are no property list. */
export class PlistError extends Error {
  override readonly name = 'PlistError';
  constructor(
    readonly offset: number,
    readonly reason: string
  ) {
    super(`property list, offset ${offset}: ${reason}`);
  }
}

export function asDict(value: PlistValue | undefined): PlistDict | null {
  return value instanceof Map ? value : null;
}

export function asBytes(value: PlistValue | undefined): Uint8Array | null {
  return value instanceof Uint8Array ? value : null;
}

export function asText(value: PlistValue | undefined): string | null {
  return typeof value === 'string' && value !== '' ? value : null;
}

export function asNumber(value: PlistValue | undefined): number | null {
  return typeof value === 'number' || typeof value === 'bigint' ? Number(value) : null;
}

export function asTime(value: PlistValue | undefined): number | null {
  return value instanceof Date ? value.getTime() : null;
}
