import { isBinaryPlist, parseBinaryPlist } from './binary';
import { PlistError, type PlistValue } from './types';
import { isXmlPlist, parseXmlPlist } from './xml';

export { unarchive } from './keyed';
export { asBytes, asDict, asNumber, asText, asTime } from './types';
export type { PlistDict, PlistValue } from './types';

/**
 * Reads a property list, binary or XML.
 * @throws PlistError
 */
function parsePlist(bytes: Uint8Array): PlistValue {
  if (isBinaryPlist(bytes)) return parseBinaryPlist(bytes);
  if (isXmlPlist(bytes)) return parseXmlPlist(bytes);
  throw new PlistError(0, 'it begins like neither form of property list');
}

/** Like {@link parsePlist}, null when the bytes are none. */
export function tryPlist(bytes: Uint8Array): PlistValue | null {
  try {
    return parsePlist(bytes);
  } catch (error) {
    if (error instanceof PlistError || error instanceof RangeError) return null;
    throw error;
  }
}
