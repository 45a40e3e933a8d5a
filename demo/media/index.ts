import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Where the files lie in the checkout, from wherever this module was bundled to. */
function madeFolder(): string {
  for (let at = dirname(fileURLToPath(import.meta.url)); ; at = dirname(at)) {
    const folder = join(at, 'demo/media/made');
    if (existsSync(folder)) return folder;
    if (at === dirname(at)) throw new Error('The pictures of the demo are not in this checkout.');
  }
}

/** A file that people of the demo send each other; `make.ts` made it. */
export function media(name: string): Uint8Array {
  return readFileSync(join(madeFolder(), name));
}

/** A contact card (RFC 6350). */
export function contactCard(name: string, phone: string, organisation: string): Uint8Array {
  const lines = [
    'BEGIN:VCARD',
    'VERSION:4.0',
    `FN:${name}`,
    `ORG:${organisation}`,
    `TEL;TYPE=cell:${phone}`,
    'END:VCARD'
  ];
  return Buffer.from(`${lines.join('\r\n')}\r\n`);
}

/** A place that was sent, as a card with its coordinates (RFC 6350, section 6.5.2). */
export function placeCard(name: string, latitude: number, longitude: number): Uint8Array {
  const lines = [
    'BEGIN:VCARD',
    'VERSION:4.0',
    'KIND:location',
    `FN:${name}`,
    `GEO:geo:${latitude},${longitude}`,
    'END:VCARD'
  ];
  return Buffer.from(`${lines.join('\r\n')}\r\n`);
}
