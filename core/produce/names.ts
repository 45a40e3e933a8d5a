import { ZonedTime } from '../shown';
import type { ProductionHead } from './model';

const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
const LONGEST = 60;

/**
 * A file name from a title that can hold anything: letters, digits, dots and
 * dashes stay, no part can climb or name a device, and the number in front
 * keeps names apart.
 */
export function safeFileName(
  number: number,
  title: string,
  ending: string,
  otherwise = 'thread'
): string {
  const plain = title
    .normalize('NFKC')
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase();
  const short = [...plain].slice(0, LONGEST).join('').replace(/-+$/, '');
  const name = short === '' || RESERVED.test(short) ? `${otherwise}${short && `-${short}`}` : short;
  return `${String(number).padStart(3, '0')}-${name}.${ending}`;
}

/** What a package is called: after its case, as far as that may be told, and when it was made. */
export function packageName({ caseName, zone, made }: ProductionHead): string {
  const { date, time } = new ZonedTime(zone).split(made);
  const name = caseName
    .normalize('NFKC')
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-+|-+$/g, '');
  const short = [...name].slice(0, LONGEST).join('');
  return `${short || 'case'}-${date}-${time.replaceAll(':', '')}`.toLowerCase();
}
