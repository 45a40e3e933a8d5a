import { asBytes, asDict, asNumber, tryPlist } from '../formats/plist';
import { textOfTypedStream } from './typed-stream';

const EPOCH_2001 = 978_307_200_000;

/**
 * Wordings of an edited message: a property list whose `ec` holds, for each
 * part of the message, a list of `t` (archived attributed string) and `d`
 * (seconds since 2001), oldest first. The parts' texts are joined by wording.
 */
export function editsOf(bytes: Uint8Array): { body: string; at: number | null }[] {
  const parts = asDict(asDict(tryPlist(bytes) ?? undefined)?.get('ec'));
  if (!parts) return [];
  return [...parts.values()].flatMap((history) =>
    Array.isArray(history) ? history.flatMap((entry) => wording(asDict(entry))) : []
  );
}

function wording(entry: ReturnType<typeof asDict>): { body: string; at: number | null }[] {
  const archived = asBytes(entry?.get('t'));
  const body = archived && textOfTypedStream(archived);
  if (!body) return [];
  const seconds = asNumber(entry?.get('d'));
  return [{ body, at: seconds === null ? null : Math.floor(seconds * 1000) + EPOCH_2001 }];
}
