import creator from 'bplist-creator';

/** Values that a property list can hold; numbers that are whole become integers. */
export type Plain =
  string | number | boolean | Date | Buffer | Uid | Plain[] | { [key: string]: Plain };

/** A reference inside a keyed archive. */
export class Uid {
  constructor(readonly UID: number) {}
}

/** A binary property list, written by an independent package. */
export function binaryPlist(value: Plain): Buffer {
  // The package makes its buffers by an old call, which is nothing to tell users of.
  const { noDeprecation } = process;
  process.noDeprecation = true;
  try {
    return creator(value as object);
  } finally {
    process.noDeprecation = noDeprecation;
  }
}

/** An XML property list. */
export function xmlPlist(value: Plain): Buffer {
  const head = '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n';
  return Buffer.from(`${head}${xmlValue(value)}\n</plist>\n`);
}

function xmlValue(value: Plain): string {
  if (typeof value === 'string') return `<string>${escaped(value)}</string>`;
  if (typeof value === 'boolean') return value ? '<true/>' : '<false/>';
  if (typeof value === 'number') {
    return Number.isInteger(value) ? `<integer>${value}</integer>` : `<real>${value}</real>`;
  }
  if (value instanceof Date) return `<date>${value.toISOString().slice(0, 19)}Z</date>`;
  if (Buffer.isBuffer(value)) return `<data>\n${value.toString('base64')}\n</data>`;
  if (Array.isArray(value)) return `<array>${value.map(xmlValue).join('\n')}</array>`;
  const pairs = Object.entries(value).map(
    ([key, inner]) => `<key>${escaped(key)}</key>${xmlValue(inner as Plain)}`
  );
  return `<dict>${pairs.join('\n')}</dict>`;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
}
