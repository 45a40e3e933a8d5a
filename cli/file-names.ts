/** Where a file lies: as text, or as the bytes of its name where they are no text. */
export type DiskPath = string | Uint8Array;

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** A file name as it is shown; bytes that are no UTF-8 stand as `\xNN`, so that different names stay different. */
export function shownName(raw: Uint8Array): string {
  try {
    return strict.decode(raw);
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
  }
  let shown = '';
  for (let at = 0; at < raw.length;) {
    const length = characterAt(raw, at);
    shown +=
      length > 0
        ? strict.decode(raw.subarray(at, at + length))
        : `\\x${raw[at]!.toString(16).padStart(2, '0')}`;
    at += Math.max(1, length);
  }
  return shown;
}

/** Bytes of the character at a place; 0 where none is whole there. */
function characterAt(raw: Uint8Array, at: number): number {
  for (let length = 1; length <= 4 && at + length <= raw.length; length++) {
    try {
      strict.decode(raw.subarray(at, at + length));
      return length;
    } catch (error) {
      if (!(error instanceof TypeError)) throw error;
    }
  }
  return 0;
}

/** A path below a folder; stays text as long as all of it is. */
export function joined(folder: DiskPath, name: Uint8Array): DiskPath {
  const shown = Buffer.from(name).toString('utf8');
  const isText = Buffer.from(shown, 'utf8').equals(name);
  if (typeof folder === 'string' && isText) return `${folder}/${shown}`;
  return Buffer.concat([Buffer.from(folder as string), Buffer.from('/'), name]);
}

/** What tells paths apart in a map. */
export function keyOf(path: DiskPath): string {
  return typeof path === 'string' ? path : `\0${Buffer.from(path).toString('latin1')}`;
}

/** As the system's calls take it. */
export function forSystem(path: DiskPath): string | Buffer {
  return typeof path === 'string' ? path : Buffer.from(path);
}
